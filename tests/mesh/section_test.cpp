// Cuts of cells by a plane.
#include <gtest/gtest.h>

#include <dunefield/mesh/section.hpp>

namespace dunefield::test {
namespace {

double area(const std::vector<Vec3>& outline, const Vec3& normal) {
  Vec3 sum;
  for (std::size_t i = 1; i + 1 < outline.size(); ++i)
    sum += cross(outline[i] - outline[0], outline[i + 1] - outline[0]) * 0.5;
  return dot(sum, normal);
}

TEST(Section, CutsOfAllCellsFillThePlane) {
  const VolumeMesh mesh = structured_mesh(6, 4, 5, [](const Vec3& a) { return a; });
  const CellFaces rows = faces_of_cells(mesh);
  // Through the unit cube: a square, and a hexagon whose side is half a face's diagonal.
  for (const auto& [plane, whole] :
       {std::pair{Plane{{0, 0.4, 0}, {0, -1, 0}}, 1.0},
        {Plane{{0.5, 0.5, 0.5}, unit(Vec3{1, 1, 1})}, 0.75 * std::sqrt(3)}}) {
    double sum = 0;
    for (const int c : cut_cells(mesh, plane))
      sum += area(cell_section(mesh, rows, c, plane), plane.normal);
    EXPECT_NEAR(sum, whole, 1e-12);
  }
}

TEST(Section, CellsThatThePlaneMissesHaveNone) {
  const VolumeMesh mesh = structured_mesh(2, 1, 1, [](const Vec3& a) { return a; });
  const Plane plane{{0.25, 0, 0}, {1, 0, 0}};
  EXPECT_EQ(cut_cells(mesh, plane), std::vector<int>{0});
  EXPECT_TRUE(cell_section(mesh, faces_of_cells(mesh), 1, plane).empty());
}

TEST(Section, ClippedKeepsOneSide) {
  const std::vector<Vec3> square = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}};
  EXPECT_NEAR(area(clipped(square, [](const Vec3& p) { return 0.3 - p.x; }), {0, 0, 1}), 0.3,
              1e-12);
  EXPECT_TRUE(clipped(square, [](const Vec3& p) { return p.x - 2; }).empty());
}

TEST(PlaneAxes, AreRightHandedAndLevel) {
  for (const Vec3& n : {Vec3{1, 0, 0}, Vec3{0, 0, 1}, unit(Vec3{1, -2, 0.5})}) {
    const PlaneAxes axes(n);
    EXPECT_LT(norm(cross(axes.across, axes.up) - n), 1e-12);
    EXPECT_NEAR(axes.across.z, 0, 1e-3);
  }
}

}  // namespace
}  // namespace dunefield::test
