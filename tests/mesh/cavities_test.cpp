// Cavities behind narrow openings are closed and reported, others stay open.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

/// A hollow box of sheets with a slot all across its rear, `wide` in height.
Surface hollow_box(double wide) {
  Surface s;
  s.part_names = {"shell"};
  const Box b{{-0.6, -0.4, 0.503}, {0.6, 0.4, 1.107}};
  const auto quad = [&](const Vec3& p, const Vec3& u, const Vec3& v) {
    const int n = static_cast<int>(s.points.size());
    for (const Vec3& q : {p, p + u, p + u + v, p + v}) s.points.push_back(q);
    s.triangles.push_back({n, n + 1, n + 2}), s.triangles.push_back({n, n + 2, n + 3});
  };
  const Vec3 x{b.size().x, 0, 0}, y{0, b.size().y, 0}, z{0, 0, b.size().z};
  quad(b.lo, x, y), quad(b.lo + z, x, y), quad(b.lo, x, z), quad(b.lo + y, x, z), quad(b.lo, y, z);
  const double low = 0.3;
  quad(b.lo + x, y, {0, 0, low});
  quad(b.lo + x + Vec3{0, 0, low + wide}, y, {0, 0, b.size().z - low - wide});
  s.part_of.assign(s.triangles.size(), 0);
  return s;
}

const Box tunnel{{-2, -1.5, 0}, {3, 1.5, 2.4}};

MeshOptions with_closed_openings(double closed_opening) {
  MeshOptions o;
  o.surface_size = 0.05, o.largest_size = 0.4, o.smallest_size = 0.0125;
  o.gap_cells = 3, o.thin_cells = 1.5, o.slot_halvings = 0, o.closed_opening = closed_opening;
  o.sheet_parts = {"shell"};  // otherwise winding numbers fill it
  return o;
}

double displaced(const Surface& s, double closed_opening, std::string& reported) {
  const MeshResult m = build_mesh(s, tunnel, with_closed_openings(closed_opening));
  for (const Finding& f : m.findings)
    if (f.text.find("cavity closed") != std::string::npos) reported = f.text;
  const Vec3 size = m.tunnel.size();
  double air = 0;
  for (const double v : m.mesh.cell_volume) air += v;
  return size.x * size.y * size.z - air;
}

TEST(Cavities, BehindANarrowSlotAreClosedAndReported) {
  constexpr double whole = 1.2 * 0.8 * 0.604, slot = 0.045;
  std::string reported, open;
  EXPECT_NEAR(displaced(hollow_box(slot), 2, reported), whole, 0.01 * whole);
  ASSERT_FALSE(reported.empty());
  const auto number_after = [&](const char* words) {
    return std::stod(reported.substr(reported.find(words) + std::string(words).size()));
  };
  EXPECT_NEAR(number_after("closed: "), 1000 * whole, 100);
  EXPECT_NEAR(number_after("m, is "), 1000 * slot, 12);
  EXPECT_NE(reported.find("(0.6"), std::string::npos) << "where the slot is: " << reported;
  EXPECT_LT(displaced(hollow_box(slot), 0, open), 0.01 * whole) << "kept where it is wanted";
  EXPECT_TRUE(open.empty());
}

TEST(Cavities, AreFoundBeforeAnyMeshIsMade) {
  const std::vector<Cavity> found =
      find_cavities(hollow_box(0.045), tunnel, with_closed_openings(2));
  ASSERT_EQ(found.size(), 1u);
  EXPECT_NEAR(found[0].opening, 0.045, 0.012);
  EXPECT_NEAR(found[0].opening_place.x, 0.6, 0.06);
  EXPECT_NEAR(found[0].place.z, 0.805, 0.03);
  EXPECT_TRUE(find_cavities(hollow_box(0.045), tunnel, with_closed_openings(0)).empty());
}

TEST(Cavities, BehindAWideOpeningStayOpen) {
  std::string reported;
  EXPECT_LT(displaced(hollow_box(0.2), 2, reported), 0.01);
  EXPECT_TRUE(reported.empty());
}

}  // namespace
}  // namespace dunefield
