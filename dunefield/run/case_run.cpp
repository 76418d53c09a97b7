#include <dunefield/run/case_run.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/record/planes.hpp>
#include <dunefield/run/hashes.hpp>
#include <dunefield/run/part_means.hpp>
#include <dunefield/run/probing.hpp>

namespace dunefield {
namespace {

constexpr int judge_every = 10, keep_every = 25;
// means that would take longer are not waited for: the swings are brought to rest if they can be
constexpr double too_many_iterations = 2000;
constexpr double back_off = 0.4;  // of the pseudo-time step, after a divergence
constexpr double cautious = 0.3;  // of it: below, cells once limited stay so

using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point began) {
  return std::chrono::duration<double>(Clock::now() - began).count();
}

/// Wall loads of all ranks by boundary face of the whole mesh, on rank 0.
std::vector<WallLoad> gather_loads(const FlowState& s) {
  struct Entry {
    int face;
    WallLoad load;
  };
  std::vector<Entry> mine;
  for (std::size_t i = 0; i < s.loads.size(); ++i)
    mine.push_back({s.mesh.boundary_faces[i].global, s.loads[i]});
  mine = s.comm.gather(std::move(mine));
  std::sort(mine.begin(), mine.end(),
            [](const Entry& a, const Entry& b) { return a.face < b.face; });
  std::vector<WallLoad> all;
  for (const Entry& e : mine) all.push_back(e.load);
  return all;
}

double backflow_share(const FlowState& s) {
  double sums[2] = {0, 0};
  s.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != ConditionKind::outflow) return;
    sums[0] += s.boundary_flux[i] < 0 ? b.size : 0;
    sums[1] += b.size;
  });
  s.comm.sum(sums);
  return sums[1] > 0 ? sums[0] / sums[1] : 0;
}

std::size_t steps_of(const std::vector<HistoryRow>& history) {
  return at(static_cast<int>(std::count_if(history.begin(), history.end(),
                                           [](const HistoryRow& h) { return h.time > 0; })));
}

/// The root's text on every rank.
std::string shared_text(std::string text, Communicator& comm) {
  std::uint64_t length = text.size();
  comm.broadcast(std::span(&length, 1));
  text.resize(length);
  comm.broadcast(std::span(text));
  return text;
}

}  // namespace

CaseRun::CaseRun(const RunSetup& setup, std::shared_ptr<const MeshResult> mesh,
                 const RunOptions& options, RunWatcher& watcher)
    : setup_(setup),
      mesh_(std::move(mesh)),
      options_(options),
      ranks_(options.ranks()),
      watcher_(watcher),
      good_(at(ranks_.count())) {
  record.reference = setup.reference();
  record.ranks = ranks_.count();
  if (!ranks_.is_root()) return;
  const MeshOptions mesh_options = setup.mesh_options();
  record.run = {
      setup.campaign,       setup.vehicle.name, setup.recipe.name,         setup.conditions.speed,
      setup.conditions.yaw, setup.tunnel.half,  mesh_options.layers.count, setup.recipe.lattice,
      hashes_of(setup),     setup.settings,     setup.coarseness(),        setup.blunt_end(),
      setup.readings.units};
  record.setup = setup_json(setup), record.setup_in_words = setup.in_words();
  record.mesh = std::shared_ptr<const VolumeMesh>(mesh_, &mesh_->mesh);
  record.run.follows = mesh_->follows;
  record.quality = mesh_->quality, record.tunnel = mesh_->tunnel;
  record.mesh_findings = mesh_->findings;
  record.vehicle = setup.common_frame().bounds;
  record.frontal_area = setup.vehicle.frontal_area;
  record.air = setup.conditions.air;
  record.checks.blockage = setup.blockage();
  key_ = {record.run.hashes.flow, fingerprint_of(mesh_->mesh)};
  find_saved();
  if (!saved_) start_ = options.start(record.findings);
  warm_ = goes_on_ ? saved_->warm : start_.has_value();
}

void CaseRun::attempt(int number) {
  ranks_.run([&](Communicator& comm) {
    const bool root = comm.rank() == 0;
    const FlowMesh share = shared_out(comm);
    FlowCase the_case = flow_case(setup_, share.boundaries);
    double of_step = std::pow(back_off, number);
    if (number == 0 && saved_ && saved_->courant > 0 && goes_on_)
      of_step = saved_->courant / setup_.flow.courant;
    comm.broadcast(std::span(&of_step, 1));
    the_case.options = with_steps_shortened(the_case.options, of_step);
    if (root) record.courant = the_case.options.courant;
    FlowSolver solver(share, the_case, comm);
    if (of_step < cautious) solver.keep_limited();
    begin(comm, solver, number);
    iterate(comm, solver);
  });
}

