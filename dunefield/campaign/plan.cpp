#include <dunefield/campaign/plan.hpp>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/campaign/starts.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

// docs/theory/performance.md: seconds of a core for a cell and iteration, and for a cell of the
// mesh; peak memory for a cell
constexpr double iteration_cost = 1.4e-6, meshing_cost = 2.5e-5, memory_cost = 1700;
// Iterations from the stream, and from another result: the start-up, and as many as a mean takes
// that swings as the demo van's does (docs/theory/performance.md), the more the less it may be off.
struct Expected {
  double from_stream, from_another;
};
Expected expected(const RunSetup& setup) {
  const bool sketch = setup.recipe.name == "sketch";
  const double start_up = sketch ? 110 : 190, settling = sketch ? 60 : 160;
  const double mean = 160 * std::pow(0.01 / setup.accuracy().drag, 2);
  return {start_up + mean, settling + mean};
}

/// What finished runs of this campaign took.
struct Experience {
  double seconds = 0, cell_iterations = 0, iterations = 0;
  int runs = 0;
  void add(const Figures& f) {
    seconds += f.seconds, iterations += f.iterations, ++runs;
    cell_iterations += static_cast<double>(f.cells) * f.iterations;
  }
  double of_iteration(double cells, int threads) const {
    return cells * (cell_iterations > 0 ? seconds / cell_iterations : iteration_cost / threads);
  }
};

std::optional<Figures> figures_there(const fs::path& folder) {
  std::error_code status;
  if (!fs::exists(folder / record_file::numbers, status)) return std::nullopt;
  try {
    return read_figures(folder);
  } catch (const InputError&) {
    return std::nullopt;  // damaged: it is made again
  }
}

/// Whether a run starts from another of the matrix: done, or made before it.
bool has_start(const std::vector<int>& starts, const std::vector<char>& there, std::size_t run) {
  for (int s = starts[run]; s >= 0; s = starts[at(s)])
    if (there[at(s)]) return true;
  return false;
}

/// Behind the steady ones.
double iterations_in_time(const RunSetup& setup) {
  constexpr double a_step = 7;  // until the residual has fallen fifty times
  return setup.time_duration() / setup.time_step() * a_step;
}

/// Cells that each variant will have, as its sizes say; 0 where its mesh is in a file. A setting
/// hardly changes how many, so that a variant is predicted once, if at all.
std::vector<double> predicted_cells(const CampaignSetup& setup, const std::vector<char>& wanted,
                                    const Progress& progress) {
  std::vector<double> cells(setup.variants.size(), 0);
  parallel_for(
      cells.size(),
      [&](std::size_t v) {
        progress.check();
        const RunSetup& of = setup.variants[v];
        if (wanted[v] && of.mesh_file.empty()) cells[v] = expected_cells(of);
      },
      1);
  return cells;
}

}  // namespace

ClusterNeed cluster_need(const PlannedRun& run, int most_ranks) {
  constexpr double cells_of_rank = 50'000, efficiency = 0.8;
  // docs/theory/performance.md: bytes a cell of meshing alone, and of a whole run on one rank
  constexpr double meshing_memory = 1150, run_memory = 1480;
  ClusterNeed need;
  need.ranks = static_cast<int>(
      std::clamp(std::round(run.cells / cells_of_rank), 1.0, static_cast<double>(most_ranks)));
  const double used = need.ranks > 1 ? efficiency : 1;
  need.mesh_seconds = run.meshes ? meshing_cost * run.cells : 0;
  need.flow_seconds = run.iterations * run.cells * iteration_cost / (need.ranks * used);
  need.rank_bytes = run_memory * run.cells / need.ranks;
  need.first_bytes = std::max(meshing_memory * run.cells, need.rank_bytes);
  return need;
}

std::vector<PlannedRun> plan_of(const CampaignSetup& setup, const fs::path& folder, int threads,
                                const Progress& progress, const std::vector<MatrixRun>& some) {
  const Campaign& c = setup.campaign;
  const std::vector<MatrixRun> matrix = some.empty() ? setup.matrix() : some;
  const std::vector<int> from =
      c.start_earlier ? starts(matrix) : std::vector<int>(matrix.size(), from_nothing);
  std::vector<PlannedRun> plan;
  std::vector<std::size_t> of;  // the matrix, those that are planned
  Experience experience;
  std::vector<char> unknown(setup.variants.size(), 0), there(matrix.size(), 0);
  for (std::size_t r = 0; r < matrix.size(); ++r) {
    progress.check();
    const MatrixRun& which = matrix[r];
    PlannedRun p{setup.variants[which.variant].vehicle.name, which.speed,
                 in_words(setup.settings_of(which)), which.lattice,
                 folder / run_name(setup, which)};
    if (const auto figures = figures_there(p.folder)) {
      p.to_do = left_to_do(p.folder, setup.run(which));
      if (p.to_do != ToDo::all) p.cells = figures->cells, experience.add(*figures);
    }
    there[r] = which.wanted || p.to_do == ToDo::nothing || p.to_do == ToDo::readings;
    if (!which.wanted) continue;
    if (!(p.cells > 0)) unknown[which.variant] = 1;
    if (c.time && p.to_do == ToDo::all) p.iterations = iterations_in_time(setup.run(which));
    plan.push_back(p), of.push_back(r);
  }
  const std::vector<double> predicted = predicted_cells(setup, unknown, progress);
  for (std::size_t r = 0; r < plan.size(); ++r) {
    if (!(plan[r].cells > 0)) plan[r].cells = predicted[matrix[of[r]].variant];
    plan[r].bytes = memory_cost * plan[r].cells;
  }
  const Expected usual = expected(setup.variants.front());
  std::string meshed;
  for (std::size_t i = 0; i < plan.size(); ++i) {
    PlannedRun& p = plan[i];
    if (p.to_do == ToDo::nothing || p.to_do == ToDo::readings) continue;
    const bool from_another = !c.start_run.empty() || has_start(from, there, of[i]);
    const double steady = std::min<double>(
        c.limits.iterations, experience.runs > 0 ? experience.iterations / experience.runs
                             : from_another      ? usual.from_another
                                                 : usual.from_stream);
    if (experience.runs > 0) p.iterations = 0;  // those of steps are among the steady ones
    p.iterations += c.limits.until_settled ? steady : c.limits.iterations;
    p.seconds = p.iterations * experience.of_iteration(p.cells, threads);
    const std::string mesh = p.variant + p.settings + std::to_string(p.lattice);
    p.meshes = p.to_do == ToDo::all && mesh != meshed;
    if (p.meshes) p.seconds += meshing_cost * p.cells;
    meshed = mesh;
  }
  return plan;
}

}  // namespace dunefield
