#include <dunefield/campaign/run.hpp>

#include <algorithm>
#include <chrono>
#include <optional>
#include <thread>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/campaign/checkpoint.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/record/planes.hpp>

namespace dunefield {
namespace {

constexpr int judge_every = 10, keep_every = 25;
constexpr double back_off = 0.4;  // of the pseudo-time step, after a divergence
constexpr int most_back_offs = 2;
// of the cells: with more a run does not count as converged
constexpr double most_first_order = 0.001;

double seconds_since(std::chrono::steady_clock::time_point began) {
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
}

/// Wall loads of all ranks by boundary face of the whole mesh, on rank 0.
std::vector<WallLoad> gather_loads(const FlowState& s) {
  struct Entry {
    int face;
    WallLoad load;
  };
  const auto loads = s.wall_loads();
  std::vector<Entry> mine;
  for (std::size_t i = 0; i < loads.size(); ++i)
    mine.push_back({s.mesh.boundary_faces[i].global, loads[i]});
  if (s.comm.rank() != 0) return s.comm.send_vector(0, mine), std::vector<WallLoad>{};
  for (int r = 1; r < s.comm.size(); ++r) {
    const auto other = s.comm.receive_vector<Entry>(r);
    mine.insert(mine.end(), other.begin(), other.end());
  }
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

std::vector<double> distances_to_walls(const VolumeMesh& mesh) {
  std::vector<bool> wall;
  for (const Boundary& p : mesh.boundaries)
    wall.push_back(p.kind == BoundaryKind::part || p.kind == BoundaryKind::road);
  return wall_distances(mesh, wall);
}

/// The root's text on every rank.
std::string shared_text(std::string text, Communicator& comm) {
  std::uint64_t length = text.size();
  comm.broadcast(std::span(&length, 1));
  text.resize(length);
  comm.broadcast(std::span(text));
  return text;
}

/// One run on all ranks, over its attempts. Members that only the root has are marked.
class CaseRun {
 public:
  CaseRun(const CampaignSetup& setup, const PlacedVariant& variant, double speed, VolumeMesh* mesh,
          const Start& start, const Ranks& ranks, const RunObserver& observer, const Saving& saving)
      : setup_(setup),
        variant_(variant),
        speed_(speed),
        mesh_(mesh),
        ranks_(ranks),
        observer_(observer),
        saving_(saving),
        good_(static_cast<std::size_t>(ranks.count())) {
    result.reference = setup.reference(speed);
    result.ranks = ranks.count();
    if (!ranks.is_root()) return;
    key_ = {saving.setup, mesh_fingerprint(*mesh)};
    find_saved();
    if (!saved_ && start) start_ = start(result.findings);
  }

  ~CaseRun() {
    if (mesh_) measure_mesh();
  }
  CaseRun(const CaseRun&) = delete;
  CaseRun& operator=(const CaseRun&) = delete;

  void attempt(int number) {
    if (ranks_.is_root()) measure_mesh();
    ranks_.run([&](Communicator& comm) {
      const bool root = comm.rank() == 0;
      const FlowMesh share = shared_out(comm);
      if (root) set_measures_aside();
      FlowCase flow_case = make_case(setup_, variant_, speed_, share.boundaries);
      double courant = flow_case.options.courant * std::pow(back_off, number);
      if (number == 0 && saved_ && saved_->courant > 0 && goes_on_) courant = saved_->courant;
      comm.broadcast(std::span(&courant, 1));
      flow_case.options.courant = courant;
      if (root) result.courant = courant;
      iterate(comm, flow_case, share, number);
    });
  }
  /// After a divergence: the history up to where the next attempt begins.
  void cut_history() {
    const int kept = good_[0].iteration;
    while (!result.history.empty() && result.history.back().iteration > kept)
      result.history.pop_back();
  }
  int last_good() const { return good_[0].iteration; }
  void forget_good() {
    for (SolverState& s : good_) s = {};
  }

  /// What is read from the fields and the mesh together, once the solver's memory is free. On the
  /// root.
  void read_wake() {
    measure_mesh();
    result.wake_drag = brought_ - momentum_behind(result.wake_plane);
  }

  RunResult result;  ///< root

 private:
  void measure_mesh() {
    if (mesh_->face_area.empty()) mesh_->derive();
  }
  void set_measures_aside() {
    for (auto* v : {&mesh_->face_area, &mesh_->face_centre, &mesh_->cell_centre})
      std::vector<Vec3>().swap(*v);
    std::vector<double>().swap(mesh_->cell_volume);
  }
  FlowMesh shared_out(Communicator& comm) const {
    if (comm.rank() != 0) return distribute(nullptr, nullptr, comm);
    const std::vector<double> distance = distances_to_walls(*mesh_);
    return distribute(mesh_, &distance, comm);
  }

  /// A saved state of this very run is gone on from; one of the same mesh with other settings gives
  /// the start.
  void find_saved() {
    for (const auto& file : {saving_.file, checkpoint_before(saving_.file), saving_.earlier}) {
      if (saving_.file.empty() || file.empty() || saved_) continue;
      try {
        saved_ = read_checkpoint(file), saved_file_ = file;
      } catch (const InputError& e) {
        result.findings.warn(fmt::format(
            "{}: it is left aside, what was saved before is used if there is any", e.what()));
      }
      if (saved_ && saved_->key.mesh != key_.mesh) {
        result.findings.note("the saved state belongs to another mesh: not used");
        saved_.reset();
      }
    }
    if (!saved_) return;
    const bool same_ranks = saved_->own.size() == static_cast<std::size_t>(ranks_.count());
    goes_on_ = saved_->key.setup == key_.setup && same_ranks;
    if (goes_on_) {
      result.history = saved_->history;
      result.findings.note(
          fmt::format("goes on from the state saved at iteration {}", saved_->iteration));
    } else if (setup_.campaign.start_earlier) {
      start_ = read_fields(saved_file_);
      result.findings.note(
          fmt::format("starts from the field saved at iteration {} {}", saved_->iteration,
                      same_ranks ? "with other settings" : "on another number of ranks"));
    }
  }

  void begin(Communicator& comm, FlowSolver& solver, int number) {
    const bool root = comm.rank() == 0;
    if (number == 0 && comm.any(root && goes_on_))
      solver.restore(read_state(shared_text(saved_file_.string(), comm), comm.rank()));
    else if (number > 0 && good(comm).iteration > 0)
      solver.restore(good(comm));
    else if (number == 0 && comm.any(root && start_))
      solver.start_from(root ? *start_ : FlowFields{});
    else
      solver.start();
    if (root) start_.reset(), saved_.reset();  // their memory is wanted
  }
  SolverState& good(Communicator& comm) { return good_[at(comm.rank())]; }

  void save(Communicator& comm, const FlowSolver& solver) {
    if (!comm.any(comm.rank() == 0 && !saving_.file.empty())) return;
    const std::string file = shared_text(saving_.file.string(), comm);
    write_checkpoint(file, {key_, result.courant, solver.iteration(), result.history, {}}, solver,
                     comm);
  }

  void iterate(Communicator& comm, const FlowCase& flow_case, const FlowMesh& share, int number) {
    const bool root = comm.rank() == 0, half = setup_.campaign.tunnel.half;
    const int most = setup_.campaign.iterations;
    const auto began = std::chrono::steady_clock::now();
    auto last_save = began;
    FlowSolver solver(share, flow_case, comm);
    begin(comm, solver, number);
    bool stopped = false;
    const int first = solver.iteration();
    while (solver.iteration() < most) {
      if (comm.any(observer_.progress.stop())) {
        if (solver.iteration() == 0) throw Cancelled();
        stopped = true;
        break;
      }
      const IterationReport report = solver.iterate();
      const Coefficients c =
          coefficients(measure_balance(solver.state(), half).total(), result.reference);
      const double momentum = tunnel_momentum_drag(solver.state(), half);
      bool done = false, due = false;
      if (root) {
        result.history.push_back(
            {report.iteration, report.momentum_residual, report.mass_imbalance, c, momentum});
        const int gone = report.iteration - first;
        if (observer_.row)
          observer_.row(result.history.back(),
                        seconds_since(began) / gone * (most - report.iteration));
        if (setup_.campaign.until_settled && report.iteration % judge_every == 0)
          done = judge(result.history, result.reference, setup_.campaign.accuracy).status !=
                 RunStatus::not_converged;
        due = seconds_since(last_save) > saving_.every_seconds;
      }
      // One copy of the state in memory is enough: what is due to be saved waits until the kept
      // state's turn comes, and takes its place meanwhile.
      const bool keep = report.iteration % keep_every == 0;
      if (keep) good(comm) = {};
      if (comm.any(due) && good(comm).iteration == 0)
        save(comm, solver), last_save = std::chrono::steady_clock::now();
      if (keep) good(comm) = solver.save();
      if (comm.any(root && observer_.look_wanted && observer_.look_wanted())) {
        take(comm, solver);
        if (root) read_wake(), observer_.look(result), set_measures_aside();
      }
      if (comm.any(done)) break;
    }
    good(comm) = {};
    save(comm, solver);
    solver.close_mass();
    take(comm, solver);
    if (root && stopped) result.status = RunStatus::stopped;
  }

  /// The present state into the result.
  void take(Communicator& comm, const FlowSolver& solver) {
    const bool half = setup_.campaign.tunnel.half;
    const int held = solver.first_order_cells();
    const Balance balance = measure_balance(solver.state(), half);
    const double mass = solver.mass_balance(), backflow = backflow_share(solver.state());
    const double wake = wake_plane(), brought = tunnel_momentum_drag(solver.state(), half, wake);
    FlowFields fields = solver.gather();
    std::vector<WallLoad> loads = gather_loads(solver.state());
    if (comm.rank() != 0) return;
    result.balance = balance, result.mass_balance = mass, result.backflow_share = backflow,
    result.first_order_cells = held;
    result.fields = std::move(fields), result.loads = std::move(loads);
    result.wake_plane = wake, brought_ = brought;
    result.last = coefficients(balance.total(), result.reference);
    result.convergence = judge(result.history, result.reference, setup_.campaign.accuracy);
    result.status = result.convergence.status;
  }

  /// Half a vehicle's length behind it, or less in a short tunnel.
  double wake_plane() const {
    const double behind = setup_.vehicle_bounds.hi.x;
    return std::min(behind + 0.5 * characteristic_length(setup_.vehicle_bounds),
                    0.5 * (behind + setup_.tunnel.hi.x));
  }
  double momentum_behind(double x) const {
    std::vector<double> viscosity(result.fields.velocity.size(),
                                  setup_.campaign.air.kinematic_viscosity);
    for (std::size_t c = 0; c < result.fields.nu_t.size(); ++c)
      viscosity[c] += result.fields.nu_t[c];
    const FlowReadings readings{*mesh_,
                                result.loads,
                                result.fields.velocity,
                                result.fields.pressure,
                                result.balance.undisturbed_pressure,
                                setup_.campaign.tunnel.half};
    return section_momentum(readings, x, viscosity, result.reference.density);
  }

  const CampaignSetup& setup_;
  const PlacedVariant& variant_;
  const double speed_;
  VolumeMesh* mesh_;  ///< root
  const Ranks& ranks_;
  const RunObserver& observer_;
  const Saving& saving_;
  CheckpointKey key_;                ///< root
  std::optional<Checkpoint> saved_;  ///< root; each rank reads its own part of the file
  std::filesystem::path saved_file_;
  std::optional<FlowFields> start_;  ///< root
  bool goes_on_ = false;             ///< root
  double brought_ = 0;               ///< root: momentum that the stream brings to the wake plane, N
  /// Per rank, of those in this process: the last state that was well
  std::vector<SolverState> good_;
};

void add_findings(RunResult& r, int cells) {
  if (r.backflow_share > 0.01)
    r.findings.warn(
        fmt::format("air flows back through {:.0f} % of the outflow: a longer tunnel would help",
                    100 * r.backflow_share));
  if (r.first_order_cells > 0) {
    r.findings.warn(
        fmt::format("{} of {} cells, beside badly shaped ones, were computed with first order",
                    r.first_order_cells, cells));
    if (r.first_order_cells > most_first_order * cells && r.status != RunStatus::stopped) {
      r.status = r.convergence.status = RunStatus::not_converged;
      r.convergence.why = "too many cells were computed with first order";
    }
  }
  if (!r.convergence.why.empty() && r.status != RunStatus::stopped) {
    const std::string text = std::string(words(r.status)) + ": " + r.convergence.why;
    r.status == RunStatus::fluctuating ? r.findings.note(text) : r.findings.warn(text);
  }
}

}  // namespace

int Ranks::count() const {
  if (processes) return processes->size();
  return threads > 0 ? threads : std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
}

void Ranks::run(const std::function<void(Communicator&)>& work) const {
  if (processes)
    work(*processes);
  else
    run_on_threads(count(), work);
}

RunResult run_case(const CampaignSetup& setup, const PlacedVariant& variant, double speed,
                   VolumeMesh* mesh, const Start& start, const Ranks& ranks,
                   const RunObserver& observer, const Saving& saving) {
  const auto began = std::chrono::steady_clock::now();
  CaseRun run(setup, variant, speed, mesh, start, ranks, observer, saving);
  for (int number = 0;; ++number) {
    try {
      run.attempt(number);
      break;
    } catch (const FlowError& e) {
      // Divergence shows in sums over all ranks: they all come here together.
      if (number == most_back_offs) throw;
      if (number > 0) run.forget_good();
      run.result.findings.warn(fmt::format(
          "{}; went on from {} with a pseudo-time step of {:.2g} of the one before", e.what(),
          run.last_good() > 0 ? fmt::format("iteration {}", run.last_good()) : "the start",
          back_off));
      run.cut_history();
    }
  }
  if (ranks.is_root()) run.read_wake();
  RunResult result = std::move(run.result);
  if (ranks.is_root()) add_findings(result, mesh->cells);
  result.seconds = seconds_since(began);
  return result;
}

}  // namespace dunefield
