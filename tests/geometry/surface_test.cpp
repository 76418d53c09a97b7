#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {
namespace {

Surface brick(const std::string& name, const Vec3& at) {
  return rounded_box(name, Box{at, at + Vec3{1, 2, 3}}, 0);
}

TEST(Surface, AppendedPartsOfTheSameNameBecomeOne) {
  Surface s = brick("a", {0, 0, 0});
  append(s, brick("b", {5, 0, 0}));
  append(s, brick("a", {10, 0, 0}));
  EXPECT_EQ(s.part_names, (std::vector<std::string>{"a", "b"}));
  EXPECT_NEAR(signed_volume(s), 18, 1e-12);
  EXPECT_NEAR(bounds(s, s.find_part("a")).hi.x, 11, 1e-12);
  EXPECT_EQ(s.find_part("c"), -1);
}

TEST(Surface, SelectedPartsKeepTheirNamesAndTriangles) {
  Surface s = brick("a", {0, 0, 0});
  append(s, brick("b", {5, 0, 0}));
  const Surface b = select_parts(s, {false, true});
  EXPECT_EQ(b.part_names, std::vector<std::string>{"b"});
  EXPECT_NEAR(bounds(b).lo.x, 5, 1e-12);
  EXPECT_EQ(b.size(), s.size() / 2);
}

TEST(Surface, WeldingJoinsPointsAndDropsWhatCollapses) {
  Surface s = brick("a", {0, 0, 0});
  std::vector<Vec3> loose;
  std::vector<std::array<int, 3>> triangles;
  for (std::size_t t = 0; t < s.size(); ++t) {
    const int first = static_cast<int>(loose.size());
    for (int k = 0; k < 3; ++k) loose.push_back(s.corner(t, k));
    triangles.push_back({first, first + 1, first + 2});
  }
  loose.push_back(loose[0]), loose.push_back(loose[1]);
  triangles.push_back({0, static_cast<int>(loose.size()) - 2, static_cast<int>(loose.size()) - 1});
  s.points = loose, s.triangles = triangles, s.part_of.push_back(0);
  EXPECT_EQ(weld(s), 1u);
  const EdgeCount edges = count_edges(s, connected_pieces(s));
  EXPECT_EQ(edges.open, 0u);
  EXPECT_EQ(edges.non_manifold, 0u);
}

TEST(Surface, OpenEdgesAndPiecesAreCounted) {
  Surface s = brick("a", {0, 0, 0});
  append(s, brick("b", {5, 0, 0}));
  s.triangles.pop_back(), s.part_of.pop_back();
  const Pieces pieces = connected_pieces(s);
  EXPECT_EQ(pieces.count, 2);
  const EdgeCount edges = count_edges(s, pieces);
  EXPECT_EQ(edges.open, 3u);
  EXPECT_EQ(std::count(edges.piece_open.begin(), edges.piece_open.end(), 1), 1);
}

TEST(Surface, MovesKeepVolume) {
  Surface s = brick("a", {0, 0, 0});
  rotate(s, {0, 0, 0}, {0, 0, 1}, std::numbers::pi / 2);
  EXPECT_NEAR(bounds(s).lo.x, -2, 1e-12);
  EXPECT_NEAR(bounds(s).hi.y, 1, 1e-12);
  translate(s, {3, 0, 0});
  scale(s, 0.5);
  EXPECT_NEAR(signed_volume(s), 6.0 / 8, 1e-12);
  EXPECT_NEAR(bounds(s).lo.x, 0.5, 1e-12);
}

}  // namespace
}  // namespace dunefield
