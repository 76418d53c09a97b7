// A disc ahead of a flat-faced cylinder along the stream (Koenig and Roshko 1985): two vehicles in
// one tunnel, each alone and both together.
#include <fmt/format.h>

#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

constexpr double diameter = 0.2, length = 3 * diameter, height = 6 * diameter;

/// The cylinder, its flat face a part of its own: its drag and the disc's are the forebody's.
Surface faced_cylinder() {
  Surface s = cylinder("side and base", {0, 0, height}, {length, 0, height}, diameter / 2, 96);
  s.part_names.push_back("face");
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.centroid(t).x < 1e-6) s.part_of[t] = 1;
  return s;
}

std::string campaign_text(double spacing, const std::string& recipe) {
  return fmt::format(R"(
[[vehicle]]
name = "disc"
files = ["disc.stl"]
road = "0 m"
[[vehicle]]
name = "cylinder"
files = ["cylinder.stl"]
road = "0 m"
spacing = "{} m"
[tunnel]
half = true
blockage = 0.004
road_speed = "0.001 m/s"
[wheels]
find = false
[mesh]
recipe = "{}"
[flow]
iterations = 700
[runs]
speeds = ["30 m/s"]
[[variant]]
name = "together"
[[variant]]
name = "cylinder alone"
vehicles = ["cylinder"]
)",
                     spacing, recipe);
}

/// Means of CD of all parts whose name ends so, on one area in all runs.
double of_parts(const Figures& f, const std::vector<std::string>& endings) {
  double cd = 0;
  for (const PartMean& p : f.parts)
    for (const std::string& e : endings)
      if (p.part.ends_with(e)) cd += p.cd;
  return cd;
}

Result tandem() {
  const test::TemporaryFolder folder;
  write_stl_ascii(folder / "cylinder.stl", faced_cylinder());
  const double thin = 0.04 * diameter;
  write_stl_ascii(folder / "disc.stl",
                  cylinder("disc", {0, 0, height}, {thin, 0, height}, 0.75 * diameter / 2, 96));
  test::write_text(folder / "c.toml", campaign_text(0.375 * diameter - thin, "scout"));
  CampaignWatcher silent;
  const CampaignResult r = run_campaign(prepare(read_campaign(folder / "c.toml")), folder / "runs",
                                        {0, nullptr}, silent);
  if (r.runs.size() != 2) throw std::runtime_error("a run of the tandem failed");
  const double together = of_parts(r.runs[0], {"disc", "face"}),
               alone = of_parts(r.runs[1], {"face"});
  Result result;
  result.cells = r.runs[0].cells, result.iterations = r.runs[0].iterations;
  const double disc_area = 0.75 * 0.75;  // of the face's
  result.rows = {
      {"forebody drag together over alone", 0.0, 0.2, together / alone, 1},
      {"forebody CD alone, on the face", 0.72, 0, alone * disc_area, 0},
  };
  return result;
}

}  // namespace

std::vector<Case> tandem_cases() {
  return {{"tandem",
           "disc of 0.75 D at 0.375 D ahead of a cylinder (Koenig and Roshko 1985), scout",
           tandem}};
}

}  // namespace dunefield::validation
