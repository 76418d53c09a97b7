// How much a result owes to where the cells happen to lie: the same case on meshes whose lattice is
// moved by irrational shares of a leaf.
//   build/release/bin/scatter [vehicle] [--recipe standard] [--meshes 8] [--first 600]
//   [--iterations 200]
// The first mesh is run from the stream, each other one from the result before it, brought over.
#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <demo/garage.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/dunefield.hpp>

namespace {

using namespace dunefield;

struct Options {
  std::string vehicle = "marram", recipe = "scout";
  int meshes = 8, first = 600, iterations = 200;
  Ranks ranks;
};

/// Means of CD, CLF and CLR behind the first iterations on a mesh, and of each the squared standard
/// error that the swings of the flow alone give it.
struct Means {
  std::array<double, 3> value{}, squared_error{};
};
constexpr const char* quantity_names[] = {"CD", "CLF", "CLR"};

Means means_of(const std::vector<HistoryRow>& history, std::size_t from) {
  constexpr std::size_t batch = 40;  // iterations; values so far apart hardly depend on each other
  Means m;
  const std::size_t batches = std::max<std::size_t>(2, (history.size() - from) / batch),
                    length = (history.size() - from) / batches;
  for (std::size_t q = 0; q < 3; ++q) {
    std::vector<double> of_batch(batches, 0);
    for (std::size_t b = 0; b < batches; ++b)
      for (std::size_t i = 0; i < length; ++i) {
        const Coefficients& c = history[history.size() - (b + 1) * length + i].c;
        of_batch[b] += (q == 0 ? c.cd : q == 1 ? c.clf() : c.clr()) / static_cast<double>(length);
      }
    const auto n = static_cast<double>(batches);
    for (const double v : of_batch) m.value[q] += v / n;
    for (const double v : of_batch)
      m.squared_error[q] += (v - m.value[q]) * (v - m.value[q]) / (n - 1) / n;
  }
  return m;
}

/// The means scatter with the mesh and, each window being short, with the flow's swings: what is
/// left without those is the mesh's.
std::string mean_and_deviation(const std::vector<Means>& all, std::size_t q) {
  const auto n = static_cast<double>(all.size());
  double mean = 0, variance = 0, of_swings = 0;
  for (const Means& m : all) mean += m.value[q] / n, of_swings += m.squared_error[q] / n;
  for (const Means& m : all)
    variance += (m.value[q] - mean) * (m.value[q] - mean) / std::max(1.0, n - 1);
  const auto told = [&](double v) {
    return fmt::format("{:.4f} ({:.2f} %)", std::sqrt(std::max(0.0, v)),
                       100 * std::sqrt(std::max(0.0, v)) / std::abs(mean));
  };
  return fmt::format("{:+.4f}, standard deviation {}, of swings alone {}, of the mesh {}", mean,
                     told(variance), told(of_swings), told(variance - of_swings));
}

void run(const Options& o) {
  const auto folder = std::filesystem::temp_directory_path() / ("dunefield-scatter-" + o.vehicle);
  Campaign campaign = read_campaign(garage::write_demo(o.vehicle, folder));
  campaign.tunnel.half = true, campaign.recipe.name = o.recipe;
  campaign.limits.until_settled = false;
  RunSetup setup = prepare(campaign).variants.front();
  const Vec3 golden{0.6180339887, 0.4142135624, 0};
  Record before;
  std::vector<Means> all;
  for (int k = 0; k < o.meshes; ++k) {
    setup.recipe.lattice_shift = golden * k;
    setup.limits.iterations = k == 0 ? o.first : o.iterations;
    MeshResult mesh = build_mesh(setup);
    RunOptions options{.threads = o.ranks.threads};
    if (k > 0)
      options.start = [&](Findings&) { return mapped(*before.mesh, before.fields, mesh.mesh); };
    const Record r = run(setup, mesh, options);
    all.push_back(means_of(r.history, k == 0 ? r.history.size() / 2 : r.history.size() / 3));
    fmt::print(
        "{} {} {} cells, {} iterations in {:.0f} s: CD {:.4f} ({}), CLF {:+.4f}, CLR {:+.4f}\n",
        o.vehicle, o.recipe, r.quality.cells, r.history.size(), r.seconds, all.back().value[0],
        words(r.status), all.back().value[1], all.back().value[2]);
    std::fflush(stdout);
    before = r;
  }
  for (std::size_t q = 0; q < 3; ++q)
    fmt::print("{:3} {}\n", quantity_names[q], mean_and_deviation(all, q));
  std::filesystem::remove_all(folder);
}

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  Options o;
  CLI::App app{"Scatter of a result over meshes that differ in where their cells lie"};
  app.add_option("vehicle", o.vehicle, "which")->check(CLI::IsMember(garage::demo_names()));
  app.add_option("--recipe", o.recipe, "of the mesh");
  app.add_option("--meshes", o.meshes, "how many")->check(CLI::PositiveNumber);
  app.add_option("--first", o.first, "iterations on the first mesh")->check(CLI::PositiveNumber);
  app.add_option("--iterations", o.iterations, "on each other one")->check(CLI::PositiveNumber);
  app.add_option("--ranks", o.ranks.threads, "0: one for each core")->check(CLI::NonNegativeNumber);
  CLI11_PARSE(app, count, words);
  run(o);
}