void CaseRun::cut_history() {
  const int kept = good_[0].iteration;
  const std::size_t before = record.history.size(), steps_before = steps_of(record.history);
  while (!record.history.empty() && record.history.back().iteration > kept)
    record.history.pop_back();
  if (before > 0) part_history_.resize(part_history_.size() / before * record.history.size());
  const std::size_t dropped = (steps_before - steps_of(record.history)) * record.probes.width();
  probe_history_.resize(probe_history_.size() - std::min(dropped, probe_history_.size()));
}

void CaseRun::forget_good() {
  for (SolverState& s : good_) s = {};
}

FlowMesh CaseRun::shared_out(Communicator& comm) const {
  if (comm.rank() != 0) return distribute(nullptr, nullptr, comm);
  const std::vector<double> distance =
      wall_distances(mesh_->mesh, flow_case(setup_, mesh_->mesh.boundaries).conditions);
  return distribute(&mesh_->mesh, &distance, comm);
}

/// A saved state of this very run is gone on from; one of the same mesh with other settings gives
/// the start.
void CaseRun::find_saved() {
  const auto& file = options_.state;
  for (const auto& tried : {file, state_before(file), options_.earlier_state}) {
    if (file.empty() || tried.empty() || saved_) continue;
    try {
      saved_ = read_saved_state(tried), saved_file_ = tried;
    } catch (const InputError& e) {
      record.findings.warn(fmt::format(
          "{}: it is left aside, what was saved before is used if there is any", e.what()));
    }
    if (saved_ && saved_->key.mesh != key_.mesh) {
      record.findings.note("the saved state belongs to another mesh: not used");
      saved_.reset();
    }
  }
  if (!saved_) return;
  const bool same_ranks = saved_->own.size() == at(ranks_.count());
  goes_on_ = saved_->key.flow == key_.flow && same_ranks;
  if (goes_on_) {
    record.history = saved_->history, part_history_ = saved_->part_history;
    if (saved_->probes == words_of(setup_.readings))
      probe_history_ = saved_->probe_history;
    else if (setup_.time)
      record.findings.note("taps or rakes were changed: their series in time begin anew");
    record.findings.note(
        fmt::format("goes on from the state saved at iteration {}", saved_->iteration));
  } else if (options_.start_from_state) {
    start_ = read_fields(saved_file_);
    record.findings.note(
        fmt::format("starts from the field saved at iteration {} {}", saved_->iteration,
                    same_ranks ? "with other settings" : "on another number of ranks"));
  }
}

void CaseRun::begin(Communicator& comm, FlowSolver& solver, int number) {
  const bool root = comm.rank() == 0;
  if (number == 0 && comm.any(root && goes_on_))
    solver.restore(read_state(shared_text(saved_file_.string(), comm), comm.rank()));
  else if (number > 0 && good(comm).iteration > 0)
    solver.restore(good(comm));
  else if (number == 0 && comm.any(root && start_))
    solver.start_from(root ? std::move(*start_) : Fields{});
  else
    solver.start();
  if (root) start_.reset(), saved_.reset();  // their memory is wanted
}

void CaseRun::save(Communicator& comm, const FlowSolver& solver) {
  if (!comm.any(comm.rank() == 0 && !options_.state.empty())) return;
  const std::string file = shared_text(options_.state.string(), comm);
  try {
    save_state(file,
               {key_,
                record.courant,
                warm_,
                solver.iteration(),
                record.history,
                part_history_,
                probe_history_,
                words_of(setup_.readings),
                {}},
               solver, comm);
  } catch (const OutputError& e) {  // on all ranks; the flow goes on, and it is tried again
    if (comm.rank() == 0 && !save_failed_)
      record.findings.warn(
          fmt::format("at iteration {} {}; the run went on", solver.iteration(), e.what()));
    save_failed_ = true;
  }
}

void CaseRun::note(const IterationReport& report, const Balance& balance, double time) {
  record.history.push_back({report.iteration, report.momentum_residual, report.mass_imbalance,
                            coefficients(balance.total(), record.reference), balance.momentum_drag,
                            report.change, report.recombined, time});
  append_parts(balance, record.reference, part_history_);
}

