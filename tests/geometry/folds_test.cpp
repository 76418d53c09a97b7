// Folds of a surface: sharp edges and small turns, seen through facets without width.
#include <numbers>

#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/folds.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/surfaces.hpp>

namespace dunefield {
namespace {

using test::quartered;
constexpr double degree = std::numbers::pi / 180;

Surface of_triangles(std::vector<Vec3> points, std::vector<std::array<int, 3>> triangles) {
  Surface s;
  s.part_names = {"strip"};
  s.points = std::move(points), s.triangles = std::move(triangles);
  s.part_of.assign(s.triangles.size(), 0);
  return s;
}

TEST(Folds, ABoxHasTwelveEdges) {
  const Surface box = rounded_box("box", Box{{0, 0, 0}, {1, 2, 3}}, 0);
  double length = 0;
  for (const Fold& f : folds_of(box, 40 * degree, 178 * degree)) {
    EXPECT_NEAR(f.angle, 90 * degree, 1e-9);
    length += norm(box.points[at(f.high)] - box.points[at(f.low)]);
  }
  EXPECT_NEAR(length, 4 * (1 + 2 + 3), 1e-9);
}

TEST(Folds, ACylinderTurnsByItsSegments) {
  const Surface drum = cylinder("drum", {0, 0, 0}, {0, 0, 1}, 0.5, 36);
  int turns = 0;
  for (const Fold& f : folds_of(drum, 1 * degree, 40 * degree)) {
    EXPECT_NEAR(f.angle, 10 * degree, 1e-6);
    ++turns;
  }
  EXPECT_EQ(turns, 36);
}

TEST(Folds, HowAFaceIsCutIntoFacetsDoesNotMatter) {
  const Surface drum = cylinder("drum", {0, 0, 0}, {0, 0, 1}, 0.5, 36);
  const auto widest = [](const Surface& s) {
    double least = 1e300, most = 0;
    for (const Fold& f : folds_of(s, 1 * degree, 40 * degree))
      least = std::min(least, f.width), most = std::max(most, f.width);
    EXPECT_NEAR(least, most, 1e-9);
    return most;
  };
  EXPECT_NEAR(widest(drum), 2 * std::sin(5 * degree), 1e-9);
  EXPECT_NEAR(widest(quartered(quartered(drum))), widest(drum), 1e-9);
}

/// Two flat halves side by side, their common edge split by a point that only one side uses: a
/// facet without width lies between.
Surface with_a_sliver(double slope) {
  return of_triangles({{0, -1, 0}, {0, 1, 0}, {1, 0, slope}, {-1, 0, 0}, {0, 0, 0}},
                      {{0, 2, 1}, {0, 4, 3}, {4, 1, 3}, {0, 1, 4}});
}

TEST(Folds, SliversAreLookedThrough) {
  EXPECT_TRUE(folds_of(with_a_sliver(0), 1e-3, 178 * degree).empty())
      << "a sliver's normal is noise, not an edge";
  const auto folds = folds_of(with_a_sliver(1), 1e-3, 178 * degree);
  ASSERT_FALSE(folds.empty());
  for (const Fold& f : folds) EXPECT_NEAR(f.angle, 45 * degree, 1e-9);
}

TEST(Folds, FacetsTurnedOverAreNoEdge) {
  Surface box = rounded_box("box", Box{{0, 0, 0}, {1, 1, 1}}, 0);
  std::swap(box.triangles[3][1], box.triangles[3][2]);
  for (const Fold& f : folds_of(box, 40 * degree, 178 * degree))
    EXPECT_NEAR(f.angle, 90 * degree, 1e-9);
}

}  // namespace
}  // namespace dunefield
