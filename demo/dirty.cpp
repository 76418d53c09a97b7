// A van as a scanner might deliver it: in millimetres, turned, shifted, with holes, doubled and
// flipped facets and stray bits.
#include <random>

#include <demo/garage.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield::garage {

Surface dirty_marram() {
  Surface s = marram();
  weld(s);
  std::mt19937 random(20);
  std::size_t kept = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    const Vec3 c = s.centroid(t);
    // Two holes a hand wide in the roof and the side, and single facets lost here and there.
    const bool hole = norm(c - Vec3{0.6, 0.2, 2.2}) < 0.16 ||
                      norm(c - Vec3{0.9, 0.93, 1.3}) < 0.18 || random() % 400 == 0;
    if (!hole) s.triangles[kept] = s.triangles[t], s.part_of[kept++] = s.part_of[t];
  }
  s.triangles.resize(kept), s.part_of.resize(kept);
  const std::size_t single = s.size();
  for (std::size_t t = 0; t < single; ++t)
    if (random() % 12 == 0)
      s.triangles.push_back(s.triangles[t]), s.part_of.push_back(s.part_of[t]);
  for (auto& t : s.triangles)
    if (random() % 2) std::swap(t[0], t[1]);
  for (int i = 0; i < 12; ++i) {
    const auto share = [&] { return static_cast<double>(random() % 1000) / 1000; };
    append(s,
           sphere("scan noise", {-2.3 + 4.6 * share(), -0.8 + 1.6 * share(), 2.3 + 0.3 * share()},
                  0.003 + 0.006 * share(), 8));
  }
  // Nose towards +y, and anywhere but on the road.
  for (Vec3& p : s.points) p = Vec3{p.y, -p.x, p.z} * 1000 + Vec3{812.5, -2304, 455};
  return s;
}

}  // namespace dunefield::garage
