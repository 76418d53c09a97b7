// The dual and its fit: what cells look like, and how near wall faces come to the true surface.
#include <gtest/gtest.h>

#include <algorithm>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/shapes/wing.hpp>
#include <dunefield/mesh/dual/dual.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

TEST(Dual, OfAUniformLatticeIsOneCellAVertex) {
  const Octree tree({0, 0, 0}, 1, 0, {4, 3, 2});
  const SolidField nothing(Surface{}, {}, 0);
  std::vector<CutEdge> none;
  DualMesh dual = build_dual(tree, nothing, make_dual_grid(tree, nothing), {}, false, {}, none);
  dual.mesh.derive();
  EXPECT_EQ(dual.mesh.cells, 5 * 4 * 3);
  EXPECT_NEAR(air_volume(dual.mesh), 24, 1e-12);
  EXPECT_TRUE(measure_quality(dual.mesh).sound());
  const std::vector<std::string> names = {"inflow",     "outflow", "left wall",
                                          "right wall", "road",    "roof"};
  for (std::size_t p = 0; p < 6; ++p) EXPECT_EQ(dual.mesh.boundaries[p].name, names[p]);
}

TEST(Dual, BuiltAgainFromKnownCutEdgesIsTheSame) {
  const Octree tree({0, 0, 0}, 1, 0, {8, 8, 8});
  // Thinner than a leaf: where such a plate begins takes many questions to find.
  const SolidField solid(rounded_box("plate", {{2.2, 2.2, 3.3}, {6.1, 5.8, 3.5}}, 0.05, 2), {}, 0);
  const DualGrid grid = make_dual_grid(tree, solid);
  std::vector<CutEdge> known, none;
  const DualMesh first = build_dual(tree, solid, grid, {"plate"}, false, {}, known);
  ASSERT_FALSE(known.empty());
  const std::vector<std::uint64_t> declared = {morton_key({4, 4, 6})};  // in the air
  const DualMesh again = build_dual(tree, solid, grid, {"plate"}, false, declared, known),
                 afresh = build_dual(tree, solid, grid, {"plate"}, false, declared, none);
  EXPECT_EQ(again.mesh.face_points, afresh.mesh.face_points);
  ASSERT_EQ(again.crossings.size(), afresh.crossings.size());
  EXPECT_GT(again.crossings.size(), first.crossings.size());
  for (std::size_t i = 0; i < again.crossings.size(); ++i)
    EXPECT_EQ(again.crossings[i].point, afresh.crossings[i].point);
}

TEST(Dual, HasNoHangingFacesAcrossALevelJump) {
  Octree tree({0, 0, 0}, 1, 1, {4, 4, 4});
  std::vector<char> flagged(tree.leaves().size(), 0);
  flagged[20] = flagged[21] = 1;
  tree.split(flagged);
  tree.balance();
  const SolidField nothing(Surface{}, {}, 0);
  std::vector<CutEdge> none;
  DualMesh dual = build_dual(tree, nothing, make_dual_grid(tree, nothing), {}, false, {}, none);
  dual.mesh.derive();
  const MeshQuality q = measure_quality(dual.mesh);
  EXPECT_TRUE(q.sound());
  EXPECT_NEAR(air_volume(dual.mesh), 64, 1e-12);
  EXPECT_LE(q.of(Measure::one_sidedness).worst_value(), 5.25);
  EXPECT_LE(q.of(Measure::offset).worst_value(), 0.4);
}

TEST(Dual, SealedAirIsListedWithItsPlaceAndVolume) {
  // Four walls and a roof of their own on the road: the air below them is cut off.
  Surface shell = rounded_box("shell", Box{{-1, -1, 1.6}, {1, 1, 2}}, 0);
  for (const Box& wall : {Box{{-1, -1, -0.1}, {-0.6, 1, 1.7}}, Box{{0.6, -1, -0.1}, {1, 1, 1.7}},
                          Box{{-1, -1, -0.1}, {1, -0.6, 1.7}}, Box{{-1, 0.6, -0.1}, {1, 1, 1.7}}})
    append(shell, rounded_box("shell", wall, 0));
  MeshOptions o;
  o.surface_size = 0.1, o.largest_size = 0.4;
  const MeshResult m = build_mesh(shell, Box{{-3, -3, 0}, {3, 3, 4}}, o);
  ASSERT_GE(m.findings.size(), 1u);
  EXPECT_EQ(m.findings.begin()->id, "mesh.sealed-air");
  EXPECT_NE(m.findings.begin()->text.find("(-0.050, -0.050, 0.750) m"), std::string::npos)
      << m.findings.begin()->text;
}

TEST(Dual, AnInflowInsideTheVehicleIsRefused) {
  const Surface all = rounded_box("all", Box{{-9, -9, -9}, {9, 9, 9}}, 0);
  MeshOptions o;
  o.surface_size = 0.5, o.largest_size = 1;
  EXPECT_THROW(build_mesh(all, Box{{-2, -2, 0}, {2, 2, 2}}, o), MeshError);
}

