// How much a result owes to where the cells happen to lie: the same case on meshes whose lattice is moved by irrational shares of a leaf.
//   build/release/bin/scatter [vehicle] [--recipe standard] [--meshes 8] [--first 600] [--iterations 200]
// The first mesh is run from the stream, each other one from the result before it, brought over.
#include <cmath>
#include <cstdio>
#include <filesystem>

#include <CLI/CLI.hpp>
#include <fmt/format.h>

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

/// Mean over the second half of what was iterated.
struct Means {
  double cd = 0, clf = 0, clr = 0;
};

Means means_of(const std::vector<HistoryRow>& history) {
  Means m;
  const std::size_t from = history.size() / 2;
  for (std::size_t i = from; i < history.size(); ++i) m.cd += history[i].c.cd, m.clf += history[i].c.clf(), m.clr += history[i].c.clr();
  const auto n = static_cast<double>(history.size() - from);
  return {m.cd / n, m.clf / n, m.clr / n};
}

std::string mean_and_deviation(const std::vector<Means>& all, double Means::* which) {
  double sum = 0, squares = 0;
  for (const Means& m : all) sum += m.*which;
  const double mean = sum / static_cast<double>(all.size());
  for (const Means& m : all) squares += (m.*which - mean) * (m.*which - mean);
  const double deviation = std::sqrt(squares / std::max(1.0, static_cast<double>(all.size()) - 1));
  return fmt::format("{:+.4f}, standard deviation {:.4f} ({:.2f} %)", mean, deviation, 100 * deviation / std::abs(mean));
}

void run(const Options& o) {
  const auto folder = std::filesystem::temp_directory_path() / ("dunefield-scatter-" + o.vehicle);
  Campaign campaign = read_campaign(garage::write_demo(o.vehicle, folder));
  campaign.tunnel.half = true, campaign.recipe = o.recipe, campaign.until_settled = false;
  CampaignSetup setup = prepare(campaign);
  const Vec3 golden{0.6180339887, 0.4142135624, 0};
  VolumeMesh before;
  FlowFields fields;
  std::vector<Means> all;
  for (int k = 0; k < o.meshes; ++k) {
    PlacedVariant variant = setup.variants.front();
    variant.mesh.lattice_shift = golden * k;
    MeshResult mesh = build_mesh(variant.vehicle, setup.tunnel, variant.mesh);
    setup.campaign.iterations = k == 0 ? o.first : o.iterations;
    const Start start = k == 0 ? Start{} : Start([&](Findings&) { return mapped(before, fields, mesh.mesh); });
    RunResult r = run_case(setup, variant, setup.campaign.speeds.front(), &mesh.mesh, start, o.ranks, {});
    all.push_back(means_of(r.history));
    fmt::print("{} {} {} cells, {} iterations in {:.0f} s: CD {:.4f} ({}), CLF {:+.4f}, CLR {:+.4f}\n", o.vehicle, o.recipe, mesh.quality.cells, r.history.size(), r.seconds, all.back().cd,
               words(r.status), all.back().clf, all.back().clr);
    std::fflush(stdout);
    before = std::move(mesh.mesh), fields = std::move(r.fields);
  }
  for (const auto& [name, which] : {std::pair{"CD", &Means::cd}, {"CLF", &Means::clf}, {"CLR", &Means::clr}}) fmt::print("{:3} {}\n", name, mean_and_deviation(all, which));
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
