// Flow over a backward-facing step (Driver and Seegmiller 1985): where does it come back to the
// wall?
#include <cmath>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

/// The mesh without some of its cells; faces that lose one are a boundary of their own, the last.
VolumeMesh without(const VolumeMesh& m, const std::function<bool(const Vec3&)>& gone,
                   const std::string& name) {
  std::vector<int> number(static_cast<std::size_t>(m.cells), -1);
  VolumeMesh out;
  for (int c = 0; c < m.cells; ++c)
    if (!gone(m.cell_centre[static_cast<std::size_t>(c)]))
      number[static_cast<std::size_t>(c)] = out.cells++;
  out.points = m.points, out.face_start = {0};
  const auto add = [&](int f, bool turned) {
    const auto first = m.face_points.begin() + m.face_start[static_cast<std::size_t>(f)],
               last = m.face_points.begin() + m.face_start[static_cast<std::size_t>(f) + 1];
    const auto at = out.face_points.insert(out.face_points.end(), first, last);
    if (turned) std::reverse(at, out.face_points.end());
    out.face_start.push_back(static_cast<int>(out.face_points.size()));
  };
  std::vector<std::pair<int, bool>> bared;
  for (int f = 0; f < m.interior_faces(); ++f) {
    const int a = number[static_cast<std::size_t>(m.cell_below[static_cast<std::size_t>(f)])],
              b = number[static_cast<std::size_t>(m.cell_above[static_cast<std::size_t>(f)])];
    if (a >= 0 && b >= 0)
      add(f, false), out.cell_below.push_back(a), out.cell_above.push_back(b);
    else if (a >= 0 || b >= 0)
      bared.push_back({f, a < 0});
  }
  for (const Boundary& p : m.boundaries) {
    out.boundaries.push_back({p.name, p.kind, out.faces(), 0});
    for (int f = p.first; f < p.first + p.count; ++f)
      if (const int c = number[static_cast<std::size_t>(m.cell_below[static_cast<std::size_t>(f)])];
          c >= 0)
        add(f, false), out.cell_below.push_back(c), ++out.boundaries.back().count;
  }
  out.boundaries.push_back({name, BoundaryKind::part, out.faces(), static_cast<int>(bared.size())});
  for (const auto& [f, turned] : bared)
    add(f, turned),
        out.cell_below.push_back(
            number[static_cast<std::size_t>(turned ? m.cell_above[static_cast<std::size_t>(f)]
                                                   : m.cell_below[static_cast<std::size_t>(f)])]);
  out.derive();
  return out;
}

/// Lengths in step heights; the boundary layer grows from far ahead until it is 1.5 high at 4
/// before the step.
Result step(TurbulenceModel model, double band, const std::string& what) {
  constexpr double re = 36000, ahead = 84;
  std::vector<double> x;
  for (const double s : graded(0.02, 1.06, 3, ahead)) x.insert(x.begin(), -s);
  for (const double s : graded(0.02, 1.06, 0.12, 12))
    if (s > 0) x.push_back(s);
  for (const double s : graded(0.12, 1.08, 2, 28))
    if (s > 0) x.push_back(12 + s);
  // Fine at the lower floor, at the upper floor on both sides, and at the roof.
  std::vector<double> y;
  const std::vector<double> half_step = graded(0.0012, 1.2, 0.05, 0.5);
  for (const double s : half_step) y.push_back(s - 1);
  for (std::size_t i = half_step.size() - 1; i-- > 0;) y.push_back(-half_step[i]);
  const std::vector<double> low = graded(0.0012, 1.2, 0.25, 5), high = graded(0.02, 1.25, 0.3, 3);
  for (const double s : low)
    if (s > 0) y.push_back(s);
  for (std::size_t i = high.size() - 1; i-- > 0;) y.push_back(8 - high[i]);
  const int columns = static_cast<int>(x.size()) - 1, rows = static_cast<int>(y.size()) - 1;
  const VolumeMesh whole = structured_mesh(columns, rows, 1, [&](const Vec3& a) {
    return Vec3{x[static_cast<std::size_t>(std::lround(a.x * columns))],
                y[static_cast<std::size_t>(std::lround(a.y * rows))], 0.1 * a.z};
  });
  const VolumeMesh mesh = without(
      whole, [](const Vec3& p) { return p.x < 0 && p.y < 0; }, "step");
  FlowCase c = test::laminar(1 / re, {test::stream({1, 0, 0}), test::outflow(), test::wall(),
                                      test::wall(), test::slip(), test::slip(), test::wall()});
  c.options.turbulence = model;
  c.options.courant = 10;
  c.initial_velocity = {1, 0, 0};
  Solver solver(mesh, c);
  // The floor behind the step: friction turns from backward to forward.
  const auto reattachment = [&] {
    const auto loads = solver->state().loads;
    const auto& floor = solver.share().boundaries[2];
    double last = 0, x0 = 0, f0 = 0;
    for (int i = floor.first; i < floor.first + floor.count; ++i) {
      const double at = solver.share().boundary_faces[static_cast<std::size_t>(i)].centre.x,
                   f = loads[static_cast<std::size_t>(i)].friction.x;
      if (f0 < 0 && f >= 0) last = x0 + (at - x0) * -f0 / (f - f0);
      x0 = at, f0 = f;
    }
    return last;
  };
  for (int i = 0; i < 600; ++i) solver->iterate();
  const int iterations = 600 + solver.until_steady(reattachment, 1e-3, 5000, 200);
  return {{{"reattachment over h, " + what + (band > 0 ? ", middle of its band" : ""),
            model == TurbulenceModel::sst ? 6.55 : 6.26, band, reattachment()}},
          mesh.cells,
          iterations};
}

}  // namespace

std::vector<Case> step_cases() {
  return {{"step-sst",
           "backward-facing step, measured 6.26 h (Driver and Seegmiller 1985); SST 5.9 to 7.2",
           [] { return step(TurbulenceModel::sst, 0.65 / 6.55, "SST"); }},
          {"step-k-epsilon", "backward-facing step (Driver and Seegmiller 1985)",
           [] { return step(TurbulenceModel::k_epsilon, 0, "k-epsilon"); }}};
}

}  // namespace dunefield::validation
