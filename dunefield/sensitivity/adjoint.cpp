#include <dunefield/sensitivity/adjoint.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/linear/gmres.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// Measured on a van: less exact pressures save no time.
constexpr int momentum_sweeps = 6, pressure_iterations = 20;
constexpr double preconditioning_courant = 3;
constexpr double pressure_reduction = 0.01;

/// About the inverse of -J^T: J is about (-A, -G; -D, -C) with the momentum matrix A, the pressure
/// force G, the divergence D and the fluxes' own answer to pressure C.
class Preconditioner {
 public:
  Preconditioner(FrozenFlow& flow, double courant) : flow_(flow), s_(flow.state()) {
    Momentum& momentum = flow.momentum();
    flow.residual();
    momentum.solve({courant, courant, courant, 1}, 1);
    const FlowMesh& m = s_.mesh;
    transposed_ = momentum.matrix();
    for (std::size_t f = 0; f < m.faces(); ++f)
      std::swap(transposed_.entry[at(m.slots.of_below[f])],
                transposed_.entry[at(m.slots.of_above[f])]);
    correction_ = momentum.correction();
    flow.continuity().prepare(momentum);
    flow.residual();  // the solution has changed it
  }

  /// Square roots of both diagonals: divided by them, equations of large and of small cells count
  /// alike.
  struct Scale {
    std::vector<double> u, p;
    FlowVector over(FlowVector v) const {
      parallel_for(v.u.size(), [&](std::size_t c) { v.u[c] *= 1 / u[c], v.p[c] /= p[c]; });
      return v;
    }
    FlowVector times(FlowVector v) const {
      parallel_for(v.u.size(), [&](std::size_t c) { v.u[c] *= u[c], v.p[c] *= p[c]; });
      return v;
    }
  };
  Scale scale() const {
    Scale s;
    const std::vector<double>& p = flow_.continuity().matrix().diagonal;
    for (std::size_t c = 0; c < at(s_.mesh.own); ++c)
      s.u.push_back(std::sqrt(static_cast<double>(transposed_.diagonal[c]))),
          s.p.push_back(std::sqrt(p[c]));
    return s;
  }

  FlowVector operator()(const FlowVector& r) {
    const FlowMesh& m = s_.mesh;
    const std::size_t n = at(m.own);
    FlowVector out(n);
    gauss_seidel(m.graph, transposed_, r.u, out.u, momentum_sweeps, halo());
    std::vector<double> rhs = r.p;
    for (std::size_t f = 0; f < m.faces(); ++f) {
      const auto a = at(m.below[f]), b = at(m.above[f]);
      const double push = dot(m.area[f], out.u[a] - out.u[b]), w = m.weight[f];
      rhs[a] -= w * push, rhs[b] -= (1 - w) * push;
    }
    for (const auto& b : m.boundary_faces)
      if (!at_outflow(b)) rhs[at(b.cell)] -= dot(b.area, out.u[at(b.cell)]);
    flow_.continuity().solve_for(rhs, out.p, pressure_reduction, pressure_iterations);
    for (std::size_t f = 0; f < m.faces(); ++f) {
      const auto a = at(m.below[f]), b = at(m.above[f]);
      const double w = m.weight[f];
      const Vec3 pull = m.area[f] * (out.p[a] - out.p[b]);
      out.u[a] -= pull * (w * correction_[a] / m.volume[a]);
      out.u[b] -= pull * ((1 - w) * correction_[b] / m.volume[b]);
    }
    for (const auto& b : m.boundary_faces)
      if (at_outflow(b)) {
        const auto c = at(b.cell);
        out.u[c] -= b.area * (out.p[c] * correction_[c] / m.volume[c]);
      }
    return out;
  }

 private:
  bool at_outflow(const FlowMesh::BoundaryFace& b) const {
    if (outflow_.empty()) {
      outflow_.assign(s_.mesh.boundary_faces.size(), 0);
      s_.for_boundary([&](std::size_t i, const auto&, const BoundaryCondition& bc) {
        outflow_[i] = bc.kind == ConditionKind::outflow;
      });
    }
    return outflow_[static_cast<std::size_t>(&b - s_.mesh.boundary_faces.data())];
  }
  Halo& halo() { return const_cast<FlowState&>(s_).halo; }  // one rank: it has nothing to do

