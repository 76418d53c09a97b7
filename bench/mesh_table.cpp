// Meshes of all demo vehicles, measured, as one table:
//   build/release/bin/mesh_table [vehicle ...] [--recipe scout] [--half | --whole] [--refine]
//   [--layers 3] [--fit] [--flow 100]
#include <cstdio>
#include <filesystem>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <demo/garage.hpp>
#include <dunefield/base/memory.hpp>
#include <dunefield/dunefield.hpp>

#include "mesh_fit.hpp"
#include "van_case.hpp"

namespace {

using namespace dunefield;

struct Options {
  std::vector<std::string> vehicles = garage::demo_names(), recipes = {"scout"};
  bool half = false, whole = false, fit = false, refine = false;
  int flow = 0;
  Ranks ranks;
  std::size_t missed = 5;
  double shift = 0;
  int layers = -1;  ///< -1: those of the recipe
  double growth = 1.4, leaves = 0.7;
};

/// The flow from its default start, with its final schemes.
void run_flow(RunSetup setup, const MeshResult& mesh, int iterations, const Ranks& ranks) {
  setup.limits.iterations = iterations, setup.limits.until_settled = false;
  const Record r = run(setup, mesh, {.threads = ranks.threads});
  const double each = r.seconds / static_cast<double>(r.history.size());
  fmt::print(
      "      flow {} iterations in {:.0f} s, {:.2f} us per cell and iteration and core; CD {:.4f} "
      "({:.4f} to {:.4f}) CL {:.4f}; residual {:.1e}\n",
      r.history.size(), r.seconds, 1e6 * each * r.ranks / r.quality.cells, r.convergence.cd.mean,
      r.convergence.cd.least, r.convergence.cd.most, r.convergence.cl.mean,
      r.history.back().momentum_residual);
  for (const Finding& f : r.findings) fmt::print("      {}\n", f.text);
}

void print_measures(const MeshResult& m, double predicted) {
  const MeshQuality& q = m.quality;
  fmt::print("{:8} cells {:6.1f} s {:6.0f}/s | {} closed {:.0e} regions {}", q.cells, m.seconds,
             q.cells / m.seconds, q.good() ? "good" : "NOT GOOD", q.worst_closure, q.regions);
  const Measure shown[] = {Measure::obliquity, Measure::offset, Measure::one_sidedness,
                           Measure::size_step};
  for (const Measure which : shown) {
    const MeasureSummary& s = q.of(which);
    fmt::print(" | {} mean {:.3g}, {:.4f} % over {:g}, worst {:.3g}", s.name, s.mean,
               100 * s.share_beyond(), s.limit, s.worst_value());
  }
  fmt::print(" | {} merged, {:+.0f} % off the prediction\n", m.merged,
             100 * (predicted / q.cells - 1));
  for (const Measure which : shown)
    if (const MeasureSummary& s = q.of(which); s.beyond > 0)
      for (std::size_t i = 0; i < std::min<std::size_t>(3, s.worst.size()); ++i)
        fmt::print("      {} {:.4f} at ({:.3f}, {:.3f}, {:.3f})\n", s.name, s.worst[i].value,
                   s.worst[i].place.x, s.worst[i].place.y, s.worst[i].place.z);
}

void measure(const std::string& vehicle, const std::string& recipe, bool half, const Options& o) {
  const auto folder = std::filesystem::temp_directory_path() / ("dunefield-mesh-table-" + vehicle);
  Campaign campaign = read_campaign(garage::write_demo(vehicle, folder));
  campaign.tunnel.half = half;
  campaign.recipe.name = recipe;
  campaign.recipe.lattice_shift = Vec3{0.6180339887, 0.4142135624, 0} * o.shift;
  if (o.layers >= 0) {
    LayerChoice& l = campaign.recipe.layers;
    l.count = o.layers, l.growth = o.growth, l.total_leaves = o.leaves;
  }
  RunSetup setup = prepare(campaign).variants.front();
  if (o.refine) setup.recipe.smallest_size = setup.mesh_options().surface_size / 4;
  fmt::print("{:9} {:9} {:5} ", vehicle, recipe, half ? "half" : "whole");
  std::fflush(stdout);
  try {
    const MeshResult m = build_mesh(setup);
    print_measures(m,
                   predict_cells(setup.vehicle.surface, setup.tunnel_box(), setup.mesh_options()));
    if (m.layers.cells > 0)
      for (const PartLayers& p : m.layers.parts)
        fmt::print(
            "        {:24} {:6.3f} m2 all {:5.1f} thick {:5.1f} first {:5.1f} step {:5.1f}\n",
            p.part, p.area, 100 * p.full_share, 100 * p.thick_share, 100 * p.first_share,
            100 * p.step_share);
    if (m.layers.cells > 0)
      fmt::print(
          "      layers {:.0f} % of cells, {:.0f} % with those on them; all over {:.1f} %, 80 % "
          "thick over {:.1f} %, first within 20 % over {:.1f} %, step 0.3 to 1.5 over {:.1f} % of "
          "the area; {} rounds\n",
          100.0 * m.layers.cells / m.quality.cells, 100 * bench::share_at_layers(m),
          100 * m.layers.full_share(), 100 * m.layers.thick_share(), 100 * m.layers.first_share(),
          100 * m.layers.step_share(), m.layers.rounds);
    if (o.fit) {
      const double size = setup.mesh_options().surface_size;
      const MeshFit fit = measure_fit(m.mesh, setup.vehicle.surface, size, 1.5 * size, half);
      fmt::print(
          "      fit {:.2f} % of {} points within 0.05 leaf, 99 % under {:.3f}; angle median "
          "{:.2f}, 99 % under {:.1f}; edges {:.1f} % of {}, of the others {:.0f} % with another "
          "edge within a cell, {:.0f} % across a wall face, {:.0f} % where the mesh has no wall\n",
          100 * fit.near_share, fit.points, fit.far_99, fit.angle_median, fit.angle_99,
          100 * fit.edge_share, fit.edge_points, 100 * fit.crowded_share, 100 * fit.across_share,
          100 * fit.lost_share);
      for (std::size_t i = 0; i < fit.missed.size();
           i += std::max<std::size_t>(1, fit.missed.size() / o.missed))
        fmt::print("        edge missed by {:.2f} leaves at ({:.3f}, {:.3f}, {:.3f})\n",
                   fit.missed[i].second, fit.missed[i].first.x, fit.missed[i].first.y,
                   fit.missed[i].first.z);
    }
    for (const Finding& f : m.findings) fmt::print("      {}\n", f.text);
    if (o.flow > 0) run_flow(setup, m, o.flow, o.ranks);
  } catch (const std::exception& e) {
    fmt::print("FAILED: {}\n", e.what());
  }
  std::fflush(stdout);
  std::filesystem::remove_all(folder);
}

}  // namespace

