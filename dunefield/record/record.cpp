#include <dunefield/record/record.hpp>

#include <fmt/format.h>

#include <dunefield/base/hash.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/files/vtp.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/record/drag_decimals.hpp>
#include <dunefield/record/quantities.hpp>

namespace dunefield {

std::string Record::brief() const {
  const double qa = reference.dynamic_pressure() * reference.frontal_area;
  const WindowMean &cd = convergence.cd, &cl = convergence.cl;
  const int decimals = drag_decimals(cd.mean);
  return fmt::format("CD {:.{}f} ± {:.{}f}, CL {:+.3f} ± {:.3f}, drag {:.1f} N, {}", cd.mean,
                     decimals, cd.half_interval, decimals, cl.mean, cl.half_interval, cd.mean * qa,
                     words(status));
}

double Record::means_from_time() const {
  for (const HistoryRow& h : history)
    if (h.time > 0 && h.iteration >= convergence.window_from) return h.time;
  return 0;
}

Figures Record::figures() const {
  Figures f;
  f.run = run, f.status = status, f.why = convergence.why;
  f.iterations = static_cast<int>(history.size()), f.cells = quality.cells;
  f.parts = part_means, f.vehicles = vehicle_means;
  f.reference = reference, f.frontal_area = frontal_area, f.seconds = seconds;
  f.cd = convergence.cd, f.cl = convergence.cl, f.clf = convergence.clf, f.clr = convergence.clr,
  f.cy = convergence.cy;
  const double qa = reference.dynamic_pressure() * reference.frontal_area;
  f.drag = f.cd.mean * qa, f.lift = f.cl.mean * qa, f.side = f.cy.mean * qa;
  return f;
}

void write_open_data(const std::filesystem::path& folder, const Record& r) {
  std::vector<std::vector<double>> scalars;
  std::vector<std::vector<Vec3>> vectors;
  std::vector<NamedField> in_air, on_wall;
  // The arrays must stay where they are while they are written.
  const auto all = quantities(r);
  scalars.reserve(all.size() * 2), vectors.reserve(all.size() * 2);
  const auto add = [&](std::vector<NamedField>& list, const Quantity& q, bool air) {
    const std::string name = fmt::format("{} [{}]", q.name, q.unit.empty() ? "-" : q.unit);
    if (q.vector) {
      vectors.push_back(air ? vector_in_air(r, q.name) : vector_on_wall(r, q.name));
      list.push_back({name, {}, vectors.back()});
    } else {
      scalars.push_back(air ? scalar_in_air(r, q.name) : scalar_on_wall(r, q.name));
      list.push_back({name, scalars.back(), {}});
    }
  };
  for (const Quantity& q : all) {
    if (!q.stored) continue;
    if (q.in_air) add(in_air, q, true);
    if (q.on_wall) add(on_wall, q, false);
  }
  write_vtu(folder / "air.vtu", *r.mesh, in_air);
  write_vtp(folder / "wall.vtp", *r.mesh, on_wall);
}

std::string fingerprint_of(const VolumeMesh& m) {
  Hash hash;
  hash.add(m.points).add(m.face_start).add(m.face_points).add(m.cell_below).add(m.cell_above);
  for (const Boundary& b : m.boundaries) hash.add(b.name).add(std::string_view("\n"));
  return hash.hex();
}

}  // namespace dunefield
