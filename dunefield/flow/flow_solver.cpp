#include <dunefield/flow/flow_solver.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/flow/k_epsilon.hpp>
#include <dunefield/flow/spalart_allmaras.hpp>
#include <dunefield/flow/sst.hpp>
#include <dunefield/flow/wall_law.hpp>

namespace dunefield {

namespace {

std::unique_ptr<TurbulenceEquations> equations_of(TurbulenceModel model, FlowState& state) {
  switch (model) {
    case TurbulenceModel::sst:
      return std::make_unique<Sst>(state);
    case TurbulenceModel::spalart_allmaras:
      return std::make_unique<SpalartAllmaras>(state);
    case TurbulenceModel::k_epsilon:
    case TurbulenceModel::realizable_k_epsilon:
      return std::make_unique<KEpsilon>(state, model == TurbulenceModel::realizable_k_epsilon);
    case TurbulenceModel::laminar:
      break;
  }
  return nullptr;
}

/// epsilon = C_mu k omega, there and back.
void to_dissipation(std::vector<double>& omega, const std::vector<double>& k) {
  for (std::size_t c = 0; c < omega.size(); ++c) omega[c] *= wall_law::c_mu * k[c];
}
void to_frequency(std::vector<double>& epsilon, const std::vector<double>& k) {
  for (std::size_t c = 0; c < epsilon.size(); ++c) epsilon[c] /= wall_law::c_mu * k[c];
}

}  // namespace

void FlowFields::scale_speed(double factor) {
  for (Vec3& v : velocity) v *= factor;
  for (auto* f : {&pressure, &k})
    for (double& v : *f) v *= factor * factor;
  for (auto* f : {&omega, &nu_tilde, &nu_t})
    for (double& v : *f) v *= factor;
}

FlowSolver::FlowSolver(const FlowMesh& mesh, const FlowCase& flow_case, Communicator& comm)
    : mesh_(mesh),
      case_(flow_case),
      comm_(comm),
      state_(mesh, flow_case, comm),
      momentum_(state_),
      continuity_(state_) {
  // Given fluxes on all sides must cancel but for the error of sampling them at face centres, which
  // is spread over the cells.
  constexpr double sampling_error = 0.02;
  if (continuity_.enclosed() && continuity_.inflow() > 0 &&
      std::abs(mass_balance()) > sampling_error)
    throw InputError("air flows in but there is no outflow", "flow case",
                     "give one patch the outflow condition");
  turbulence_ = equations_of(flow_case.options.turbulence, state_);
}

void FlowSolver::refresh_all() {
  state_.halo.refresh(state_.u);
  state_.halo.refresh(state_.p);
  state_.halo.refresh(state_.k);
  state_.halo.refresh(state_.omega);
  if (!state_.nu_tilde.empty()) state_.halo.refresh(state_.nu_tilde);
  for (std::size_t f = 0; f < mesh_.faces(); ++f) {
    const auto a = static_cast<std::size_t>(mesh_.below[f]),
               b = static_cast<std::size_t>(mesh_.above[f]);
    const double w = mesh_.weight[f];
    state_.flux[f] = dot(mesh_.area[f], state_.u[a] * w + state_.u[b] * (1 - w));
  }
  state_.for_boundary(
      [&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
        if (bc.kind == BoundaryKind::outflow)
          state_.boundary_flux[i] = dot(b.area, state_.u[static_cast<std::size_t>(b.cell)]);
      });
  continuity_.project_flux();
  state_.update_velocity_gradient();
  state_.update_pressure_gradients();
}

void FlowSolver::start() {
  if (turbulence_) turbulence_->start();
  refresh_all();
}

void FlowSolver::start_from(const FlowFields& fields) {
  state_.u = scatter_cells(mesh_, fields.velocity, comm_);
  state_.p = scatter_cells(mesh_, fields.pressure, comm_);
  if (turbulence_) {
    turbulence_->start();
    const auto take = [&](std::vector<double>& own, const std::vector<double>& all) {
      if (comm_.any(comm_.rank() == 0 && !all.empty())) own = scatter_cells(mesh_, all, comm_);
    };
    if (state_.nu_tilde.empty()) {
      const bool dissipation = solves_dissipation(case_.options.turbulence);
      if (dissipation) to_frequency(state_.omega, state_.k);
      take(state_.k, fields.k), take(state_.omega, fields.omega);
      if (dissipation) to_dissipation(state_.omega, state_.k);
    } else {
      take(state_.nu_tilde, fields.nu_tilde);
    }
  }
  refresh_all();
}

SolverState FlowSolver::save() const {
  const FlowState& s = state_;
  return {iteration_,   s.u,
          s.p,          s.k,
          s.omega,      s.nu_tilde,
          s.flux,       s.boundary_flux,
          s.wall_slope, s.gradients.held_cells()};
}

void FlowSolver::restore(const SolverState& saved) {
  FlowState& s = state_;
  // for the sake of the multigrid's aggregates, which are those of the geometry
  continuity_.project_flux();
  iteration_ = saved.iteration;
  s.u = saved.u, s.p = saved.p, s.k = saved.k, s.omega = saved.omega, s.nu_tilde = saved.nu_tilde;
  s.flux = saved.flux, s.boundary_flux = saved.boundary_flux, s.wall_slope = saved.wall_slope;
  for (const int c : saved.held) s.gradients.hold(c);
  s.update_pressure_gradients();
}

IterationReport FlowSolver::iterate() {
  const FlowOptions& o = case_.options;
  state_.update_velocity_gradient();
  if (turbulence_) turbulence_->update_eddy_viscosity();
  state_.update_wall_shear();
  momentum_.solve(o.courant);
  continuity_.correct(momentum_, o.pressure_reduction, o.pressure_most_iterations);
  if (turbulence_) turbulence_->solve(o.courant * o.turbulence_courant_ratio);
  IterationReport report;
  report.iteration = ++iteration_;
  check_bounded();
  report.momentum_residual = momentum_.residual() * case_.reference_length /
                             (case_.reference_speed * case_.reference_speed);
  report.mass_imbalance = continuity_.imbalance();
  report.pressure_iterations = continuity_.last_solve().iterations;
  return report;
}

void FlowSolver::check_bounded() {
  constexpr double largest = 20;  // of the reference speed: beyond any suction peak
  double fastest = 0;
  int cell = 0;
  for (int c = 0; c < mesh_.own; ++c) {
    const double u2 = norm2(state_.u[static_cast<std::size_t>(c)]);
    if (!(u2 <= fastest)) fastest = u2, cell = c;
    if (!std::isfinite(u2)) break;
  }
  const bool held = hold_runaways();
  const bool lost = !std::isfinite(fastest) || !std::isfinite(momentum_.residual()) ||
                    fastest > std::pow(largest * case_.reference_speed, 2);
  const double worst = comm_.max(lost ? 2 : held ? 1 : 0);
  // those of the cells held are none from now on
  if (worst == 1) state_.update_pressure_gradients();
  if (worst < 2) return;
  // All ranks name the same place: that of the first rank that lost it.
  const auto places = comm_.all_gather(
      lost ? std::vector<Vec3>{mesh_.centre[static_cast<std::size_t>(cell)]} : std::vector<Vec3>{});
  const Vec3 x =
      std::find_if(places.begin(), places.end(), [](const auto& p) { return !p.empty(); })->front();
  throw FlowError(fmt::format("the flow diverged in iteration {} near ({:.3f}, {:.3f}, {:.3f}) m",
                              iteration_, x.x, x.y, x.z),
                  "run", "refine the mesh there, or lower flow.courant");
}

/// Beside a badly shaped cell the second-order scheme may be unstable whatever the pseudo-time step
/// is. Such cells and their neighbours go on with first order; how many, the result tells. True if
/// there are new ones.
bool FlowSolver::hold_runaways() {
  constexpr double runaway = 4;  // of the reference speed
  const double limit = std::pow(runaway * case_.reference_speed, 2);
  const auto fast = [&](int c) { return norm2(state_.u[static_cast<std::size_t>(c)]) > limit; };
  std::vector<int> found;
  for (int c = 0; c < mesh_.cells; ++c)
    if (fast(c)) found.push_back(c);
  if (found.empty()) return false;
  const std::size_t before = state_.gradients.held_cells().size();
  for (const int c : found)
    if (c < mesh_.own) state_.gradients.hold(c);
  for (std::size_t f = 0; f < mesh_.faces(); ++f)
    for (const auto& [c, other] :
         {std::pair{mesh_.below[f], mesh_.above[f]}, std::pair{mesh_.above[f], mesh_.below[f]}})
      if (c < mesh_.own && fast(other)) state_.gradients.hold(c);
  return state_.gradients.held_cells().size() > before;
}

int FlowSolver::first_order_cells() const {
  return static_cast<int>(comm_.sum(static_cast<double>(state_.gradients.held_cells().size())));
}

void FlowSolver::close_mass() {
  state_.update_velocity_gradient();
  state_.update_wall_shear();
  momentum_.solve(case_.options.courant);
  continuity_.correct(momentum_, 1e-8, 200);
  state_.update_velocity_gradient();
  state_.update_wall_shear();
}

double FlowSolver::mass_balance() const {
  double net = 0;
  for (const double phi : state_.boundary_flux) net += phi;
  return comm_.sum(net) / std::max(continuity_.inflow(), 1e-300);
}

FlowFields FlowSolver::gather() const {
  FlowFields f;
  f.velocity = gather_cells(mesh_, state_.u, comm_);
  f.pressure = gather_cells(mesh_, state_.p, comm_);
  if (!state_.nu_tilde.empty()) {
    f.nu_tilde = gather_cells(mesh_, state_.nu_tilde, comm_);
  } else if (turbulence_) {
    f.k = gather_cells(mesh_, state_.k, comm_);
    f.omega = gather_cells(mesh_, state_.omega, comm_);
    if (solves_dissipation(case_.options.turbulence)) to_frequency(f.omega, f.k);
  }
  if (turbulence_) f.nu_t = gather_cells(mesh_, state_.nu_t, comm_);
  return f;
}

}  // namespace dunefield
