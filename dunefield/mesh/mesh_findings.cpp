#include <dunefield/mesh/mesh_findings.hpp>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <map>
#include <numbers>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr std::size_t most_told = 5;  // of each kind; then how many more there are

std::string place(const Vec3& p) {
  return fmt::format("({:.3f}, {:.3f}, {:.3f}) m", p.x, p.y, p.z);
}
std::string place(const NarrowGap& g) {
  return (g.part == g.other ? "within " + g.part : "between " + g.part + " and " + g.other) +
         " at " + place(g.place);
}

std::string square_cm(double area_m2) {
  const double a = 1e4 * area_m2;
  return fmt::format("{:.{}f} cm2", a, a < 1 ? 2 : a < 10 ? 1 : 0);
}
/// Without exponent.
std::string three_digits(double v) {
  return fmt::format("{:.{}f}", v, v >= 100 ? 0 : v >= 10 ? 1 : 2);
}
/// "10 to 19", or one number where both are alike as they are told.
std::string range(double least, double most) {
  const std::string from = fmt::format("{:.0f}", least), to = fmt::format("{:.0f}", most);
  return from == to ? from : from + " to " + to;
}

/// @param tell   says one of them
/// @param beyond what more of them come to, behind their number
template <class Item, class Tell, class Say>
void tell_first(const std::vector<Item>& items, const Tell& tell, const char* beyond,
                const Say& say) {
  for (std::size_t i = 0; i < std::min(most_told, items.size()); ++i) say(tell(items[i]));
  if (items.size() > most_told) say(fmt::format("{} more {}", items.size() - most_told, beyond));
}

}  // namespace

void report_joined(const JoinedEdges& joined, double distance, Findings& findings) {
  if (joined.points + joined.splits == 0) return;
  findings.note(
      fmt::format(
          "open edges within {:.2g} mm of each other are joined: {} points, the first at {}",
          1000 * distance, joined.points + joined.splits, place(joined.place)),
      "mesh.joined-edges");
}

void report_cavities(const std::vector<Cavity>& cavities, Findings& findings) {
  constexpr double worth_telling = 1e-4;  // m3
  std::vector<Cavity> large;
  std::copy_if(cavities.begin(), cavities.end(), std::back_inserter(large),
               [](const Cavity& c) { return c.volume > worth_telling; });
  tell_first(
      large,
      [](const Cavity& c) {
        return fmt::format(
            "cavity closed: {} litres around {}; its widest opening, at {}, is {} mm wide; to keep "
            "the air in it, set [vehicle] cavities = \"open\"",
            three_digits(1000 * c.volume), place(c.place), place(c.opening_place),
            three_digits(1000 * c.opening));
      },
      "cavities are closed",
      [&](const std::string& text) { findings.note(text, "mesh.closed-cavity"); });
}

void report_pockets(const DualMesh& dual, Findings& findings) {
  tell_first(
      dual.pockets,
      [](const AirPocket& p) {
        return fmt::format("sealed air is not computed: {:.3g} litres in {} cells at {}",
                           1000 * p.volume, p.cells, place(p.place));
      },
      "sealed pockets of air are not computed",
      [&](const std::string& text) { findings.note(text, "mesh.sealed-air"); });
}

void report_thickened(const DualMesh& dual, const Surface& vehicle, Findings& findings) {
  struct Thickened {
    int crossings = 0;
    Vec3 first;
  };
  std::map<int, Thickened> of_part;
  for (const SolidField::Crossing& c : dual.crossings)
    if (c.assumed && ++of_part[c.part].crossings == 1) of_part[c.part].first = c.point;
  const std::vector<std::pair<int, Thickened>> parts(of_part.begin(), of_part.end());
  tell_first(
      parts,
      [&](const auto& p) {
        return fmt::format(
            "'{}' was treated as solid at {} places where it is open or thinner than a cell, "
            "the first at {}",
            vehicle.part_names[at(p.first)], p.second.crossings, place(p.second.first));
      },
      "parts are open or thinner than a cell somewhere",
      [&](const std::string& text) { findings.note(text, "mesh.thin-place"); });
}

