// Sections meshed in two dimensions.
#include <dunefield/mesh/planar/section_mesher.hpp>

#include <cmath>
#include <numbers>

#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/outline.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/shapes/wing.hpp>
#include <tests/support/surfaces.hpp>

namespace dunefield::test {
namespace {

Surface wing(const std::string& code, double incidence, const Vec3& nose, double chord = 1) {
  WingShape w;
  w.section = four_digit_section(code), w.span = 3;
  w.root_chord = w.tip_chord = chord, w.leading_edge = nose;
  w.incidence = incidence;
  return make_wing(w);
}

MeshOptions options(const std::string& recipe, double chord, bool road) {
  MeshOptions o = section_recipe(recipe, chord, {{0, -0.5, 0}, {chord, 0.5, 0.2 * chord}}, "test");
  o.layers.first_height = 1e-5 * chord, o.road = road;
  return o;
}

constexpr double air = 20;
Box air_around(bool road) { return {{-air, -0.5, road ? 0 : -air}, {air, 0.5, air}}; }

double area_of(const Surface& s) {
  Findings unsaid;
  double area = 0;
  for (const OutlineLoop& loop : outline_at(s, 0, unsaid).loops) area += loop.area();
  return area;
}

/// The mesh is whole: closed, all of the air, walls as long as the outline, one wall face a cell.
void expect_whole(const MeshResult& m, const Surface& s, double tolerance) {
  EXPECT_TRUE(m.quality.sound());
  double volume = 0;
  for (const double v : m.mesh.cell_volume) volume += v;
  const Vec3 size = m.tunnel.size();
  EXPECT_NEAR(size.x * size.y * size.z - volume, area_of(s), tolerance * area_of(s))
      << "what is no air is the body";
  std::vector<int> wall_faces(at(m.mesh.cells), 0);
  for (const Boundary& b : m.mesh.boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f)
      EXPECT_LE(++wall_faces[at(m.mesh.cell_below[at(f)])], 1);
}

TEST(SectionMesher, AProfileInFreeAir) {
  const Surface s = wing("0012", 0.1, {0, 0, 0});
  const MeshResult m = build_section_mesh(s, air_around(false), options("scout", 1, false));
  expect_whole(m, s, 2e-3);
  EXPECT_TRUE(m.quality.good());
  EXPECT_GT(m.mesh.cells, 10'000);
  EXPECT_LT(m.mesh.cells, 40'000);
  ASSERT_EQ(m.layers.parts.size(), 1u);
  EXPECT_NEAR(m.layers.parts[0].mean_first_height, 1e-5, 3e-5);
}

TEST(SectionMesher, ColumnsOfLayersAreContiguousFromTheWallOut) {
  const Surface s = wing("0012", 0, {0, 0, 0});
  const MeshResult m = build_section_mesh(s, air_around(false), options("sketch", 1, false));
  for (const Boundary& b : m.mesh.boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f) {
      const int cell = m.mesh.cell_below[at(f)];
      for (int k = 1; k < 5; ++k)
        EXPECT_GT(norm(m.mesh.cell_centre[at(cell + k)] - m.mesh.face_centre[at(f)]),
                  norm(m.mesh.cell_centre[at(cell + k - 1)] - m.mesh.face_centre[at(f)]));
    }
}

TEST(SectionMesher, ACoarselyFacettedProfileIsMeshedAsTheCurveThatItStandsFor) {
  Findings unsaid;
  const Surface s = cylinder("rod", {0, -1, 0}, {0, 1, 0}, 0.5, 32);
  MeshOptions o = options("scout", 1, false);
  const MeshResult m = build_section_mesh(s, air_around(false), o);
  for (const Boundary& b : m.mesh.boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f) {
      const Vec3& c = m.mesh.face_centre[at(f)];
      EXPECT_NEAR(std::hypot(c.x, c.z), 0.5, 3e-4) << "facets alone are off by 24e-4";
    }
}

TEST(SectionMesher, FlatSidesBesideRoundEdgesStayFlat) {
  const Surface s = rounded_box("hull", {{-0.5, -1, 0.2}, {0.5, 1, 0.5}}, 0.05);
  const MeshResult m = build_section_mesh(s, air_around(true), options("scout", 1, true));
  expect_whole(m, s, 2e-2);
  for (const Boundary& b : m.mesh.boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f) {
      EXPECT_LT(m.mesh.face_centre[at(f)].z, 0.5005);
      EXPECT_GT(m.mesh.face_centre[at(f)].z, 0.1995);
    }
}

TEST(SectionMesher, AWingWithAFlapNearTheRoad) {
  Surface s = wing("4412", 0.05, {0, 0, 0.06}, 0.5);
  Surface flap = wing("4412", 0.4, {0.49, 0, 0.115}, 0.2);
  flap.part_names[0] = "flap";
  append(s, flap);
  const MeshResult m = build_section_mesh(s, air_around(true), options("scout", 0.7, true));
  expect_whole(m, s, 5e-3);
  bool road = false;
  for (const Boundary& b : m.mesh.boundaries) {
    road |= b.kind == BoundaryKind::road && b.count > 0;
    const bool part = b.kind == BoundaryKind::part;
    EXPECT_TRUE(!part || b.count > 20) << b.name;
  }
  EXPECT_TRUE(road);
}

TEST(SectionMesher, GivesTheSameBitsAgain) {
  const Surface s = wing("4412", 0.05, {0, 0, 0.3});
  const MeshResult a = build_section_mesh(s, air_around(true), options("sketch", 1, true)),
                   b = build_section_mesh(s, air_around(true), options("sketch", 1, true));
  EXPECT_TRUE(a.mesh.points == b.mesh.points);
  EXPECT_TRUE(a.mesh.cell_above == b.mesh.cell_above);
}

TEST(SectionMesher, AnyIncidenceAndHeightIsSound) {
  for (int i = 0; i < 12; ++i) {
    const Surface s = wing(i % 2 ? "0009" : "6415", 0.07 * i - 0.4, {0, 0, 0.6 + 0.013 * i});
    const MeshResult m = build_section_mesh(s, air_around(true), options("sketch", 1, true));
    expect_whole(m, s, 1e-2);
  }
}

TEST(SectionMesher, ABodyThatReachesTheRoadIsRefused) {
  const Surface s = rounded_box("hull", {{-0.5, -1, 0}, {0.5, 1, 0.5}}, 0.05);
  try {
    build_section_mesh(s, air_around(true), options("sketch", 1, true));
    FAIL() << "taken";
  } catch (const InputError& e) {
    EXPECT_NE(std::string(e.what()).find("reaches the road"), std::string::npos);
  }
}

TEST(SectionMesher, ABodyThatReachesOutOfTheTunnelIsRefused) {
  for (const Vec3& nose : {Vec3{19.5, 0, 3}, Vec3{-20.5, 0, 3}, Vec3{0, 0, 19.99}})
    EXPECT_THROW(
        build_section_mesh(wing("0012", 0, nose), air_around(true), options("sketch", 1, true)),
        InputError);
}

TEST(SectionMesher, LayersMayAllBeOfOneHeight) {
  MeshOptions o = options("sketch", 1, false);
  o.layers.growth = 1, o.layers.count = 6, o.layers.first_height = 1e-3;
  const MeshResult m = build_section_mesh(wing("0012", 0, {}), air_around(false), o);
  EXPECT_TRUE(m.quality.sound());
}

TEST(SectionMesher, SizesThatContradictAreRefused) {
  MeshOptions o = options("scout", 1, false);
  o.layers.count = 0;
  EXPECT_THROW(build_section_mesh(wing("0012", 0, {}), air_around(false), o), InputError);
  EXPECT_THROW(section_recipe("finest", 1, {}, "test"), InputError);
}

}  // namespace
}  // namespace dunefield::test
