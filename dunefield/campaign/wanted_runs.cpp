#include <dunefield/campaign/wanted_runs.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>

namespace dunefield {
namespace {

bool alike(double speed, double other) { return std::abs(speed - other) < 1e-3 * other; }

double speed_of(const CampaignSetup& setup, const std::string& text) {
  const double wanted = parse_quantity(text, Dimension::speed, "--at");
  std::vector<std::string> speeds;
  for (const double speed : setup.campaign.speeds) {
    if (alike(wanted, speed)) return speed;
    speeds.push_back(fmt::format("{:.4g} km/h", 3.6 * speed));
  }
  throw InputError("no run is at " + text, "--at",
                   fmt::format("name one of: {}", fmt::join(speeds, ", ")));
}

}  // namespace

std::size_t wanted_variant(const CampaignSetup& setup, const std::string& name) {
  const std::size_t number = setup.number_of(name);
  if (number < setup.variants.size()) return number;
  std::vector<std::string> names;
  for (const RunSetup& v : setup.variants) names.push_back(v.vehicle.name);
  throw InputError("there is no variant '" + name + "'", "--variant",
                   fmt::format("name one of: {}", fmt::join(names, ", ")));
}

std::vector<MatrixRun> matrix_with(const WantedRuns& wanted, const CampaignSetup& setup) {
  std::vector<std::size_t> variants;
  std::vector<double> speeds;
  for (const std::string& name : wanted.variants) variants.push_back(wanted_variant(setup, name));
  for (const std::string& text : wanted.speeds) speeds.push_back(speed_of(setup, text));
  const auto among = [](const auto& some, auto value) {
    return some.empty() || std::find(some.begin(), some.end(), value) != some.end();
  };
  std::vector<MatrixRun> matrix = setup.matrix();
  for (MatrixRun& run : matrix)
    run.wanted = among(variants, run.variant) && among(speeds, run.speed);
  return matrix;
}

}  // namespace dunefield
