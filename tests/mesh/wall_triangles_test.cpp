// The walls of a mesh as triangles.
#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield::test {
namespace {

VolumeMesh block() {
  return structured_mesh(2, 3, 4, [](const Vec3& a) { return a; });
}

TEST(WallTriangles, HoldTheWantedBoundariesWholeAndFaceOutOfTheAir) {
  const VolumeMesh m = block();
  const WallTriangles floor = wall_triangles(m, [](const Boundary& p) { return p.name == "z-"; });
  EXPECT_EQ(floor.surface.size(), 2u * 6);
  Vec3 area;
  for (std::size_t t = 0; t < floor.surface.size(); ++t) area += floor.surface.area_vector(t);
  EXPECT_LT(norm(area - Vec3{0, 0, -1}), 1e-12);
}

TEST(WallTriangles, KnowTheFaceTheyCameFrom) {
  const VolumeMesh m = block();
  const WallTriangles all = wall_triangles(m, [](const Boundary&) { return true; });
  ASSERT_EQ(all.face_of.size(), all.surface.size());
  std::vector<Vec3> sum(static_cast<std::size_t>(m.faces()));
  for (std::size_t t = 0; t < all.face_of.size(); ++t)
    sum[at(all.face_of[t])] += all.surface.area_vector(t);
  for (int f = m.interior_faces(); f < m.faces(); ++f)
    EXPECT_LT(norm(sum[at(f)] - m.face_area[at(f)]), 1e-12);
}

TEST(WallTriangles, AreNoneWhereNothingIsWanted) {
  EXPECT_EQ(wall_triangles(block(), [](const Boundary&) { return false; }).surface.size(), 0u);
}

}  // namespace
}  // namespace dunefield::test
