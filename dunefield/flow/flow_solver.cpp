#include <dunefield/flow/flow_solver.hpp>

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>

namespace dunefield {
FlowSolver::FlowSolver(const FlowMesh& mesh, const FlowCase& flow_case, Communicator& comm)
    : mesh_(mesh),
      case_(flow_case),
      comm_(comm),
      state_(mesh, flow_case, comm),
      momentum_(state_),
      continuity_(state_),
      recombination_(state_) {
  // Given fluxes on all sides must cancel but for the error of sampling them at face centres, which
  // is spread over the cells.
  constexpr double sampling_error = 0.02;
  if (continuity_.enclosed() && continuity_.inflow() > 0 &&
      std::abs(mass_balance()) > sampling_error)
    throw InputError("air flows in but there is no outflow", "flow case",
                     "give one boundary the outflow condition");
  const TurbulenceTraits& model = traits_of(flow_case.options.turbulence);
  turbulence_ = model.equations(state_);
  if (!flow_case.fast) return;
  if (!model.fast_air)
    throw InputError(
        fmt::format("fast air does not go with \"{}\"", model.word), "flow case",
        "choose one of " + turbulence_words([](const TurbulenceTraits& t) { return t.fast_air; }));
  energy_ = std::make_unique<Energy>(state_);
}

void FlowSolver::refresh_all() {
  for_each_field([&](const auto& field) {
    if (field.carried && !(state_.*field.values).empty()) state_.halo.refresh(state_.*field.values);
  });
  for (std::size_t f = 0; f < mesh_.faces(); ++f) {
    const auto a = static_cast<std::size_t>(mesh_.below[f]),
               b = static_cast<std::size_t>(mesh_.above[f]);
    const double w = mesh_.weight[f];
    state_.flux[f] = dot(mesh_.area[f], state_.u[a] * w + state_.u[b] * (1 - w));
  }
  state_.for_boundary(
      [&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
        if (bc.kind == ConditionKind::outflow)
          state_.boundary_flux[i] = dot(b.area, state_.u[at(b.cell)]);
      });
  continuity_.project_flux();
  state_.update_velocity_gradient();
  state_.update_pressure_gradients();
}

void FlowSolver::start() {
  if (turbulence_) turbulence_->start();
  refresh_all();
}

void FlowSolver::start_from(Fields fields) {
  if (comm_.rank() == 0) give_turbulence_to(fields, case_.options.turbulence);
  if (turbulence_) turbulence_->start();
  for_each_field([&](const auto& field) {
    if (!field.carried || (state_.*field.values).empty()) return;
    const auto& given = fields.*field.values;
    if (comm_.any(comm_.rank() == 0 && !given.empty()))
      state_.*field.values = scatter_cells(mesh_, given, comm_);
  });
  growth_ = StepGrowth(StepGrowth::from_another);
  refresh_all();
}

void FlowSolver::begin_time(double step) {
  recombination_.end();
  state_.time.begin(state_, step);
}

void FlowSolver::next_moment() {
  state_.time.shift(state_);
  of_moment_ = 0;
}

SolverState FlowSolver::save() const {
  SolverState out;
  for_each_field([&](const auto& field) {
    if (field.carried) out.*field.values = state_.*field.values;
  });
  out.iteration = iteration_, out.growth = growth_;
  out.flux = state_.flux, out.boundary_flux = state_.boundary_flux;
  out.wall_slope = state_.wall_slope, out.step_rate = state_.step_rate;
  for (const LimitedCell& l : state_.gradients.limited_cells())
    out.limited.push_back(l.cell), out.limited_share.push_back(l.share);
  out.time = state_.time;
  return out;
}

namespace {

/// A state may come from a file: nothing in it is believed before its sizes fit.
bool fits(const SolverState& saved, const FlowState& here) {
  std::vector<std::size_t> sizes;
  SolverState::visit_values(here, [&](const auto& v) { sizes.push_back(v.size()); });
  std::size_t next = 0;
  bool good = saved.iteration >= 0 && saved.limited.size() == saved.limited_share.size() &&
              saved.recombination.fits(at(here.mesh.own));
  SolverState::visit_values(saved, [&](const auto& v) { good &= v.size() == sizes[next++]; });
  good &= saved.step_rate.size() == here.step_rate.size();
  for (const int cell : saved.limited) good &= cell >= 0 && at(cell) < here.u.size();
  TimeLevels::visit_values(saved.time,
                           [&](const auto& v) { good &= v.empty() || v.size() == here.u.size(); });
  return good && (!saved.time.active() || saved.time.last.u.size() == here.u.size());
}

}  // namespace

void FlowSolver::restore(const SolverState& saved) {
  if (!fits(saved, state_))
    throw InputError("the saved state does not fit the mesh", "saved state",
                     "delete it; the run then starts anew");
  // For the sake of the multigrid's aggregates, which are those of the geometry.
  continuity_.project_flux();
  iteration_ = saved.iteration, growth_ = saved.growth;
  for_each_field([&](const auto& field) {
    if (field.carried) state_.*field.values = saved.*field.values;
  });
  state_.flux = saved.flux, state_.boundary_flux = saved.boundary_flux;
  state_.wall_slope = saved.wall_slope, state_.step_rate = saved.step_rate;
  std::vector<LimitedCell> limited;
  for (std::size_t i = 0; i < saved.limited.size(); ++i)
    limited.push_back({saved.limited[i], saved.limited_share[i]});
  state_.limit(std::move(limited));
  state_.time = saved.time;
  if (!saved.recombination.before.empty()) recombination_.go_on_from(saved.recombination);
  state_.update_pressure_gradients();
}

IterationReport FlowSolver::iterate() {
  const FlowOptions& o = case_.options;
  limit_runaways();
  state_.update_velocity_gradient();
  if (turbulence_) turbulence_->update_eddy_viscosity();
  if (energy_) state_.update_gas();
  state_.update_wall_shear();
  if (!state_.time.active()) growth_.next(iteration_);
  const PseudoTimeStep step = pseudo_time_step(o, growth_.grown());
  momentum_.solve(step, follow());
  continuity_.correct(momentum_, o.pressure_reduction, o.pressure_most_iterations);
  if (energy_) energy_->solve(step.turbulence_courant);
  if (turbulence_is_due()) turbulence_->solve(step.turbulence_courant);
  ++iteration_, ++of_moment_;
  const std::optional<int> lost = lost_cell();
  // All that the ranks must agree on, in one reduction.
  const auto residual = momentum_.residual_sums(), imbalance = continuity_.imbalance_sums(),
             inflow = state_.inflow_pressure_sums();
  std::array<double, 7> sums = {residual[0], residual[1], imbalance[0],    imbalance[1],
                                inflow[0],   inflow[1],   lost ? 1.0 : 0.0};
  comm_.sum(sums);
  if (sums[6] > 0) report_divergence(lost);
  state_.update_loads({sums[4], sums[5]});
  IterationReport report;
  report.iteration = iteration_;
  report.momentum_residual = std::sqrt(sums[0] / sums[1]) * case_.reference_length /
                             (case_.reference_speed * case_.reference_speed);
  report.mass_imbalance = sums[2] / std::max(sums[3], 1e-300);
  report.pressure_iterations = continuity_.last_solve().iterations;
  report.recombined = recombination_.phase() == Recombination::Phase::working;
  if (recombination_.after(iteration_)) state_.update_pressure_gradients();
  report.change = recombination_.change();
  if (iteration_ % Recombination::every == 0) growth_.note_change(report.change);
  return report;
}

/// Once layers have grown, turbulence in every second iteration is enough, and saves a seventh of
/// the time; so it is within a moment, whose first iteration has it. The models with epsilon take
/// short steps.
bool FlowSolver::turbulence_is_due() const {
  constexpr int begun = 50;  // with none profiles need a quarter more iterations
  const bool long_steps = traits_of(case_.options.turbulence).long_steps;
  const int number = state_.time.active() ? of_moment_ : iteration_;
  return turbulence_ && (iteration_ < begun || number % 2 == 0 || !long_steps);
}

/// What the local steps go by is the present flow while it begins, then its mean since. A memory
/// that fades is not enough: what it leaves of the swings takes momentum out of the mean by its
/// share of the present times the covariance of rate and velocity, a half of what it was with a
/// hundred iterations. With means from the start a sphere's wake never came to rest that does so
/// otherwise. Steps of a flow in time are the moment's own.
double FlowSolver::follow() const {
  constexpr int begun = 100;
  return state_.time.active() ? 1 : 1.0 / std::max(1, iteration_ - begun);
}

std::optional<int> FlowSolver::lost_cell() const {
  constexpr double largest = 20;  // of the reference speed: beyond any suction peak
  double fastest = 0;
  int cell = 0;
  for (int c = 0; c < mesh_.own; ++c) {
    const double u2 = norm2(state_.u[at(c)]);
    if (!(u2 <= fastest)) fastest = u2, cell = c;
    if (!std::isfinite(u2)) break;
  }
  const bool lost = !std::isfinite(fastest) || !std::isfinite(momentum_.residual_sums()[0]) ||
                    fastest > std::pow(largest * case_.reference_speed, 2);
  return lost ? std::optional(cell) : std::nullopt;
}

/// All ranks name the same place: that of the first rank that lost it.
void FlowSolver::report_divergence(std::optional<int> cell) const {
  const auto places =
      comm_.all_gather(cell ? std::vector<Vec3>{mesh_.centre[at(*cell)]} : std::vector<Vec3>{});
  const Vec3 x =
      std::find_if(places.begin(), places.end(), [](const auto& p) { return !p.empty(); })->front();
  throw FlowError(fmt::format("the flow diverged in iteration {} near ({:.3f}, {:.3f}, {:.3f}) m",
                              iteration_, x.x, x.y, x.z),
                  "run", "refine the mesh there, or lower flow.courant");
}

/// Beside a badly shaped cell the second-order scheme may be unstable whatever the pseudo-time step
/// is. The faster such a cell and its neighbours are beyond any suction peak, the more they are
/// limited to first order; as they calm down they are restored. Shares change smoothly, since a
/// cell that switched between two schemes would shake the flow around it each time.
void FlowSolver::limit_runaways() {
  constexpr double begins = 3, first_order = 4.5;  // of the reference speed
  constexpr double kept = 0.95, least = 0.01;      // of a share, each iteration; then none
  const double slow2 = std::pow(begins * case_.reference_speed, 2);
  const auto excess = [&](int c) {
    const double u2 = norm2(state_.u[at(c)]);
    if (!(u2 > slow2)) return 0.0;
    const double x =
        std::min(1.0, (std::sqrt(u2) / case_.reference_speed - begins) / (first_order - begins));
    return x * x * (3 - 2 * x);
  };
  std::map<int, double> share;
  for (const auto& [c, before] : state_.gradients.limited_cells())
    if (const double now = restores_ ? kept * before : before; now > least) share[c] = now;
  std::vector<char> fast;
  for (int c = 0; c < mesh_.cells; ++c)
    if (const double x = excess(c); x > least) {
      fast.resize(at(mesh_.cells));
      fast[at(c)] = 1;
      if (c < mesh_.own) share[c] = std::max(share[c], x);
    }
  for (std::size_t f = 0; !fast.empty() && f < mesh_.faces(); ++f)
    for (const auto& [c, other] :
         {std::pair{mesh_.below[f], mesh_.above[f]}, std::pair{mesh_.above[f], mesh_.below[f]}})
      if (c < mesh_.own && fast[at(other)]) share[c] = std::max(share[c], excess(other));
  std::vector<LimitedCell> limited;
  for (const auto& [c, s] : share) limited.push_back({c, s});
  state_.limit(std::move(limited));
}

std::vector<Vec3> FlowSolver::first_order_cells() const {
  constexpr double counts = 0.1;
  std::vector<Vec3> mine;
  for (const auto& [c, share] : state_.gradients.limited_cells())
    if (share > counts) mine.push_back(mesh_.centre[at(c)]);
  return comm_.gather(std::move(mine));
}

void FlowSolver::close_mass() {
  state_.update_velocity_gradient();
  state_.update_wall_shear();
  momentum_.solve(pseudo_time_step(case_.options, growth_.grown()), follow());
  continuity_.correct(momentum_, 1e-8, 200);
  state_.update_velocity_gradient();
  state_.update_wall_shear();
  state_.update_loads();
}

double FlowSolver::mass_balance() const {
  double net = 0;
  for (const double phi : state_.boundary_flux) net += phi;
  return comm_.sum(net) / std::max(continuity_.inflow(), 1e-300);
}

Fields FlowSolver::gather() const {
  Fields out;
  for_each_field([&](const auto& field) {
    if (!(state_.*field.values).empty() && (field.owned_by(case_.options.turbulence) || energy_))
      out.*field.values = gather_cells(mesh_, state_.*field.values, comm_);
  });
  return out;
}

}  // namespace dunefield
