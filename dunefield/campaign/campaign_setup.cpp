#include <dunefield/campaign/campaign_setup.hpp>

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_checks.hpp>
#include <dunefield/campaign/changes.hpp>
#include <dunefield/campaign/sections.hpp>
#include <dunefield/campaign/together.hpp>
#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/mesh/morph/morph.hpp>

namespace dunefield {
namespace {

/// How far the vehicles of all variants are shifted into the tunnel's axes.
Vec3 common_shift(const Campaign& c, const Surface& base, Findings& findings) {
  Findings unsaid;
  const Surface first =
      base.size() > 0 ? base : variant_surface(c, c.variants.front(), base, unsaid);
  if (c.section && (!c.section->ground || c.section->clearance))
    return to_quarter_chord(first, section_plane(c));
  return placement(first, c.placing, findings);
}

Vehicle variant_vehicle(const Campaign& c, const Campaign::Variant& v, const Surface& base,
                        const Vec3& shift, Findings& findings) {
  Findings said;
  Surface upright = variant_surface(c, v, base, said);
  Vehicle placed = placed_vehicle(v.name, std::move(upright), shift, c.placing, c.file.string());
  said.append(placed.findings);
  apply_ride(placed.surface, c.ride, placed.wheels, key(c, "ride"));
  apply_ride(placed.surface, v.ride, placed.wheels, key(c, "ride"));
  for (const Finding& f : said)
    findings.note(c.variants.size() > 1 ? "variant '" + v.name + "': " + f.text : f.text);
  placed.findings = {};
  if (!c.companions.empty()) {
    join(placed, c.vehicle_name, c.companions, c.file.string());
    if (!v.vehicles.empty()) keep_only(placed, v.vehicles, key(c, "variant"));
    for (const Finding& f : placed.findings) findings.note(f.text);
    placed.findings = {};
  } else if (!v.vehicles.empty()) {
    throw InputError("variant '" + v.name + "' names vehicles, but there is one only",
                     key(c, "variant"), "write [[vehicle]] tables, or leave `vehicles` out");
  }
  if (c.section) cut_to_section(placed, c, section_plane(c) + shift.y, findings);
  placed.frontal_area =
      c.section ? bounds(placed.surface).size().z * section_depth : frontal_area(placed.surface);
  return placed;
}

CommonFrame common_frame(const Campaign& c, const std::vector<Vehicle>& vehicles,
                         Findings& findings) {
  if (c.section) return frame_of_section(c, vehicles);
  const Vehicle& first = vehicles.front();
  if (!(first.frontal_area > 0))
    throw InputError("the vehicle has no frontal area above the road", c.file.string(),
                     "check unit, nose and height");
  CommonFrame f;
  for (const Vehicle& v : vehicles) f.bounds.include(bounds(v.surface));
  f.frontal_area = first.frontal_area;
  double own_area = first.frontal_area, own_length = bounds(first.surface).size().x;
  std::vector<Wheel> wheels = first.wheels;
  if (!first.group.empty()) {  // coefficients are referred to the first vehicle alone
    own_area = first.group.front().frontal_area, own_length = first.group.front().bounds.size().x;
    std::erase_if(wheels, [&](const Wheel& w) {
      return group_of(first.group, w.part).name != first.group.front().name;
    });
    for (const VehicleGroup& g : first.group) {
      f.bounds.include(g.bounds);
      f.vehicle_length = std::max(f.vehicle_length, characteristic_length(g.bounds));
    }
  }
  f.reference_area = c.frontal_area.value_or(own_area);
  const double wheelbase = wheelbase_of(wheels);
  f.reference_length = c.wheelbase.value_or(wheelbase > 0 ? wheelbase : own_length);
  if (!c.wheelbase && wheelbase <= 0)
    findings.warn("no wheelbase is known: moments are referred to the vehicle's length");
  return f;
}

/// Settings may move companions: all have the tunnel that holds them all.
void include_other_places(const Campaign& c, const Surface& base, const Vec3& shift,
                          CommonFrame& frame) {
  for (const Settings& settings : c.settings) {
    if (!changes_the_vehicle(settings)) continue;
    const Campaign own = parse_campaign(c.text, c.file, settings);
    Findings unsaid;
    for (const VehicleGroup& g :
         variant_vehicle(own, own.variants.front(), base, shift, unsaid).group)
      frame.bounds.include(g.bounds);
  }
}

void add_speeds_of_reynolds(Campaign& c, double length, Findings& findings) {
  for (const double re : c.reynolds_numbers) {
    const double v = re * c.conditions.air.kinematic_viscosity / length;
    c.speeds.push_back(v);
    findings.note(fmt::format("Reynolds number {:.3g} on {:.3f} m is {:.2f} m/s ({:.1f} km/h)", re,
                              length, v, 3.6 * v));
  }
}

/// What the file says of parts, as far as this vehicle has them.
void keep_own_parts(RunSetup& s) {
  const auto missing = [&](const std::string& part) {
    return part != "road" && s.vehicle.surface.find_part(part) < 0;
  };
  std::erase_if(s.recipe.part_size, [&](const auto& p) { return missing(p.first); });
  std::erase_if(s.recipe.sheet_parts, [&](const auto& p) { return missing(p); });
  std::erase_if(s.conditions.roughness, [&](const auto& p) { return missing(p.first); });
  std::erase_if(s.conditions.wall_temperature, [&](const auto& p) { return missing(p.first); });
  std::erase_if(s.conditions.wall_heat, [&](const auto& p) { return missing(p.first); });
}

/// At the model's size. Those that a part gives its place to are put there: it is air, and goes.
std::vector<AirDevice> devices_of(const Campaign& c, const Campaign::Variant& v, Surface& vehicle) {
  std::vector<AirDevice> all;
  if (v.devices)
    for (const std::string& name : *v.devices)
      if (std::none_of(c.devices.begin(), c.devices.end(),
                       [&](const AirDevice& d) { return d.name == name; }) &&
          std::none_of(c.openings.begin(), c.openings.end(),
                       [&](const Opening& o) { return o.part == name; }))
        throw InputError("variant '" + v.name + "' names the device '" + name +
                             "', which no [[core]], [[fan]] or [[opening]] describes",
                         key(c, "variant.devices"), "check its name");
  for (AirDevice d : c.devices) {
    if (v.devices && std::find(v.devices->begin(), v.devices->end(), d.name) == v.devices->end())
      continue;
    if (const auto part = c.part_of_device.find(d.name); part != c.part_of_device.end()) {
      const int number = vehicle.find_part(part->second);
      const bool away = std::find(v.remove.begin(), v.remove.end(), part->second) != v.remove.end();
      if (number < 0 && away) continue;
      if (number < 0)
        throw InputError(
            "device '" + d.name + "' is at part '" + part->second + "', which does not exist",
            key(c, "core.part"), "check its name with inspect");
      d = at_part(d, vehicle, number, c.placing.scale);
    }
    d.centre = d.centre * c.placing.scale;
    for (double* length : {&d.width, &d.height, &d.depth}) *length *= c.placing.scale;
    all.push_back(d);
  }
  std::vector<bool> keep(vehicle.part_names.size(), true);
  for (const auto& [device, part] : c.part_of_device)
    if (const int number = vehicle.find_part(part); number >= 0) keep[at(number)] = false;
  if (std::find(keep.begin(), keep.end(), false) != keep.end())
    vehicle = select_parts(vehicle, keep), drop_unused_points(vehicle);
  return all;
}

/// Those whose part the variant has: the others' parts are walls or away.
std::vector<Opening> openings_of(const Campaign& c, const Campaign::Variant& v,
                                 const Surface& vehicle) {
  std::vector<Opening> all;
  for (const Opening& o : c.openings) {
    const bool named =
        !v.devices || std::find(v.devices->begin(), v.devices->end(), o.part) != v.devices->end();
    const bool taken_away = std::find(v.remove.begin(), v.remove.end(), o.part) != v.remove.end();
    if (named && !(taken_away && vehicle.find_part(o.part) < 0)) all.push_back(o);
  }
  return all;
}

RunSetup run_setup(const Campaign& c, Vehicle vehicle, const CommonFrame& frame,
                   const Campaign::Variant& variant) {
  RunSetup s;
  s.vehicle = std::move(vehicle);
  s.tunnel = c.tunnel, s.recipe = c.recipe, s.conditions = c.conditions;
  s.flow = c.flow, s.limits = c.limits, s.readings = c.readings, s.time = c.time;
  s.conditions.set_speed(c.speeds.front());
  s.recipe.layers.y_plus_speed = c.speeds.front();
  s.frame = frame;
  s.devices = devices_of(c, variant, s.vehicle.surface);
  s.openings = openings_of(c, variant, s.vehicle.surface);
  s.mesh_file = variant.mesh;
  s.campaign = c.name, s.where = c.file.string();
  keep_own_parts(s);
  return s;
}

/// Whether a key of the file means something to a variant.
bool concerns(const Campaign& c, std::size_t variant, const std::string& key) {
  const Campaign::Variant& v = c.variants[variant];
  const auto below = [&](const std::string& list, const std::string& name) {
    return key.starts_with(list + name + ".");
  };
  // Where a vehicle stands is of no account to one that is alone.
  if (is_place_of_vehicle(key) && v.vehicles.size() == 1) return false;
  for (const Companion& one : c.companions)
    if (below("vehicle.", one.name) && !v.vehicles.empty() &&
        std::find(v.vehicles.begin(), v.vehicles.end(), one.name) == v.vehicles.end())
      return false;
  if (key.starts_with("variant."))
    return below("variant.", v.name) || below("variant.", std::to_string(variant + 1));
  if (!key.starts_with("shape.")) return true;
  for (std::size_t i = 0; i < c.shapes.size(); ++i) {
    const std::string& name = c.shapes[i].part_names[0];
    if (!below("shape.", name) && !below("shape.", std::to_string(i + 1))) continue;
    const auto has = [&](const std::vector<std::string>& names) {
      return std::find(names.begin(), names.end(), name) != names.end();
    };
    return has(c.shapes_of_vehicle) || has(v.shapes);
  }
  return true;
}

/// CAD files are cut into facets as finely as the recipe needs them.
void cut_curves_for_recipe(Campaign& c) {
  c.placing.curves = curves_for(c.recipe.name);
  for (Companion& one : c.companions) one.placing.curves = c.placing.curves;
}

bool stands_still(const Wheel& a, const Wheel& b) {
  constexpr double much = 1e-4;  // m
  return a.part == b.part && norm(a.centre - b.centre) < much;
}

/// A variant that differs from the first in where its points are runs on the first one's mesh,
/// which follows its shape: what the cells do to both is then the same. Wheels stay on their axles.
void follow_first(RunSetup& s, const RunSetup& first, const Campaign& c) {
  const Surface &from = first.vehicle.surface, &to = s.vehicle.surface;
  if (!c.morph || c.section || !s.mesh_file.empty() || !first.mesh_file.empty()) return;
  if (!same_facets(from, to) || s.vehicle.wheels.size() != first.vehicle.wheels.size()) return;
  for (std::size_t i = 0; i < s.vehicle.wheels.size(); ++i)
    if (!stands_still(s.vehicle.wheels[i], first.vehicle.wheels[i])) return;
  for (std::size_t t = 0; t < from.size(); ++t)
    for (int k = 0; k < 3; ++k)
      if (!(from.corner(t, k) == to.corner(t, k))) {
        s.morph_of = std::make_shared<const Surface>(from);
        return;
      }
}

/// All variants take their sizes from one sketch of the first, at the first speed.
Adaptation adaptation_of(const RunSetup& first) {
  RunSetup plain = first;
  plain.recipe.adapt = false;
  RunSetup sketch = plain;
  sketch.recipe.name = "sketch", sketch.recipe.lattice = 0;
  sketch.recipe.surface_size.reset(), sketch.recipe.target_cells.reset();
  sketch.readings = {}, sketch.time.reset(), sketch.limits = {}, sketch.settings.clear();
  sketch.check();
  return {std::make_shared<const RunSetup>(std::move(sketch)),
          std::make_shared<const RunSetup>(std::move(plain))};
}

void adapt(CampaignSetup& s) {
  if (!s.campaign.recipe.adapt) return;
  for (const RunSetup& v : s.variants)
    if (s.campaign.section || !v.mesh_file.empty())
      throw InputError("sections and external meshes cannot be adapted",
                       key(s.campaign, "mesh.adapt"), "remove adapt");
  const Adaptation from = adaptation_of(s.variants.front());
  for (RunSetup& v : s.variants) v.adaptation = from;
}

/// A variant with other settings than the first: in the same frame, with the same sizes.
RunSetup with_setting(const CampaignSetup& s, std::size_t variant, const Settings& settings) {
  const Campaign c = [&] {
    Campaign own = parse_campaign(s.campaign.text, s.campaign.file, settings);
    own.speeds = s.campaign.speeds, own.recipe.name = s.campaign.recipe.name;
    cut_curves_for_recipe(own);
    return own;
  }();
  const Campaign::Variant& v = c.variants.at(variant);
  const RunSetup& first = s.variants.at(variant);
  Findings unsaid;
  Vehicle vehicle = changes_the_vehicle(settings)
                        ? variant_vehicle(c, v, base_surface(c), s.shift, unsaid)
                        : first.vehicle;
  RunSetup own = run_setup(c, std::move(vehicle), s.frame(), v);
  own.settings = settings;
  const bool own_sizes = std::any_of(settings.begin(), settings.end(), [](const Setting& set) {
    return set.key.starts_with("mesh.");
  });
  if (!own_sizes)
    own.recipe.surface_size = s.variants.front().recipe.surface_size,
    own.recipe.target_cells.reset();
  own.check();
  if (own.recipe.adapt) {
    RunSetup sized = s.variants.front();
    sized.recipe = own.recipe, sized.adaptation.reset();
    own.adaptation = own_sizes ? adaptation_of(sized) : s.variants.front().adaptation;
  }
  follow_first(own, s.variants.front(), c);
  return own;
}

}  // namespace

std::vector<MatrixRun> CampaignSetup::matrix() const {
  std::vector<MatrixRun> all;
  // Lattice after lattice, so that all variants can be compared as soon as may be.
  for (int lattice = 0; lattice < campaign.lattices; ++lattice)
    for (std::size_t v = 0; v < variants.size(); ++v)
      for (std::size_t setting = 0; setting < campaign.settings.size(); ++setting)
        for (const double speed : campaign.speeds) all.push_back({v, speed, setting, lattice});
  // What settings of other variants tell apart is one run of this one.
  std::set<std::string> seen;
  std::erase_if(all, [&](const MatrixRun& r) {
    return campaign.settings.size() > 1 &&
           !seen.insert(fmt::format("{}/{}/{}/{}", r.lattice, r.variant, r.speed,
                                    in_words(settings_of(r))))
                .second;
  });
  return all;
}

Settings CampaignSetup::settings_of(const MatrixRun& which) const {
  Settings all = campaign.settings.at(which.setting);
  std::erase_if(all, [&](const Setting& s) { return !concerns(campaign, which.variant, s.key); });
  return all;
}

RunSetup CampaignSetup::run(const MatrixRun& which) const {
  RunSetup s = which.setting == 0 ? variants.at(which.variant)
                                  : with_setting(*this, which.variant, settings_of(which));
  s.conditions.set_speed(which.speed);
  s.recipe.lattice = which.lattice;
  return s;
}

CampaignSetup prepare(const Campaign& given) {
  CampaignSetup s;
  s.campaign = given;
  cut_curves_for_recipe(s.campaign);
  const Campaign campaign = s.campaign;
  check_files(campaign);
  if (campaign.baseline.empty()) s.campaign.baseline = campaign.variants.front().name;
  const Surface base = base_surface(campaign);
  s.shift = common_shift(campaign, base, s.findings);
  std::vector<Vehicle> vehicles;
  for (const Campaign::Variant& v : campaign.variants)
    vehicles.push_back(variant_vehicle(campaign, v, base, s.shift, s.findings));
  CommonFrame frame = common_frame(campaign, vehicles, s.findings);
  if (!campaign.companions.empty()) include_other_places(campaign, base, s.shift, frame);
  check_names(campaign, vehicles);
  add_speeds_of_reynolds(s.campaign, frame.reference_length, s.findings);
  for (std::size_t i = 0; i < vehicles.size(); ++i)
    s.variants.push_back(
        run_setup(s.campaign, std::move(vehicles[i]), frame, campaign.variants[i])),
        s.variants.back().settings = s.settings_of({i});
  // What a later setting gets wrong in the file is said now, not in the night.
  for (std::size_t i = 1; i < campaign.settings.size(); ++i)
    parse_campaign(campaign.text, campaign.file, campaign.settings[i]);
  check_variants(s);
  for (std::size_t i = 1; i < s.variants.size(); ++i)
    follow_first(s.variants[i], s.variants.front(), s.campaign);
  adapt(s);
  warn_of_scatter(s);
  return s;
}

}  // namespace dunefield