  FrozenFlow& flow_;
  const FlowState& s_;
  Matrix<float> transposed_;
  std::vector<double> correction_;
  mutable std::vector<char> outflow_;
};

/// Pressure over density of the undisturbed stream: the mean at the inflow.
double stream_pressure(const FlowState& s) {
  double sum = 0, area = 0;
  s.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind == ConditionKind::stream) sum += s.boundary_pressure[i] * b.size, area += b.size;
  });
  return area > 0 ? sum / area : 0;
}

/// Damping for steps of one cell crossing, m3/s: half of what flows over a cell's faces, or what
/// would at a share of the stream's speed. Only where the air has lost its total pressure, as in
/// wakes, where flows are unsteady: elsewhere it would spoil the balance of large terms that a
/// gradient is what is left of.
std::vector<double> dampings(const FlowState& s) {
  constexpr double slowest = 0.3;              // of the reference speed
  constexpr double begins = 0.1, whole = 0.4;  // of the stream's dynamic pressure
  std::vector<double> out(at(s.mesh.own), 0);
  for (std::size_t f = 0; f < s.mesh.faces(); ++f)
    for (const int c : {s.mesh.below[f], s.mesh.above[f]}) out[at(c)] += 0.5 * std::abs(s.flux[f]);
  const double speed = s.flow_case.reference_speed, p0 = stream_pressure(s);
  for (std::size_t c = 0; c < out.size(); ++c) {
    const double lost = 1 - (s.p[c] - p0 + 0.5 * norm2(s.u[c])) / (0.5 * speed * speed),
                 x = std::clamp((lost - begins) / (whole - begins), 0.0, 1.0);
    out[c] = x * x * (3 - 2 * x) * std::max(out[c], slowest * speed * s.mesh.side2[c]);
  }
  return out;
}

/// Whether a solution goes on that has come so far.
bool promises(const GmresReport& now) {
  constexpr int looked_at = 120;
  constexpr double hopeless = 0.5;
  return now.iterations < looked_at || now.reduction < hopeless;
}

}  // namespace

std::vector<Adjoint> solve_adjoint(FrozenFlow& flow, const TransposedFlow& transposed,
                                   const FlowVector& gradient, const AdjointOptions& o,
                                   const Progress& progress) {
  Preconditioner preconditioner(flow, preconditioning_courant);
  const std::vector<double> damping_of_one = dampings(flow.state());
  const Preconditioner::Scale scale = preconditioner.scale();
  const auto solve = [&](double damping, double reduction, Adjoint from) {
    FlowVector scaled = scale.times(std::move(from.lambda));
    const GmresReport report = gmres(
        [&](const FlowVector& v) {  // -J^T, damped
          const FlowVector lambda = scale.over(v);
          FlowVector w = transposed.times(lambda);
          add(w, -2, w);
          if (damping > 0)
            parallel_for(w.u.size(), [&](std::size_t c) {
              w.u[c] += lambda.u[c] * (damping_of_one[c] / damping);
            });
          return scale.over(std::move(w));
        },
        [&](const FlowVector& v) { return scale.times(preconditioner(scale.times(v))); },
        scale.over(gradient), scaled, reduction, o.most_iterations, o.kept,
        [&](const GmresReport& now) {
          progress("adjoint", std::clamp(std::log(now.reduction) / std::log(reduction), 0.0, 1.0));
          progress.check();
          return promises(now);
        });
    from.lambda = scale.over(std::move(scaled));
    from.iterations += report.iterations;
    from.reduction = report.reduction, from.damping_courant = damping;
    return from;
  };
  Adjoint nothing;
  nothing.lambda = FlowVector(gradient.u.size());
  if (Adjoint plain = solve(0, o.reduction, nothing); plain.reduction <= o.reduction)
    return {std::move(plain)};
  std::vector<Adjoint> all;
  for (const double damping : {10.0, 20.0, 40.0}) {
    Adjoint next = solve(damping, o.reduction, all.empty() ? nothing : all.back());
    if (next.reduction > o.reduction) break;
    all.push_back(std::move(next));
    if (all.size() > 2) all.erase(all.begin());  // the last two tell what damping costs
  }
  if (all.size() < 2) all.clear();  // nobody would know
  return all;
}

}  // namespace dunefield
