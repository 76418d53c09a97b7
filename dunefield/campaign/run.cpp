#include <dunefield/campaign/run.hpp>

#include <algorithm>
#include <chrono>
#include <thread>

#include <fmt/format.h>

namespace dunefield {
namespace {

// Settled: means over two successive windows agree, and the vehicle's drag is the stream's loss of momentum. Lift takes
// longer than drag, so both are judged.
constexpr int window = 50, least_iterations = 150, judge_every = 10;
constexpr double drag_agreement = 0.003;   // of CD
constexpr double lift_agreement = 0.004;   // in CLF and CLR
constexpr double momentum_agreement = 0.001;  // of CD
constexpr double back_off = 0.4;           // of the pseudo-time step, after a divergence
constexpr int most_back_offs = 2;

using Value = double (*)(const HistoryRow&);
double cd_of(const HistoryRow& h) { return h.c.cd; }
double clf_of(const HistoryRow& h) { return h.c.clf(); }
double clr_of(const HistoryRow& h) { return h.c.clr(); }

double seconds_since(std::chrono::steady_clock::time_point began) { return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count(); }

double mean_of(const std::vector<HistoryRow>& h, std::size_t first, std::size_t last, Value value) {
  double sum = 0;
  for (std::size_t i = first; i < last; ++i) sum += value(h[i]);
  return sum / static_cast<double>(last - first);
}

bool settled(const std::vector<HistoryRow>& h, const ReferenceValues& reference) {
  if (h.size() < static_cast<std::size_t>(least_iterations) || h.size() % judge_every) return false;
  const std::size_t n = h.size(), w = window;
  const auto change = [&](Value value) { return std::abs(mean_of(h, n - w, n, value) - mean_of(h, n - 2 * w, n - w, value)); };
  const double cd = std::abs(mean_of(h, n - w, n, cd_of));
  // In a steady state the stream loses the momentum that the vehicle takes.
  const double momentum_cd = mean_of(h, n - w, n, [](const HistoryRow& r) { return r.momentum_drag; }) / (reference.dynamic_pressure() * reference.frontal_area);
  if (std::abs(momentum_cd - cd) > momentum_agreement * cd) return false;
  return change(cd_of) < drag_agreement * cd && change(clf_of) < lift_agreement && change(clr_of) < lift_agreement;
}

WindowMean last_mean(const std::vector<HistoryRow>& h, Value value) {
  const std::size_t count = std::min(h.size(), std::max<std::size_t>(window, h.size() / 4));
  std::vector<double> v;
  for (std::size_t i = h.size() - count; i < h.size(); ++i) v.push_back(value(h[i]));
  return window_mean(v);
}

/// Wall loads of all ranks by boundary face of the whole mesh, on rank 0.
std::vector<WallLoad> gather_loads(const FlowState& s) {
  struct Entry {
    int face;
    WallLoad load;
  };
  const auto loads = s.wall_loads();
  std::vector<Entry> mine;
  for (std::size_t i = 0; i < loads.size(); ++i) mine.push_back({s.mesh.boundary[i].global, loads[i]});
  if (s.comm.rank() != 0) return s.comm.send_vector(0, mine), std::vector<WallLoad>{};
  for (int r = 1; r < s.comm.size(); ++r) {
    const auto other = s.comm.receive_vector<Entry>(r);
    mine.insert(mine.end(), other.begin(), other.end());
  }
  std::sort(mine.begin(), mine.end(), [](const Entry& a, const Entry& b) { return a.face < b.face; });
  std::vector<WallLoad> all;
  for (const Entry& e : mine) all.push_back(e.load);
  return all;
}

double backflow_share(const FlowState& s) {
  double sums[2] = {0, 0};
  s.for_boundary([&](std::size_t i, const FlowMesh::BoundaryFace& b, const BoundaryCondition& bc) {
    if (bc.kind != BoundaryKind::outflow) return;
    sums[0] += s.boundary_flux[i] < 0 ? b.size : 0;
    sums[1] += b.size;
  });
  s.comm.sum(sums);
  return sums[1] > 0 ? sums[0] / sums[1] : 0;
}

std::vector<double> distances_to_walls(const VolumeMesh& mesh) {
  std::vector<bool> wall;
  for (const Patch& p : mesh.patches) wall.push_back(p.kind == PatchKind::part || p.kind == PatchKind::road);
  return wall_distances(mesh, wall);
}

/// What the ranks do together; rank 0 fills `result`.
void iterate_on(Communicator& comm, const CampaignSetup& setup, FlowCase flow_case, const FlowMesh& share, const FlowFields* start, const RunObserver& observer,
                RunResult& result) {
  const bool root = comm.rank() == 0, half = setup.campaign.tunnel.half;
  const auto began = std::chrono::steady_clock::now();
  FlowSolver solver(share, flow_case, comm);
  if (comm.any(root && start)) solver.start_from(root && start ? *start : FlowFields{});
  else solver.start();
  for (int i = 0; i < setup.campaign.iterations; ++i) {
    if (comm.any(observer.progress.stop())) {
      if (i == 0) throw Cancelled();
      if (root) result.status = RunStatus::stopped;
      break;
    }
    const IterationReport report = solver.iterate();
    const Coefficients c = coefficients(measure_balance(solver.state(), half).total(), result.reference);
    const double momentum = tunnel_momentum_drag(solver.state(), half);
    bool done = false;
    if (root) {
      result.history.push_back({report.iteration, report.momentum_residual, report.mass_imbalance, c, momentum});
      if (observer.row) observer.row(result.history.back(), seconds_since(began) / (i + 1) * (setup.campaign.iterations - i - 1));
      done = setup.campaign.until_settled && settled(result.history, result.reference);
      if (done) result.status = RunStatus::settled;
    }
    if (comm.any(done)) break;
  }
  solver.close_mass();
  const Balance balance = measure_balance(solver.state(), half);
  const double mass = solver.mass_balance(), backflow = backflow_share(solver.state());
  FlowFields fields = solver.gather();
  std::vector<WallLoad> loads = gather_loads(solver.state());
  if (!root) return;
  result.balance = balance, result.mass_balance = mass, result.backflow_share = backflow;
  result.fields = std::move(fields), result.loads = std::move(loads);
}

}  // namespace

const char* words(RunStatus status) {
  switch (status) {
    case RunStatus::settled: return "settled";
    case RunStatus::iteration_limit: return "not settled at the iteration limit";
    case RunStatus::stopped: return "stopped on request";
  }
  return "";
}

int Ranks::count() const {
  if (processes) return processes->size();
  return threads > 0 ? threads : std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
}

void Ranks::run(const std::function<void(Communicator&)>& work) const {
  if (processes) work(*processes);
  else run_on_threads(count(), work);
}

RunResult run_case(const CampaignSetup& setup, const PlacedVariant& variant, double speed, const VolumeMesh* mesh, const FlowFields* start, const Ranks& ranks,
                   const RunObserver& observer) {
  RunResult result;
  const auto began = std::chrono::steady_clock::now();
  result.reference = setup.reference(speed);
  result.ranks = ranks.count();
  std::vector<double> distance;
  if (ranks.is_root()) distance = distances_to_walls(*mesh);
  for (int attempt = 0;; ++attempt) {
    try {
      ranks.run([&](Communicator& comm) {
        const bool root = comm.rank() == 0;
        const FlowMesh share = distribute(root ? mesh : nullptr, root ? &distance : nullptr, comm);
        FlowCase flow_case = make_case(setup, variant, speed, share.patches);
        flow_case.options.courant *= std::pow(back_off, attempt);
        if (root) result.courant = flow_case.options.courant;
        iterate_on(comm, setup, flow_case, share, attempt == 0 ? start : nullptr, observer, result);
      });
      break;
    } catch (const FlowError& e) {
      // Divergence shows in sums over all ranks: they all come here together.
      if (attempt == most_back_offs) throw;
      result.findings.warn(fmt::format("{}; started again with a pseudo-time step of {:.2g} of the one before", e.what(), back_off));
      result.history.clear();
    }
  }
  if (result.backflow_share > 0.01) result.findings.warn(fmt::format("air flows back through {:.0f} % of the outflow: a longer tunnel would help", 100 * result.backflow_share));
  result.last = coefficients(result.balance.total(), result.reference);
  if (!result.history.empty()) {
    result.cd = last_mean(result.history, cd_of);
    result.cl = last_mean(result.history, [](const HistoryRow& h) { return h.c.cl; });
    result.clf = last_mean(result.history, clf_of);
    result.clr = last_mean(result.history, clr_of);
    result.cy = last_mean(result.history, [](const HistoryRow& h) { return h.c.cy; });
    result.momentum_drag = last_mean(result.history, [](const HistoryRow& h) { return h.momentum_drag; });
  }
  result.seconds = seconds_since(began);
  return result;
}

}  // namespace dunefield
