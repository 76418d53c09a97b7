#include <dunefield/geometry/shapes/wing.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield {
namespace {

/// The section's outline at a station, in place. A positive incidence lifts the trailing edge of a
/// wing turned over.
std::vector<Vec3> ring_at(const WingShape& w, double y, double chord, const Vec3& nose) {
  const double c = std::cos(w.incidence), s = std::sin(w.incidence) * (w.turned_over ? 1 : -1);
  std::vector<Vec3> ring;
  for (const auto& [x, up] : w.section.points) {
    const double z = w.turned_over ? -up : up;
    ring.push_back({nose.x + chord * (x * c - z * s), y, nose.z + chord * (x * s + z * c)});
  }
  return ring;
}

}  // namespace

Surface make_wing(const WingShape& w) {
  if (!(w.span > 0 && w.root_chord > 0 && w.tip_chord > 0))
    throw InputError("span and chords of wing '" + w.part + "' must be above zero", "wing",
                     "check them");
  if (w.section.points.size() < 6)
    throw InputError("wing '" + w.part + "' has no section", "wing",
                     "give a four-digit code or a section file");
  std::vector<std::vector<Vec3>> rings;
  constexpr int stations = 16;  // each side, so that long facets do not become slivers
  Vec3 tip[2];
  for (int i = -stations; i <= stations; ++i) {
    const double share = std::abs(i) / static_cast<double>(stations), out = 0.5 * w.span * share;
    const Vec3 nose = w.leading_edge + Vec3{out * std::tan(w.sweep), 0, out * std::tan(w.dihedral)};
    const double y = w.leading_edge.y + (i < 0 ? -out : out);
    rings.push_back(ring_at(w, y, w.root_chord + (w.tip_chord - w.root_chord) * share, nose));
    if (std::abs(i) == stations) tip[i > 0] = {nose.x, y, nose.z};
  }
  Surface s = loft(w.part, rings);
  if (w.end_plates) {
    const EndPlates& e = *w.end_plates;
    if (!(e.length > 0 && e.height > 0 && e.thickness > 0))
      throw InputError(
          "the end plates of wing '" + w.part + "' must have length, height and thickness", "wing",
          "check them");
    for (const int side : {0, 1}) {
      // The plate takes in the tip, so that there is no gap between them.
      const double inner = tip[side].y - (side ? 0.5 : -0.5) * e.thickness,
                   outer = inner + (side ? 1 : -1) * e.thickness;
      Box box;
      box.include(Vec3{tip[side].x - e.ahead, inner, tip[side].z + e.above - e.height});
      box.include(Vec3{tip[side].x - e.ahead + e.length, outer, tip[side].z + e.above});
      append(s, rounded_box(w.part, box, 0));
    }
  }
  return s;
}

}  // namespace dunefield
