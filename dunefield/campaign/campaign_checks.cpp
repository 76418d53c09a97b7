#include <dunefield/campaign/campaign_checks.hpp>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <set>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/paired_scatter.hpp>
#include <dunefield/mesh/morph/morph.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

/// What is said, whatever its numbers.
std::string without_numbers(std::string text) {
  std::erase_if(text, [](char c) { return (c >= '0' && c <= '9') || c == '.' || c == '-'; });
  return text;
}

}  // namespace

std::string key(const Campaign& c, const char* name) { return c.file.string() + " (" + name + ")"; }

void check_files(const Campaign& c) {
  std::vector<fs::path> wanted = c.surfaces;
  for (const Companion& one : c.companions)
    wanted.insert(wanted.end(), one.surfaces.begin(), one.surfaces.end());
  for (const Campaign::Variant& v : c.variants) {
    wanted.insert(wanted.end(), v.add.begin(), v.add.end());
    for (const Change& change : v.changes)
      if (change.kind == Change::Kind::replace) wanted.push_back(change.file);
  }
  std::string missing;
  std::set<fs::path> seen;
  std::error_code status;
  for (const fs::path& f : wanted)
    if (!fs::exists(f, status) && seen.insert(f).second)
      missing += (missing.empty() ? "" : ", ") + f.string();
  if (seen.size() > 1) throw InputError("there are no such files", missing, "check the paths");
  if (!missing.empty()) throw InputError("there is no such file", missing, "check the path");
}

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
  for (const auto& [table, of_parts] :
       {std::pair{"wall_temperature", &c.conditions.wall_temperature},
        {"wall_heat", &c.conditions.wall_heat}})
    for (const auto& [part, value] : *of_parts)
      if (!known(part))
        throw InputError(fmt::format("{} names part '{}', which no variant has", table, part),
                         key(c, table), "check its name");
  for (const auto& [part, size] : c.recipe.part_size)
    if (!known(part))
      throw InputError("a size is given for part '" + part + "', which no variant has",
                       key(c, "mesh.parts"), "check its name");
}

/// Largest change of a point's distance from the middle of its part, m: 0 of what only moves or
/// turns.
double distortion(const Surface& from, const Surface& to, int part) {
  Vec3 middle_from, middle_to;
  double corners = 0;
  const auto for_corners = [&](const auto& visit) {
    for (std::size_t t = 0; t < from.size(); ++t)
      for (int k = 0; from.part_of[t] == part && k < 3; ++k)
        visit(from.corner(t, k), to.corner(t, k));
  };
  for_corners([&](const Vec3& a, const Vec3& b) { middle_from += a, middle_to += b, ++corners; });
  if (corners == 0) return 0;
  double most = 0;
  for_corners([&](const Vec3& a, const Vec3& b) {
    most =
        std::max(most, std::abs(norm(a - middle_from / corners) - norm(b - middle_to / corners)));
  });
  return most;
}

void check_wheels_stay_round(const CampaignSetup& s) {
  constexpr double round = 1e-3;  // of the radius
  const RunSetup& first = s.variants.front();
  const Surface& from = first.vehicle.surface;
  for (std::size_t i = 1; i < s.variants.size(); ++i) {
    const Surface& to = s.variants[i].vehicle.surface;
    const std::vector<Change>& changes = s.campaign.variants[i].changes;
    const auto smooth = std::find_if(changes.begin(), changes.end(), [](const Change& c) {
      return c.kind == Change::Kind::reshape;
    });
    if (smooth == changes.end() || !same_facets(from, to)) continue;
    for (const Wheel& w : first.vehicle.wheels)
      if (const int part = from.find_part(w.part);
          part >= 0 && distortion(from, to, part) > round * w.radius)
        throw InputError(fmt::format("variant '{}' changes the shape of '{}', which turns",
                                     s.campaign.variants[i].name, w.part),
                         smooth->where,
                         "name the part to change, or leave the wheel out of the box");
  }
}

void check_variants(CampaignSetup& s) {
  check_wheels_stay_round(s);
  std::vector<std::string> said;
  for (RunSetup& v : s.variants) {
    if (&v != &s.variants.front()) {
      v.recipe.surface_size = s.variants.front().recipe.surface_size;
      v.recipe.target_cells.reset();
    }
    for (const Finding& f : v.check()) {
      const std::string kind = without_numbers(f.text);
      const bool first = &v == &s.variants.front();
      if (!first && std::find(said.begin(), said.end(), kind) != said.end()) continue;
      said.push_back(kind);
      if (f.level == Finding::Level::warning)
        s.findings.warn(first ? f.text : "variant '" + v.vehicle.name + "': " + f.text);
      else if (first)
        s.findings.note(f.text);
    }
  }
  RunSetup tried = s.variants.front();
  for (std::size_t i = 1; i < s.campaign.speeds.size(); ++i) {
    tried.conditions.set_speed(s.campaign.speeds[i]);
    for (const Finding& f : tried.check_speed())
      if (f.level == Finding::Level::warning &&
          std::find(said.begin(), said.end(), without_numbers(f.text)) == said.end())
        s.findings.warn(f.text), said.push_back(without_numbers(f.text));
  }
}

void warn_of_scatter(CampaignSetup& s) {
  const Campaign& campaign = s.campaign;
  const RunSetup& first = s.variants.front();
  RunIdentity run;
  run.recipe = first.recipe.name, run.coarseness = first.coarseness();
  run.blunt = first.blunt_end();
  const double asked = first.accuracy().drag,
               moved = paired_scatter(run).drag / std::sqrt(campaign.lattices);
  if (campaign.limits.drag_accuracy && s.variants.size() > 1 && asked < 0.2 * moved)
    s.findings.warn(fmt::format(
        "CD is asked for to {:.2g} % of each history, but where the cells lie moves a difference "
        "by {:.2g} %: more lattices ([certainty] lattices = 4) or a finer recipe make that less",
        100 * asked, 100 * moved));
}

}  // namespace dunefield