/// The root's decision on all ranks.
CaseRun::Decision CaseRun::decided(Communicator& comm, Decision d) const {
  comm.broadcast(std::span(&d, 1));
  return d;
}

void CaseRun::iterate(Communicator& comm, FlowSolver& solver) {
  const bool root = comm.rank() == 0;
  Decision last;
  if (!solver.state().time.active()) last = iterate_steady(comm, solver);
  if (setup_.time && !last.stop) last = advance(comm, solver);
  if (last.stop && solver.iteration() == 0) throw Cancelled();
  good(comm) = {};
  save(comm, solver);
  solver.close_mass();
  take(comm, solver);
  if (root && last.stop && !last.done) record.status = RunStatus::stopped;
}

CaseRun::Decision CaseRun::iterate_steady(Communicator& comm, FlowSolver& solver) {
  const bool root = comm.rank() == 0;
  const int most = setup_.limits.iterations, first = solver.iteration();
  const auto began = Clock::now();
  last_save_ = began;
  // A run that goes on may be settled by what is asked for now.
  Decision now = decided(comm, {options_.progress.stop(), root && first > 0 && settled()});
  while (!now.stop && !now.done && solver.iteration() < most) {
    const IterationReport report = solver.iterate();
    const Balance balance = measure_balance(solver.state(), setup_.tunnel.half);
    now = {};
    if (root) {
      note(report, balance, 0);
      const int gone = report.iteration - first;
      watcher_.iterated(record.history.back(),
                        seconds_since(began) / gone * (most - report.iteration));
      now = {options_.progress.stop(), false, seconds_since(last_save_) > options_.save_every,
             watcher_.wants_look()};
      if (report.iteration % judge_every == 0)
        now.done = settled(), now.recombine = hard_to_settle();
    }
    now = decided(comm, now);
    if (now.recombine) solver.recombine();
    keep(comm, solver, now, report.iteration % keep_every == 0);
  }
  return now;
}

CaseRun::Decision CaseRun::advance(Communicator& comm, FlowSolver& solver) {
  const double dt = setup_.time_step();
  const bool root = comm.rank() == 0;
  if (!solver.state().time.active()) solver.begin_time(dt);
  Probing probing(setup_, root ? &mesh_->mesh : nullptr, solver.state().mesh, comm);
  if (root) record.probes.probes = probing.probes();
  double reached = root && !record.history.empty() ? record.history.back().time : 0;
  comm.broadcast(std::span(&reached, 1));
  const auto steps = static_cast<int>(std::lround(setup_.time_duration() / dt)),
             first = static_cast<int>(std::lround(reached / dt));
  const auto began = Clock::now();
  last_save_ = began;
  Decision now;
  for (int step = first + 1; step <= steps && !now.stop && !now.done; ++step) {
    const IterationReport report = step_in_time(solver);
    const Balance balance = measure_balance(solver.state(), setup_.tunnel.half);
    probing.read(solver.state(), balance.undisturbed_pressure, probe_history_);
    now = {};
    if (root) {
      note(report, balance, step * dt);
      watcher_.iterated(record.history.back(),
                        seconds_since(began) / (step - first) * (steps - step));
      now = {options_.progress.stop(), false, seconds_since(last_save_) > options_.save_every,
             watcher_.wants_look()};
      // What is calm at first may start to swing: half of the time it runs in any case.
      if (step % judge_every == 0 && 2 * step >= steps) now.done = settled();
    }
    now = decided(comm, now);
    keep(comm, solver, now, step % keep_every == 0);
  }
  return now;
}

IterationReport CaseRun::step_in_time(FlowSolver& solver) const {
  solver.next_moment();
  IterationReport report = solver.iterate();
  const double first = report.momentum_residual;
  for (int i = 1; i < setup_.time->iterations; ++i) {
    report = solver.iterate();
    if (report.momentum_residual < setup_.time->fall * first) break;
  }
  return report;
}

/// One copy of the state in memory is enough: what is due to be saved waits until the kept state's
/// turn comes, and takes its place meanwhile.
void CaseRun::keep(Communicator& comm, const FlowSolver& solver, const Decision& now, bool due) {
  if (due) good(comm) = {};
  if (now.save && good(comm).iteration == 0) {
    save(comm, solver);
    if (comm.rank() == 0) last_save_ = Clock::now();
  }
  if (due) good(comm) = solver.save();
  if (!now.look) return;
  take(comm, solver);
  if (comm.rank() == 0) watcher_.look(record);
}

