// Cells too small for a place on the wall become solid; points at bad faces go back to where they
// were safe.
#include <gtest/gtest.h>

#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/dual/dents.hpp>
#include <dunefield/mesh/layers/easing.hpp>
#include <dunefield/mesh/quality/quality.hpp>
#include <dunefield/mesh/repair/mender.hpp>

namespace dunefield {
namespace {

/// A box of cells whose lowest layer is squeezed to `height`.
VolumeMesh squeezed(double height) {
  return structured_mesh(4, 4, 3, [height](const Vec3& a) {
    const int plane = static_cast<int>(std::lround(3 * a.z));
    const double z[] = {0, height, 0.5, 1};
    return Vec3{a.x, a.y, z[plane]};
  });
}

double area_of(const VolumeMesh& m, const std::string& name) {
  for (const Boundary& p : m.boundaries)
    if (p.name == name)
      return norm(std::accumulate(m.face_area.begin() + p.first,
                                  m.face_area.begin() + p.first + p.count, Vec3{}));
  return 0;
}

TEST(Dents, TinyCellsOnAWallAreFilled) {
  VolumeMesh m = squeezed(1e-3);
  const FilledDents filled = fill_dents(m);
  EXPECT_EQ(filled.cells, 16);
  EXPECT_NEAR(filled.volume, 1e-3, 1e-12);
  EXPECT_LT(filled.place.z, 1e-3);
  EXPECT_EQ(m.cells, 32);
  EXPECT_NEAR(air_volume(m), 1 - 1e-3, 1e-12);
  EXPECT_NEAR(area_of(m, "z-"), 1, 1e-12) << "its wall has moved up";
  EXPECT_NEAR(area_of(m, "x-"), 1 - 1e-3, 1e-12);
  VolumeMesh again = m;
  again.derive();
  const MeshQuality q = measure_quality(again);
  EXPECT_TRUE(q.sound() && q.good());
  for (int f = 0; f < m.faces(); ++f)
    EXPECT_LT(norm(m.face_area[at(f)] - again.face_area[at(f)]), 1e-14);
}

TEST(Dents, OnlyOnTheVehicle) {
  VolumeMesh m = squeezed(1e-3);
  for (Boundary& p : m.boundaries)
    if (p.name == "z-") p.kind = BoundaryKind::road;
  EXPECT_EQ(fill_dents(m).cells, 0);
  EXPECT_EQ(m.cells, 48);
}

TEST(Dents, NoWayForTheAirIsClosed) {
  // Two rooms, joined by one slit that is far too thin.
  VolumeMesh m = structured_mesh(3, 1, 1, [](const Vec3& a) {
    const int plane = static_cast<int>(std::lround(3 * a.x));
    const double x[] = {0, 1, 1.001, 2};
    return Vec3{x[plane], a.y, a.z};
  });
  ASSERT_FALSE(measure_quality(m).good());
  EXPECT_EQ(fill_dents(m).cells, 0);
}

TEST(Dents, AGoodMeshIsLeftAlone) {
  VolumeMesh m = squeezed(0.2);
  EXPECT_EQ(fill_dents(m).cells, 0);
}

TEST(Easing, DrawsPointsBackAsFarAsNeeded) {
  VolumeMesh m = squeezed(0.25);
  const std::vector<Vec3> safe = m.points;
  for (Vec3& p : m.points)
    // a step that leaves next to nothing of the cells above it
    if (p.z == 0 && p.x > 0.4) p.z = 0.2495;
  m.derive();
  double before = 0, after = 0;
  for (int f = 0; f < m.faces(); ++f) before = std::max(before, face_badness(m, f));
  ASSERT_GT(before, 1);
  EXPECT_GT(ease_bad_faces(m, safe), 0);
  for (int f = 0; f < m.faces(); ++f) after = std::max(after, face_badness(m, f));
  EXPECT_LT(after, 1);
  double highest = 0;
  for (std::size_t p = 0; p < safe.size(); ++p)
    if (safe[p].z == 0) highest = std::max(highest, m.points[p].z);
  EXPECT_GT(highest, 0.1) << "no further than needed";
  VolumeMesh again = m;
  again.derive();
  for (int c = 0; c < m.cells; ++c)
    EXPECT_NEAR(m.cell_volume[at(c)], again.cell_volume[at(c)], 1e-14);
}

}  // namespace
}  // namespace dunefield
