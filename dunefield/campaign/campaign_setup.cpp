#include <dunefield/campaign/campaign_setup.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/changes.hpp>
#include <dunefield/campaign/paired_scatter.hpp>
#include <dunefield/geometry/frontal_area.hpp>

namespace dunefield {
namespace {

constexpr double degrees = 57.29577951308232;

std::string key(const Campaign& c, const char* name) { return c.file.string() + " (" + name + ")"; }

/// The vehicles of all variants, placed by the same shift.
std::vector<Vehicle> placed_vehicles(const Campaign& c, Findings& findings) {
  const Surface base = base_surface(c);
  Findings unsaid;
  const Surface first =
      base.size() > 0 ? base : variant_surface(c, c.variants.front(), base, unsaid);
  const Vec3 shift = placement(first, c.placing, findings);
  std::vector<Vehicle> vehicles;
  for (const auto& v : c.variants) {
    Findings said;
    Surface upright = variant_surface(c, v, base, said);
    Vehicle placed = placed_vehicle(v.name, std::move(upright), shift, c.placing, c.file.string());
    said.append(placed.findings);
    apply_ride(placed.surface, c.ride, placed.wheels, key(c, "ride"));
    apply_ride(placed.surface, v.ride, placed.wheels, key(c, "ride"));
    for (const Finding& f : said)
      findings.note(c.variants.size() > 1 ? "variant '" + v.name + "': " + f.text : f.text);
    placed.findings = {};
    placed.frontal_area = frontal_area(placed.surface);
    vehicles.push_back(std::move(placed));
  }
  return vehicles;
}

CommonFrame common_frame(const Campaign& c, const std::vector<Vehicle>& vehicles,
                         Findings& findings) {
  const Vehicle& first = vehicles.front();
  if (!(first.frontal_area > 0))
    throw InputError("the vehicle has no frontal area above the road", c.file.string(),
                     "check unit, nose and height");
  CommonFrame f;
  for (const Vehicle& v : vehicles) f.bounds.include(bounds(v.surface));
  f.frontal_area = first.frontal_area;
  f.reference_area = c.frontal_area.value_or(first.frontal_area);
  const double wheelbase = wheelbase_of(first.wheels);
  f.reference_length =
      c.wheelbase.value_or(wheelbase > 0 ? wheelbase : bounds(first.surface).size().x);
  if (!c.wheelbase && wheelbase <= 0)
    findings.warn("no wheelbase is known: moments are referred to the vehicle's length");
  return f;
}

void add_speeds_of_reynolds(Campaign& c, double length, Findings& findings) {
  for (const double re : c.reynolds_numbers) {
    const double v = re * c.conditions.air.kinematic_viscosity / length;
    c.speeds.push_back(v);
    findings.note(fmt::format("Reynolds number {:.3g} on {:.3f} m is {:.2f} m/s ({:.1f} km/h)", re,
                              length, v, 3.6 * v));
  }
}

/// A name in the file must be that of a part of some variant.
void check_names(const Campaign& c, const std::vector<Vehicle>& vehicles) {
  const auto known = [&](const std::string& part) {
    return std::any_of(vehicles.begin(), vehicles.end(),
                       [&](const Vehicle& v) { return v.surface.find_part(part) >= 0; });
  };
  for (const auto& part : c.recipe.sheet_parts)
    if (!known(part))
      throw InputError("part '" + part + "' is named as a sheet, but no variant has it",
                       key(c, "vehicle.sheets"), "check its name");
  for (const auto& [part, height] : c.conditions.roughness)
    if (part != "road" && !known(part))
      throw InputError("a roughness is given for part '" + part + "', which no variant has",
                       key(c, "roughness"), "check its name; the road is \"road\"");
  for (const auto& [part, size] : c.recipe.part_size)
    if (!known(part))
      throw InputError("a size is given for part '" + part + "', which no variant has",
                       key(c, "mesh.parts"), "check its name");
}

/// What the file says of parts, as far as this vehicle has them.
void keep_own_parts(RunSetup& s) {
  const auto missing = [&](const std::string& part) {
    return part != "road" && s.vehicle.surface.find_part(part) < 0;
  };
  std::erase_if(s.recipe.part_size, [&](const auto& p) { return missing(p.first); });
  std::erase_if(s.recipe.sheet_parts, [&](const auto& p) { return missing(p); });
  std::erase_if(s.conditions.roughness, [&](const auto& p) { return missing(p.first); });
}

RunSetup run_setup(const Campaign& c, Vehicle vehicle, const CommonFrame& frame,
                   const Campaign::Variant& variant) {
  RunSetup s;
  s.vehicle = std::move(vehicle);
  s.tunnel = c.tunnel, s.recipe = c.recipe, s.conditions = c.conditions;
  s.flow = c.flow, s.limits = c.limits, s.readings = c.readings;
  s.conditions.speed = c.speeds.front();
  s.recipe.layers.y_plus_speed = c.speeds.front();
  s.frame = frame;
  s.mesh_file = variant.mesh;
  s.campaign = c.name, s.where = c.file.string();
  keep_own_parts(s);
  return s;
}

/// All variants are checked; what is said of the baseline is not said again.
void check_variants(CampaignSetup& s) {
  std::vector<std::string> said;
  for (RunSetup& v : s.variants) {
    if (&v != &s.variants.front()) {
      // All variants have the baseline's sizes.
      v.recipe.surface_size = s.variants.front().recipe.surface_size;
      v.recipe.target_cells.reset();
    }
    for (const Finding& f : v.check()) {
      if (std::find(said.begin(), said.end(), f.text) != said.end()) continue;
      said.push_back(f.text);
      if (&v != &s.variants.front()) continue;
      if (f.level == Finding::Level::warning)
        s.findings.warn(f.text);
      else
        s.findings.note(f.text);
    }
  }
  for (std::size_t i = 1; i < s.campaign.speeds.size(); ++i)
    for (const Finding& f : s.run(0, s.campaign.speeds[i]).check())
      if (f.level == Finding::Level::warning &&
          std::find(said.begin(), said.end(), f.text) == said.end())
        s.findings.warn(f.text), said.push_back(f.text);
}

/// An accuracy of the histories that the meshes' scatter drowns is paid for in vain.
void warn_of_scatter(CampaignSetup& s) {
  const Campaign& campaign = s.campaign;
  const double asked = s.variants.front().accuracy().drag,
               moved = paired_scatter(campaign.recipe.name).drag / std::sqrt(campaign.lattices);
  if (campaign.limits.drag_accuracy && s.variants.size() > 1 && asked < 0.2 * moved)
    s.findings.warn(fmt::format(
        "CD is asked for to {:.2g} % of each history, but where the cells lie moves a difference "
        "by "
        "{:.2g} %: more lattices ([certainty] lattices = 4) or a finer recipe make that less",
        100 * asked, 100 * moved));
}

}  // namespace

RunSetup CampaignSetup::run(std::size_t variant, double speed, int lattice) const {
  RunSetup s = variants.at(variant);
  s.conditions.speed = speed;
  s.recipe.lattice = lattice;
  return s;
}

CampaignSetup prepare(const Campaign& campaign) {
  CampaignSetup s;
  s.campaign = campaign;
  if (campaign.baseline.empty()) s.campaign.baseline = campaign.variants.front().name;
  std::vector<Vehicle> vehicles = placed_vehicles(campaign, s.findings);
  const CommonFrame frame = common_frame(campaign, vehicles, s.findings);
  check_names(campaign, vehicles);
  add_speeds_of_reynolds(s.campaign, frame.reference_length, s.findings);
  for (std::size_t i = 0; i < vehicles.size(); ++i)
    s.variants.push_back(
        run_setup(s.campaign, std::move(vehicles[i]), frame, campaign.variants[i]));
  check_variants(s);
  warn_of_scatter(s);
  return s;
}

std::vector<std::string> describe(const CampaignSetup& s) {
  const Campaign& c = s.campaign;
  std::vector<std::string> lines = s.variants.front().in_words();
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
  const double length = bounds(s.variants.front().vehicle.surface).size().x;
  std::string speeds;
  for (const double u : c.speeds)
    speeds += fmt::format("{}{:.4g} km/h (Re {:.2g})", speeds.empty() ? "" : ", ", 3.6 * u,
                          u * length / c.conditions.air.kinematic_viscosity);
  lines.push_back(fmt::format(
      "runs       {} variant{} at {}{}", s.variants.size(), s.variants.size() == 1 ? "" : "s",
      speeds, c.lattices > 1 ? fmt::format(", each on {} lattices", c.lattices) : ""));
  return lines;
}

}  // namespace dunefield