Convergence CaseRun::judged() const {
  return judge(record.history, record.reference, setup_.accuracy(), warm_);
}

/// What swings too much for the accuracy that is aimed at where none is given has a mean all the
/// same, with the interval that it has: comparisons know what to do with it.
Convergence CaseRun::judged_at_the_limit() const {
  constexpr AccuracyWanted usable = {0.02, 0.04};
  const Convergence strict = judged();
  if (strict.settled() || setup_.limits.drag_accuracy || setup_.limits.lift_accuracy) return strict;
  // A recombination that is not through is passed over.
  Convergence c = judge(plain_rows(record.history), record.reference, usable, warm_);
  if (c.status != RunStatus::fluctuating) return strict;
  c.why +=
      fmt::format("; its mean is known to {:.1f} %, where {:.1f} % was the target",
                  100 * c.cd.half_interval / std::abs(c.cd.mean), 100 * setup_.accuracy().drag);
  return c;
}

bool CaseRun::settled() const { return setup_.limits.until_settled && judged().settled(); }

bool CaseRun::hard_to_settle() const {
  // Shorter windows still hold some of the start-up.
  constexpr int enough = 200;
  if (!setup_.limits.recombine || record.history.size() < 1.5 * enough) return false;
  const Convergence now = judged();
  if (now.cd.count < enough) return false;
  const double needed = iterations_for(now.cd, setup_.accuracy().of_drag(now.cd.mean));
  return (needed > too_many_iterations && needed < 1e300) ||
         swings_by_itself(now, record.reference, setup_.accuracy());
}

void CaseRun::take(Communicator& comm, const FlowSolver& solver) {
  const bool half = setup_.tunnel.half;
  const Balance balance = measure_balance(solver.state(), half);
  RunChecks checks = record.checks;
  std::vector<Vec3> first_order = solver.first_order_cells();
  checks.first_order_cells = static_cast<int>(first_order.size());
  checks.mass_balance = solver.mass_balance();
  checks.backflow_share = backflow_share(solver.state());
  checks.wake_plane = wake_plane();
  const double brought = momentum_loss(solver.state(), half, checks.wake_plane);
  Fields fields = solver.gather();
  std::vector<WallLoad> loads = gather_loads(solver.state());
  if (comm.rank() != 0) return;
  first_order_cells = std::move(first_order);
  record.balance = balance, record.checks = checks;
  record.fields = std::move(fields), record.loads = std::move(loads);
  take_probe_history();
  record.last = coefficients(balance.total(), record.reference);
  record.convergence =
      solver.iteration() < setup_.limits.iterations ? judged() : judged_at_the_limit();
  record.status = record.convergence.status;
  record.part_means = part_means(record, part_history_);
  record.vehicle_means = vehicle_means(record, setup_.vehicle.group, part_history_);
  record.checks.wake_drag = brought - momentum_behind(checks.wake_plane);
}

/// The last steps of the history: all, unless other probes were read before.
void CaseRun::take_probe_history() {
  ProbeSeries& series = record.probes;
  series.values = probe_history_, series.time.clear();
  const std::size_t width = series.width();
  if (width == 0) return;
  const auto rows = static_cast<std::ptrdiff_t>(probe_history_.size() / width);
  for (auto h = record.history.end() - rows; h != record.history.end(); ++h)
    series.time.push_back(h->time);
}

/// Half a vehicle's length behind it, or less in a short tunnel.
double CaseRun::wake_plane() const {
  const Box vehicle = setup_.common_frame().bounds;
  return std::min(vehicle.hi.x + 0.5 * characteristic_length(vehicle),
                  0.5 * (vehicle.hi.x + setup_.tunnel_box().hi.x));
}

double CaseRun::momentum_behind(double x) const {
  const Fields& f = record.fields;
  std::vector<double> viscosity(f.u.size(), setup_.conditions.air.kinematic_viscosity);
  for (std::size_t c = 0; c < f.nu_t.size(); ++c) viscosity[c] += f.nu_t[c];
  return section_momentum(record.readings(), x, viscosity, record.reference.density);
}

}  // namespace dunefield