int main(int count, char** words) {
  keep_freed_memory();
  Options o;
  CLI::App app{"Meshes of all demo vehicles, measured, as one table"};
  app.add_option("vehicles", o.vehicles, "which (default: all)");
  app.add_option("--recipe", o.recipes, "scout, standard, fine");
  app.add_flag("--half", o.half, "half models only");
  app.add_flag("--whole", o.whole, "whole models only");
  app.add_flag("--refine", o.refine,
               "along curves, edges, gaps and thin places, down to a quarter of the surface size");
  app.add_flag("--fit", o.fit, "sample the fit, too");
  app.add_option("--missed", o.missed,
                 "how many places of sharp edges that the mesh misses to list")
      ->check(CLI::PositiveNumber);
  app.add_option("--shift", o.shift,
                 "shift of the lattice in steps of an irrational share of a leaf");
  app.add_option("--layers", o.layers, "number of layers, instead of the recipe's");
  app.add_option("--growth", o.growth, "of these layers");
  app.add_option("--leaves", o.leaves, "their total thickness in leaves");
  app.add_option("--flow", o.flow, "iterations of the flow on each mesh");
  app.add_option("--ranks", o.ranks.threads, "of the flow; 0: one for each core")
      ->check(CLI::NonNegativeNumber);
  CLI11_PARSE(app, count, words);
  for (const auto& recipe : o.recipes)
    for (const auto& vehicle : o.vehicles)
      for (const bool half : {true, false})
        if (half ? !o.whole : !o.half) measure(vehicle, recipe, half, o);
}