void report_dents(const FilledDents& dents, Findings& findings) {
  if (dents.cells > 0)
    findings.note(
        fmt::format(
            "{} dents smaller than a cell were filled, {:.3g} cm3 in all, the largest at {}",
            dents.cells, 1e6 * dents.volume, place(dents.place)),
        "mesh.filled-dents");
}

void report_unsound(const FilledDents& cells, Findings& findings) {
  if (cells.cells > 0)
    findings.note(fmt::format("{} invalid cells became solid, {:.3g} cm3 in all, the largest at {}",
                              cells.cells, 1e6 * std::abs(cells.volume), place(cells.place)),
                  "mesh.invalid-cells");
}

void report_lost(const std::vector<LostPiece>& lost, Findings& findings) {
  tell_first(
      lost,
      [](const LostPiece& p) {
        return fmt::format(
            "{} of '{}' are not in the mesh: details there are smaller than its cells, some at {}",
            square_cm(p.area), p.part, place(p.place));
      },
      "parts have something that is too small to be in the mesh",
      [&](const std::string& text) { findings.note(text, "mesh.lost-detail"); });
}

void report_holes(const std::vector<LostPiece>& holes, Findings& findings) {
  tell_first(
      holes,
      [](const LostPiece& h) {
        return fmt::format(
            "air passes through '{}': the mesh has holes that the surface does not have, {} in "
            "all, one at {}; refine the mesh there",
            h.part, square_cm(h.area), place(h.place));
      },
      "parts have holes in the mesh",
      [&](const std::string& text) { findings.warn(text, "mesh.hole"); });
}

void report_closed_gaps(const std::vector<NarrowGap>& gaps, Findings& findings) {
  tell_first(
      gaps,
      [](const NarrowGap& g) {
        return fmt::format(
            "no air passes a gap of {:.1f} mm {}: it is {:.1f} cells wide and closed in the "
            "mesh, {}",
            1000 * g.width, place(g), g.cells, square_cm(g.area));
      },
      "gaps are closed in the mesh",
      [&](const std::string& text) { findings.warn(text, "mesh.closed-gap"); });
}

void report_facets(const CoarseFacets& f, Findings& findings) {
  constexpr double worth_telling = 0.02, much = 0.05;  // of the surface
  if (f.share < worth_telling) return;
  constexpr double degrees = 180 / std::numbers::pi;
  const std::string text = fmt::format(
      "the air feels the edges of coarse facets on {:.1f} % of the surface: they meet at {} "
      "degrees and are wider than the cells ({:.0f} mm on {:.0f} mm at {}); export the shape "
      "with finer facets, or use larger cells",
      100 * f.share, range(degrees * f.least_angle, degrees * f.largest_angle), 1000 * f.width,
      1000 * f.leaf, place(f.place));
  f.share < much ? findings.note(text, "mesh.coarse-facets")
                 : findings.warn(text, "mesh.coarse-facets");
}

void report_gaps(const std::vector<NarrowGap>& gaps, Findings& findings) {
  tell_first(
      gaps,
      [](const NarrowGap& g) {
        return fmt::format("a gap of {:.1f} mm {} is only {:.1f} cells wide, {}", 1000 * g.width,
                           place(g), g.cells, square_cm(g.area));
      },
      "gaps are fewer than three cells wide",
      [&](const std::string& text) { findings.note(text, "mesh.narrow-gap"); });
}

void report_missing_parts(const VolumeMesh& mesh, const Surface& vehicle, bool half,
                          Findings& findings) {
  std::vector<std::string> missing;
  for (const Boundary& boundary : mesh.boundaries) {
    if (boundary.kind != BoundaryKind::part || boundary.count > 0) continue;
    const Box box = bounds(vehicle, vehicle.find_part(boundary.name));
    if (!box.empty() && !(half && box.hi.y <= 0)) missing.push_back(boundary.name);
  }
  tell_first(
      missing,
      [](const std::string& part) {
        return fmt::format(
            "part '{}' has no face in the mesh: it is hidden in others or smaller than a cell",
            part);
      },
      "parts have no face in the mesh",
      [&](const std::string& text) { findings.warn(text, "mesh.missing-part"); });
}

}  // namespace dunefield
