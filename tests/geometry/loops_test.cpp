// Rims of holes as loops of edges, and holes closed.
#include <gtest/gtest.h>

#include <dunefield/geometry/health/health.hpp>
#include <dunefield/geometry/health/mending.hpp>
#include <dunefield/geometry/loops.hpp>

namespace dunefield {
namespace {

/// A flat sheet of 4 x 4 squares, less some of them, its outer rim open, too.
Surface sheet_without(const std::vector<std::array<int, 2>>& missing) {
  Surface s;
  s.part_names = {"sheet"};
  for (int j = 0; j <= 4; ++j)
    for (int i = 0; i <= 4; ++i) s.points.push_back({0.1 * i, 0.1 * j, 0});
  for (int j = 0; j < 4; ++j)
    for (int i = 0; i < 4; ++i) {
      if (std::find(missing.begin(), missing.end(), std::array{i, j}) != missing.end()) continue;
      const int a = 5 * j + i;
      s.triangles.push_back({a, a + 1, a + 6}), s.triangles.push_back({a, a + 6, a + 5});
    }
  s.part_of.assign(s.triangles.size(), 0);
  return s;
}

TEST(Loops, TwoHolesThatTouchInAPointAreTwoLoops) {
  const auto loops = open_loops(sheet_without({{1, 1}, {2, 2}}));
  ASSERT_EQ(loops.size(), 3u);
  for (const EdgeLoop& l : loops) EXPECT_TRUE(l.closed);
  EXPECT_NEAR(loops[0].length, 1.6, 1e-12) << "the outer rim";
  for (std::size_t i = 1; i < 3; ++i) {
    EXPECT_EQ(loops[i].points.size(), 4u);
    EXPECT_NEAR(loops[i].length, 0.4, 1e-12);
    EXPECT_NEAR(loops[i].size, 0.1 * std::sqrt(2.0), 1e-12);
  }
}

TEST(Loops, ClosedHolesLeaveEveryEdgeWithTwoFacets) {
  for (const auto& missing : {std::vector<std::array<int, 2>>{{1, 1}, {2, 2}},
                              {{1, 1}, {2, 1}},
                              {{1, 1}, {2, 1}, {1, 2}}}) {
    Surface s = sheet_without(missing);
    MendOptions o;
    o.close_loops = 0.35;  // not the outer rim
    mend(s, o);
    const auto loops = open_loops(s);
    ASSERT_EQ(loops.size(), 1u);
    EXPECT_NEAR(loops[0].length, 1.6, 1e-12);
    EXPECT_NEAR(total_area(s), 0.16, 1e-12);
  }
}

}  // namespace
}  // namespace dunefield
