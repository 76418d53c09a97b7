// Sections in two dimensions, from the campaign file through our own mesher.
#include <fmt/format.h>

#include <dunefield/campaign/campaign_runner.hpp>
#include <tests/support/process.hpp>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

Figures result_of(const std::string& campaign) {
  const test::TemporaryFolder folder;
  test::write_text(folder / "c.toml", campaign);
  CampaignWatcher silent;
  const CampaignResult r = run_campaign(prepare(read_campaign(folder / "c.toml")), folder / "runs",
                                        {0, nullptr}, silent);
  if (r.runs.size() != 1) throw std::runtime_error("a section's run failed");
  return r.runs[0];
}

/// NACA 0012 at Re 6e6, `scout`, a stream 500 chords wide.
Result profile(const std::string& degrees, double cl, double cd) {
  const Figures f = result_of(R"(
[section]
ground = false
[vehicle]
shapes = ["wing"]
[[shape]]
name = "wing"
kind = "wing"
section = "0012"
turned_over = false
leading_edge = ["0 m", "0 m", "0 m"]
span = "2 m"
chord = "1 m"
incidence = ")" + degrees + R"( deg"
[tunnel]
ahead = 250
behind = 250
height = 500
[air]
kinematic_viscosity = "1.5e-5 m2/s"
[runs]
speeds = ["90 m/s"]
)");
  return {{{"CL at " + degrees + " degrees", cl, 0.03, f.cl.mean, cl == 0 ? 1.0 : 0},
           {"CD at " + degrees + " degrees", cd, 0.1, f.cd.mean}},
          f.cells,
          f.iterations};
}

/// A circular cylinder, laminar, 120 diameters of air.
Result cylinder_at(double reynolds, double cd) {
  const Figures f = result_of(fmt::format(R"(
[section]
ground = false
[vehicle]
shapes = ["rod"]
[[shape]]
name = "rod"
kind = "cylinder"
from = ["0 m", "-1 m", "0 m"]
to = ["0 m", "1 m", "0 m"]
radius = "500 mm"
[tunnel]
ahead = 60
behind = 60
height = 120
[air]
kinematic_viscosity = "{:.6f} m2/s"
[mesh.layers]
first_height = "5 mm"
[flow]
turbulence = "laminar"
[runs]
speeds = ["1 m/s"]
)",
                                          1 / reynolds));
  return {{{fmt::format("CD at Re {:.0f}", reynolds), cd, 0.03, f.cd.mean}}, f.cells, f.iterations};
}

}  // namespace

std::vector<Case> section_cases() {
  const std::string ours = "NACA 0012, Re 6e6, SST, section in two dimensions, scout";
  const std::string round = "circular cylinder, section in two dimensions, scout";
  return {{"section-0", ours, [] { return profile("0", 0, 0.0081); }},
          {"section-10", ours, [] { return profile("10", 1.07, 0.0123); }},
          {"section-cylinder-20", round, [] { return cylinder_at(20, 2.05); }},
          {"section-cylinder-40", round, [] { return cylinder_at(40, 1.53); }}};
}

}  // namespace dunefield::validation
