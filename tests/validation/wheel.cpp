// A wheel alone (Fackrell and Harvey 1975): turning on a moving road, and standing on a fixed one.
#include <cmath>
#include <numbers>

#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

constexpr double radius = 0.208, width = 0.191, shoulder = 0.04;
constexpr double sunk = 0.002;  // flat of the contact

Surface wheel() {
  std::vector<std::array<double, 2>> side = {{-width / 2, 0}};
  constexpr int steps = 8;
  for (int i = 0; i <= steps; ++i) {
    const double a = 0.5 * std::numbers::pi * i / steps;
    side.push_back(
        {-width / 2 + shoulder * (1 - std::cos(a)), radius - shoulder * (1 - std::sin(a))});
  }
  std::vector<std::array<double, 2>> profile = side;
  for (std::size_t i = side.size(); i-- > 0;) profile.push_back({-side[i][0], side[i][1]});
  return revolve("wheel", profile, {0, 0, radius - sunk}, {0, 1, 0}, 180);
}

const char* const campaign_text = R"(
[vehicle]
files = ["wheel.stl"]
[reference]
frontal_area = "0.0795 m2"
wheelbase = "1 m"
[mesh]
recipe = "scout"
[flow]
iterations = 800
[runs]
speeds = ["18.6 m/s"]
)";

Figures result_of(const test::TemporaryFolder& folder, const std::string& name,
                  const std::string& more) {
  test::write_text(folder / (name + ".toml"), campaign_text + more);
  CampaignWatcher silent;
  const CampaignResult r = run_campaign(prepare(read_campaign(folder / (name + ".toml"))),
                                        folder / (name + ".runs"), {0, nullptr}, silent);
  if (r.runs.size() != 1) throw std::runtime_error("a run of the wheel failed");
  return r.runs[0];
}

Result both() {
  const test::TemporaryFolder folder;
  write_stl_ascii(folder / "wheel.stl", wheel());
  const Figures turning = result_of(folder, "turning", R"(
[tunnel]
half = true
)"),
                standing = result_of(folder, "standing", R"(
[tunnel]
half = true
road = "fixed"
[wheels]
turn = false
)");
  Result result;
  result.cells = turning.cells, result.iterations = turning.iterations;
  result.rows = {
      {"CD, turning", 0.58, 0.12, turning.cd.mean},
      {"CL, turning (0.18 to 0.2 by others)", 0.44, 0.15, turning.cl.mean, 1},
      {"CD, standing on a fixed road", 0.77, 0.12, standing.cd.mean},
      {"CL, standing on a fixed road", 0.76, 0.15, standing.cl.mean, 1},
  };
  return result;
}

}  // namespace

std::vector<Case> wheel_cases() {
  return {{"wheel", "wheel alone (Fackrell and Harvey 1975), scout", both}};
}

}  // namespace dunefield::validation
