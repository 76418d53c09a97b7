// Open edges that coincide become one, and no gap is closed by that.
#include <gtest/gtest.h>

#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/open_edges.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield {
namespace {

std::size_t open_edges_of(const Surface& s) {
  std::size_t open = 0;
  EdgeTable(s).for_each([&](int, int, auto uses) { open += uses.size() == 1; });
  return open;
}

/// Two strips side by side, the second one's facets twice as long and `gap` beside the first.
Surface two_strips(double gap) {
  Surface s;
  s.part_names = {"strip"};
  for (int i = 0; i <= 4; ++i)
    for (const double y : {0.0, 1.0}) s.points.push_back({0.5 * i, y, 0});
  for (int i = 0; i < 4; ++i) {
    const int a = 2 * i;
    s.triangles.push_back({a, a + 2, a + 1}), s.triangles.push_back({a + 1, a + 2, a + 3});
  }
  const int first = static_cast<int>(s.points.size());
  for (int i = 0; i <= 2; ++i)
    for (const double y : {1.0 + gap, 2.0}) s.points.push_back({1.0 * i, y, 0});
  for (int i = 0; i < 2; ++i) {
    const int a = first + 2 * i;
    s.triangles.push_back({a, a + 2, a + 1}), s.triangles.push_back({a + 1, a + 2, a + 3});
  }
  s.part_of.assign(s.triangles.size(), 0);
  return s;
}

TEST(OpenEdges, PointsAndTJunctionsAreJoined) {
  Surface s = two_strips(1e-6);
  ASSERT_EQ(open_edges_of(s), 16u);
  const double area = total_area(s);
  const JoinedEdges joined = join_open_edges(s, 1e-4);
  EXPECT_EQ(joined.points, 3u);
  EXPECT_EQ(joined.splits, 2u);
  EXPECT_EQ(open_edges_of(s), 10u) << "the rim around both";
  EXPECT_NEAR(total_area(s), area, 1e-5);
}

TEST(OpenEdges, AGapStaysOpen) {
  Surface s = two_strips(2e-4);
  const JoinedEdges joined = join_open_edges(s, 1e-4);
  EXPECT_EQ(joined.points + joined.splits, 0u);
  EXPECT_EQ(open_edges_of(s), 16u);
}

TEST(OpenEdges, AClosedSurfaceStaysAsItIs) {
  Surface s = rounded_box("box", Box{{0, 0, 0}, {1, 1, 1}}, 0.1, 3);
  const Surface before = s;
  join_open_edges(s, 1e-3);
  EXPECT_EQ(s.triangles, before.triangles);
}

}  // namespace
}  // namespace dunefield
