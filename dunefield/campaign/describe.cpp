// A campaign's set-up in plain words.
#include <algorithm>

#include <fmt/format.h>

#include <dunefield/campaign/campaign_setup.hpp>

namespace dunefield {
namespace {

constexpr double degrees = 57.29577951308232;

/// With Reynolds numbers on the vehicle's length; many speeds by their range.
std::string speeds_in_words(const CampaignSetup& s) {
  const Campaign& c = s.campaign;
  const double length = bounds(s.variants.front().vehicle.surface).size().x,
               reynolds = length / c.conditions.air.kinematic_viscosity;  // at 1 m/s
  constexpr std::size_t told_one_by_one = 8;
  if (c.speeds.size() > told_one_by_one) {
    const auto [least, most] = std::minmax_element(c.speeds.begin(), c.speeds.end());
    return fmt::format("{} speeds from {:.4g} to {:.4g} km/h (Re {:.2g} to {:.2g})",
                       c.speeds.size(), 3.6 * *least, 3.6 * *most, *least * reynolds,
                       *most * reynolds);
  }
  std::string all;
  for (const double u : c.speeds)
    all += fmt::format("{}{:.4g} km/h (Re {:.2g})", all.empty() ? "" : ", ", 3.6 * u, u * reynolds);
  return all;
}

}  // namespace

std::vector<std::string> describe(const CampaignSetup& s) {
  const Campaign& c = s.campaign;
  std::vector<std::string> lines = s.variants.front().in_words();
  if (c.section) lines.front() += fmt::format("; cut at y = {:.3f} m", c.section->at);
  if (!c.surfaces.empty())
    lines.front() += fmt::format("; nose towards {} in the files", c.placing.nose);
  if (!c.ride.none())
    lines.push_back(
        fmt::format("ride       {:+.1f} mm front, {:+.1f} mm rear, pitch {:+.2f} deg "
                    "nose up",
                    1000 * c.ride.front, 1000 * c.ride.rear, degrees * c.ride.pitch));
  for (std::size_t i = 1; i < s.variants.size(); ++i)
    if (!s.variants[i].mesh_file.empty())
      lines.push_back(fmt::format("mesh       of '{}' from {}", s.variants[i].vehicle.name,
                                  s.variants[i].mesh_file.string()));
  for (std::size_t i = 1; i < s.variants.size(); ++i)
    if (s.variants[i].morph_of)
      lines.push_back(fmt::format("mesh       of '{}': that of '{}', deformed",
                                  s.variants[i].vehicle.name, s.variants.front().vehicle.name));
  if (c.recipe.adapt)
    lines.push_back(fmt::format("cells      sizes follow a sketch of '{}' at {}",
                                s.variants.front().vehicle.name,
                                c.units.speed_text(c.speeds.front())));
  if (c.placing.scale != 1)
    lines.push_back(fmt::format(
        "scale      {:.4g}: {:.4g} km/h have the Reynolds number of the full size at {:.4g} km/h",
        c.placing.scale, 3.6 * c.speeds.front(), 3.6 * c.speeds.front() * c.placing.scale));
  lines.push_back(fmt::format(
      "runs       {} variant{} at {}{}{}", s.variants.size(), s.variants.size() == 1 ? "" : "s",
      speeds_in_words(s),
      c.settings.size() > 1 ? fmt::format(", each with {} settings", c.settings.size()) : "",
      c.lattices > 1 ? fmt::format(", each on {} lattices", c.lattices) : ""));
  return lines;
}

}  // namespace dunefield
