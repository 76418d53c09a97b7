// How soon the mean of CD settles, by the way a run starts:
//   build/release/bin/settling [vehicle] [--recipe scout] [--courant 10] [--coarse 2
//   --coarse-iterations 150] [--from-speed 1.5] [--pressure 0.001] [--final 0.265] [--history
//   file.csv]
#include <cstdio>
#include <filesystem>

#include <fmt/format.h>
#include <fmt/os.h>
#include <CLI/CLI.hpp>

#include <demo/garage.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/dunefield.hpp>

namespace {

using namespace dunefield;

struct Options {
  std::string vehicle = "marram", recipe = "scout", history;
  bool whole = false, plain = false;
  double courant = FlowOptions().courant, cells = 0, speed = 0, coarse = 0, from_speed = 0,
         final_cd = 0;
  double pressure_reduction = FlowOptions{}.pressure_reduction;
  int iterations = 1000, coarse_iterations = 150;
  Ranks ranks;
};

/// The first iteration from which on the mean of CD over the second half of the history stays
/// within 0.5 % of its final value; 0 for never.
std::size_t settled(const std::vector<HistoryRow>& history, double final_cd) {
  std::vector<double> sums = {0};
  for (const HistoryRow& r : history) sums.push_back(sums.back() + r.c.cd);
  std::size_t at = history.size() + 1;
  for (std::size_t n = history.size(); n > 0; --n) {
    const std::size_t from = n / 2;
    const double mean = (sums[n] - sums[from]) / static_cast<double>(n - from);
    if (std::abs(mean / final_cd - 1) > 0.005) break;
    at = n;
  }
  return at > history.size() ? 0 : at;
}

/// Fields to start from: of a coarser mesh, or of another speed; none: the stream.
struct Start {
  Fields fields;
  double seconds = 0;  ///< that they took
};

Start start_of(RunSetup setup, const MeshResult& mesh, const Options& o) {
  Start start;
  const auto began = std::chrono::steady_clock::now();
  if (o.coarse > 1) {
    RunSetup coarser = setup;
    coarser.recipe.surface_size = o.coarse * setup.mesh_options().surface_size;
    coarser.limits.iterations = o.coarse_iterations;
    const Record r = run(coarser, build_mesh(coarser), {.threads = o.ranks.threads});
    start.fields = mapped(*r.mesh, r.fields, mesh.mesh);
    start.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    fmt::print("  {} coarse cells, {:.1f} s with their mesh; CD {:.4f}\n", r.quality.cells,
               start.seconds, r.last.cd);
  }
  if (o.from_speed > 0) {
    setup.conditions.speed *= o.from_speed;
    const Record r = run(setup, mesh, {.threads = o.ranks.threads});
    start.fields = r.fields;
    scale_speed(start.fields, 1 / o.from_speed);
    fmt::print("  at {:.4g} times the speed: CD {:.4f} ({:.4f} to {:.4f})\n", o.from_speed,
               r.convergence.cd.mean, r.convergence.cd.least, r.convergence.cd.most);
  }
  return start;
}

void settle(const Options& o) {
  const auto folder = std::filesystem::temp_directory_path() / ("dunefield-settling-" + o.vehicle);
  Campaign campaign = read_campaign(garage::write_demo(o.vehicle, folder));
  campaign.tunnel.half = !o.whole;
  campaign.recipe.name = o.recipe;
  campaign.flow.courant = o.courant, campaign.limits.recombine = !o.plain;
  if (o.cells > 0) campaign.recipe.target_cells = o.cells;
  campaign.flow.pressure_reduction = o.pressure_reduction;
  campaign.limits.until_settled = false, campaign.limits.iterations = o.iterations;
  RunSetup setup = prepare(campaign).variants.front();
  if (o.speed > 0) setup.conditions.speed = o.speed / 3.6;
  const MeshResult mesh = build_mesh(setup);
  const Start start = start_of(setup, mesh, o);
  const double coarse_seconds = start.seconds;
  RunOptions options{.threads = o.ranks.threads};
  if (!start.fields.u.empty()) options.start = [&](Findings&) { return start.fields; };
  const Record r = run(setup, mesh, options);
  const double final_cd = o.final_cd > 0 ? o.final_cd : r.convergence.cd.mean;
  const std::size_t at = settled(r.history, final_cd);
  const double each = r.seconds / static_cast<double>(r.history.size());
  fmt::print(
      "{} {} cells {} courant {}: {:.2f} us an iteration, cell and core; CD {:.4f} ({:.4f} to "
      "{:.4f}), CL {:.4f}; {}\n",
      o.vehicle, o.recipe, mesh.quality.cells, o.courant, 1e6 * each * r.ranks / mesh.quality.cells,
      r.convergence.cd.mean, r.convergence.cd.least, r.convergence.cd.most, r.convergence.cl.mean,
      at == 0 ? fmt::format("not within 0.5 % of {:.4f}", final_cd)
              : fmt::format("within 0.5 % of {:.4f} from iteration {} on: {:.3f} core-ms a cell",
                            final_cd, at,
                            1e3 * (coarse_seconds + each * static_cast<double>(at)) * r.ranks /
                                mesh.quality.cells));
  if (!o.history.empty()) {
    auto out = fmt::output_file(o.history);
    out.print("iteration,residual,cd,clf,clr,cdm,change\n");
    for (const HistoryRow& h : r.history)
      out.print("{},{:.3e},{:.6f},{:.6f},{:.6f},{:.6f},{:.3e}\n", h.iteration, h.momentum_residual,
                h.c.cd, h.c.clf(), h.c.clr(),
                h.momentum_drag / (r.reference.dynamic_pressure() * r.reference.frontal_area),
                h.change);
  }
  std::filesystem::remove_all(folder);
}

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  Options o;
  CLI::App app{"How soon CD settles, by the way a run starts"};
  app.add_option("vehicle", o.vehicle, "which")->check(CLI::IsMember(garage::demo_names()));
  app.add_option("--recipe", o.recipe, "of the mesh");
  app.add_flag("--whole", o.whole, "not half of it");
  app.add_flag("--plain", o.plain, "without recombination");
  app.add_option("--cells", o.cells, "wanted, instead of the recipe's")->check(CLI::PositiveNumber);
  app.add_option("--speed", o.speed, "km/h (default: the demo's first)")
      ->check(CLI::PositiveNumber);
  app.add_option("--courant", o.courant, "pseudo-time step")->check(CLI::PositiveNumber);
  app.add_option("--pressure", o.pressure_reduction,
                 "fall of the pressure residual in each iteration")
      ->check(CLI::PositiveNumber);
  app.add_option("--iterations", o.iterations, "in all")->check(CLI::PositiveNumber);
  app.add_option("--coarse", o.coarse, "start from a mesh so many times as coarse");
  app.add_option("--coarse-iterations", o.coarse_iterations, "on that mesh")
      ->check(CLI::PositiveNumber);
  app.add_option("--from-speed", o.from_speed,
                 "start from the result at so many times the speed, after as many iterations")
      ->check(CLI::PositiveNumber);
  app.add_option("--final", o.final_cd, "CD to settle to (default: this run's)");
  app.add_option("--history", o.history, "CSV file");
  app.add_option("--ranks", o.ranks.threads, "0: one for each core")->check(CLI::NonNegativeNumber);
  CLI11_PARSE(app, count, words);
  settle(o);
}