TEST(Fit, WallNormalsAreThoseOfTheSphere) {
  MeshOptions o;
  o.surface_size = 0.04, o.largest_size = 0.32;
  const Vec3 centre{0.013, 0.021, 1.007};
  const MeshResult m = build_mesh(sphere("ball", centre, 0.5, 192), Box{{-2, -2, 0}, {2, 2, 2}}, o);
  std::vector<double> angle, distance;
  for (const Boundary& p : m.mesh.boundaries)
    if (p.kind == BoundaryKind::part)
      for (int f = p.first; f < p.first + p.count; ++f) {
        const Vec3 n = unit(m.mesh.face_area[at(f)]), r = m.mesh.face_centre[at(f)] - centre;
        angle.push_back(std::acos(std::min(1.0, -dot(n, unit(r)))) * 180 / M_PI);
        distance.push_back(std::abs(norm(r) - 0.5) / 0.04);
      }
  std::sort(angle.begin(), angle.end());
  std::sort(distance.begin(), distance.end());
  EXPECT_LT(angle[angle.size() / 2], 1);
  EXPECT_LT(angle[angle.size() * 99 / 100], 4);
  EXPECT_LT(distance[distance.size() * 99 / 100], 0.05) << "in leaves";
}

TEST(Fit, SharpEdgesOfATurnedBoxAreMet) {
  Surface box = rounded_box("box", Box{{-0.5, -0.3, -0.2}, {0.5, 0.3, 0.2}}, 0);
  rotate(box, {0, 0, 0}, {1, 2, 3}, 0.5);
  translate(box, {0, 0, 1});
  MeshOptions o;
  o.surface_size = 0.04, o.largest_size = 0.32;
  const MeshResult m = build_mesh(box, Box{{-2, -2, 0}, {2, 2, 2}}, o);
  std::vector<Vec3> wall;
  for (const Boundary& p : m.mesh.boundaries)
    if (p.kind == BoundaryKind::part)
      for (int k = m.mesh.face_start[at(p.first)]; k < m.mesh.face_start[at(p.first + p.count)];
           ++k)
        wall.push_back(m.mesh.points[at(m.mesh.face_points[at(k)])]);
  // Along each of the box's twelve edges: the nearest wall point lies within a leaf, and about on
  // the edge.
  int near = 0, all = 0;
  for (std::size_t t = 0; t < box.size(); ++t)
    for (int k = 0; k < 3; ++k) {
      const Vec3 a = box.corner(t, k), b = box.corner(t, (k + 1) % 3);
      const double length = norm(b - a);
      // a diagonal
      if (std::abs(length - 1.0) > 1e-9 && std::abs(length - 0.6) > 1e-9 &&
          std::abs(length - 0.4) > 1e-9)
        continue;
      for (double s = 0.05; s < 1; s += 0.1) {
        const Vec3 p = a + (b - a) * s, along = unit(b - a);
        double off = 1e300;
        for (const Vec3& w : wall) {
          const double l = dot(w - p, along);
          if (std::abs(l) < 0.04) off = std::min(off, norm(w - p - along * l));
        }
        near += off < 0.05 * 0.04;
        ++all;
      }
    }
  EXPECT_GT(near, 0.9 * all) << near << " of " << all;
}

TEST(Fit, AWingReachesItsTrailingEdgeWhereverTheLatticeLies) {
  WingShape shape;
  shape.section = four_digit_section("0010");
  shape.leading_edge = {0, 0, 1}, shape.span = 0.6, shape.root_chord = shape.tip_chord = 0.17;
  shape.incidence = 35 * M_PI / 180;
  const Surface wing = make_wing(shape);
  MeshOptions o;
  o.surface_size = 0.02, o.largest_size = 0.16;
  for (int lattice = 0; lattice < 6; ++lattice) {
    o.lattice_shift.x = lattice / 6.0;
    const MeshResult m = build_mesh(wing, Box{{-1, -1, 0.4}, {1, 1, 1.6}}, o);
    double area = 0;
    for (const Boundary& p : m.mesh.boundaries)
      if (p.kind == BoundaryKind::part)
        for (int f = p.first; f < p.first + p.count; ++f) area += norm(m.mesh.face_area[at(f)]);
    EXPECT_NEAR(area / total_area(wing), 1, 0.02) << "lattice " << lattice;
  }
}

TEST(Quality, FindsWhatIsWrongWithAMesh) {
  VolumeMesh good = structured_mesh(3, 3, 3, [](const Vec3& a) { return a; });
  const MeshQuality q = measure_quality(good);
  EXPECT_TRUE(q.sound());
  EXPECT_NEAR(q.of(Measure::obliquity).worst_value(), 0, 1e-5);
  EXPECT_NEAR(q.of(Measure::one_sidedness).worst_value(), 1, 1e-12);
  const VolumeMesh sheared = structured_mesh(3, 3, 3, [](const Vec3& a) {
    return Vec3{a.x + a.y, a.y, a.z};
  });
  EXPECT_NEAR(measure_quality(sheared).of(Measure::obliquity).worst_value(), 45, 1e-6);
  good.points[21] = good.points[21] + Vec3{1.5, 0, 0};  // through the next cell
  good.derive();
  EXPECT_FALSE(measure_quality(good).sound());
}

}  // namespace
}  // namespace dunefield
