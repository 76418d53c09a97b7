// Meshes around shapes with known volume and area, and around the demo van.
#include <gtest/gtest.h>

#include <algorithm>
#include <tuple>

#include <demo/garage.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/surface_query.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <tests/support/cases.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

double displaced(const MeshResult& m) {
  const Vec3 t = m.tunnel.size();
  return t.x * t.y * t.z - air_volume(m.mesh);
}

MeshOptions sizes(double h) {
  MeshOptions o;
  o.surface_size = h, o.largest_size = 16 * h;
  return o;
}

const Box tunnel{{-3, -2, 0}, {5, 2, 2.5}};

TEST(Mesh, AroundASphereIsClosedSoundAndAccurate) {
  const Surface ball = sphere("ball", {0, 0, 1.03}, 0.5, 96);
  const MeshResult m = build_mesh(ball, tunnel, sizes(0.03));
  EXPECT_TRUE(m.quality.sound());
  EXPECT_LT(m.quality.worst_closure, 1e-10);
  EXPECT_NEAR(displaced(m) / signed_volume(ball), 1, 0.01);
  EXPECT_NEAR(wetted_area(m.mesh) / total_area(ball), 1, 0.02);
  EXPECT_LE(m.quality.of(Measure::one_sidedness).worst_value(), 20);
  EXPECT_LE(m.quality.of(Measure::size_step).worst_value(), 3.7);
  EXPECT_EQ(m.fit.arrived, m.fit.wall_points);
}

TEST(Mesh, KeepsTheSharpEdgesOfABox) {
  const Surface box = rounded_box("box", Box{{-0.5, -0.2, 0.05}, {0.5, 0.2, 0.35}}, 0);
  const MeshResult m = build_mesh(box, tunnel, sizes(0.03));
  EXPECT_NEAR(displaced(m) / 0.12, 1, 1e-4)
      << "flat sides are met exactly, edges and corners nearly";
  EXPECT_NEAR(wetted_area(m.mesh) / total_area(box), 1, 1e-4);
}

TEST(Mesh, IsTheSameCellForCellAwayFromAChange) {
  const Surface box = rounded_box("box", Box{{-1.5, -0.3, 0.1}, {0.8, 0.3, 0.6}}, 0.08);
  Surface changed = box;
  append(changed, rounded_box("spoiler", Box{{0.7, -0.2, 0.62}, {0.8, 0.2, 0.66}}, 0));
  MeshOptions o = sizes(0.04);
  o.largest_size = 4 * o.surface_size;  // a coarse leaf near a change reaches far
  o.layers.count = 3, o.layers.growth = 1.3, o.layers.total_leaves = 0.5;
  const MeshResult a = build_mesh(box, tunnel, o), b = build_mesh(changed, tunnel, o);
  const auto far = [](const Vec3& p) { return norm(p - Vec3{0.75, 0, 0.6}) > 1.1; };
  std::vector<std::pair<Vec3, double>> cells[2];
  for (const MeshResult* m : {&a, &b})
    for (int c = 0; c < m->mesh.cells; ++c)
      if (far(m->mesh.cell_centre[at(c)]))
        cells[m == &b].emplace_back(m->mesh.cell_centre[at(c)], m->mesh.cell_volume[at(c)]);
  const auto before = [](const auto& p, const auto& q) {
    return std::tie(p.first.x, p.first.y, p.first.z) < std::tie(q.first.x, q.first.y, q.first.z);
  };
  for (auto& list : cells) std::sort(list.begin(), list.end(), before);
  ASSERT_EQ(cells[0].size(), cells[1].size());
  EXPECT_GT(static_cast<double>(cells[0].size()), 0.4 * a.mesh.cells);
  for (std::size_t i = 0; i < cells[0].size(); ++i) {
    ASSERT_EQ(norm(cells[0][i].first - cells[1][i].first), 0.0);
    ASSERT_EQ(cells[0][i].second, cells[1][i].second);
  }
}

/// A plate of 2 mm, or a sheet without thickness, turned against 30 mm cells.
class ThinPlate : public testing::TestWithParam<double> {};

TEST_P(ThinPlate, DoesNotVanish) {
  Surface plate = rounded_box("plate", Box{{-0.001, -0.3, -0.25}, {0.001, 0.3, 0.25}}, 0);
  if (GetParam() < 0) {
    plate.triangles = {{0, 1, 2}, {0, 2, 3}};
    plate.points = {{0, -0.3, -0.25}, {0, 0.3, -0.25}, {0, 0.3, 0.25}, {0, -0.3, 0.25}};
    plate.part_of = {0, 0};
  }
  rotate(plate, {0, 0, 0}, {0.2, 1, 0.1}, std::abs(GetParam()));
  translate(plate, {0.01, 0.02, 0.7});
  const MeshResult m = build_mesh(plate, tunnel, sizes(0.03));
  EXPECT_NEAR(wetted_area(m.mesh), 0.6, 0.1) << "both sides";
  EXPECT_LT(displaced(m), 0.3 * 0.03 * 0.5)
      << "its points lie on the true surface, not on the thickened one";
}

INSTANTIATE_TEST_SUITE_P(Turned, ThinPlate, testing::Values(0.0, 0.3, 0.8, -0.1, -0.5));

TEST(Mesh, APartThatIsHiddenIsSaid) {
  Surface s = sphere("outer", {0, 0, 1}, 0.5, 32);
  append(s, sphere("inner", {0, 0, 1}, 0.2, 32));
  const MeshResult m = build_mesh(s, tunnel, sizes(0.08));
  ASSERT_EQ(m.findings.size(), 1u);
  EXPECT_NE(m.findings.begin()->text.find("'inner'"), std::string::npos);
}

TEST(Mesh, OfAHalfModelIsCutAtTheCentrePlane) {
  const Surface box = rounded_box("box", Box{{-0.5, -0.2, 0.07}, {0.5, 0.2, 0.35}}, 0.05, 12);
  MeshOptions o = sizes(0.03);
  o.half = true;
  const MeshResult m = build_mesh(box, Box{{-3, 0, 0}, {5, 2, 2.5}}, o);
  EXPECT_EQ(m.mesh.boundaries[2].name, "centre plane");
  EXPECT_NEAR(2 * displaced(m) / signed_volume(box), 1, 0.01);
  for (const Vec3& p : m.mesh.points) ASSERT_GE(p.y, -1e-12);
}

TEST(Mesh, TheSameInputGivesTheSameMesh) {
  const Surface ball = sphere("ball", {0, 0, 1.03}, 0.5, 48);
  const VolumeMesh a = build_mesh(ball, tunnel, sizes(0.06)).mesh,
                   b = build_mesh(ball, tunnel, sizes(0.06)).mesh;
  EXPECT_EQ(a.points, b.points);
  EXPECT_EQ(a.face_points, b.face_points);
}

TEST(Mesh, LevelJumpsOnTheSurfaceAreSound) {
  Surface s = sphere("fine", {0, 0, 1.03}, 0.5, 64);
  append(s, sphere("coarse", {0.6, 0.1, 1.1}, 0.45, 64));
  MeshOptions o = sizes(0.06);
  o.part_size["fine"] = 0.03;
  const MeshResult m = build_mesh(s, tunnel, o);
  EXPECT_TRUE(m.quality.sound());
}

class Van : public testing::Test {
 protected:
  static const Surface& surface() {
    static const Surface s = [] {
      Surface van = garage::marram();
      weld(van);
      return van;
    }();
    return s;
  }
  static const MeshResult& mesh() {
    static const MeshResult m = [] {
      MeshOptions o = mesh_recipe("scout", bounds(surface()), "");
      o.half = true;
      for (const Wheel& w : find_wheels(surface())) o.standing_parts.push_back(w.part);
      // the demo campaign's own lattice
      return build_mesh(surface(), Box{{-18.1, 0, 0}, {39.1, 10.13, 16.2}}, o);
    }();
    return m;
  }
};

TEST_F(Van, AHoleInItsRoofChangesTheMeshOnlyThere) {
  MeshOptions o = mesh_recipe("scout", bounds(surface()), "");
  o.surface_size = 0.07, o.smallest_size = 0.035, o.half = true, o.layers.count = 0;
  for (const Wheel& w : find_wheels(surface())) o.standing_parts.push_back(w.part);
  const Box box{{-18.1, 0, 0}, {39.1, 10.13, 16.2}};
  const auto in_the_roof = [](const Vec3& p) {
    return p.z > 2.1 && p.y > 0.5 && p.x > 0 && p.x < 1;
  };
  Surface torn = surface();
  std::size_t gone = 0;
  while (!in_the_roof(torn.centroid(gone))) ++gone;
  const Vec3 hole = torn.centroid(gone);
  torn.triangles.erase(torn.triangles.begin() + static_cast<std::ptrdiff_t>(gone));
  torn.part_of.erase(torn.part_of.begin() + static_cast<std::ptrdiff_t>(gone));
  const auto far_points = [&](const Surface& s) {
    std::vector<Vec3> points = build_mesh(s, box, o).mesh.points;
    std::erase_if(points, [&](const Vec3& p) { return norm(p - hole) < 0.5; });
    return points;
  };
  EXPECT_EQ(far_points(torn), far_points(surface()));
}

TEST_F(Van, HalfScoutMeshMeetsItsFigures) {
  EXPECT_GE(mesh().quality.cells, 150000);
  EXPECT_TRUE(mesh().quality.sound());
  EXPECT_LT(mesh().quality.worst_closure, 1e-10);
  // The true displaced volume, where shells overlap and the road cuts, by counting points inside.
  const SurfaceQuery query(surface());
  const Box box = bounds(surface());
  constexpr double step = 0.02;
  int inside = 0;
  for (double x = box.lo.x + step / 2; x < box.hi.x; x += step)
    for (double y = step / 2; y < box.hi.y; y += step)
      for (double z = step / 2; z < box.hi.z; z += step) inside += query.inside({x, y, z});
  EXPECT_NEAR(displaced(mesh()) / (inside * step * step * step), 1, 0.01);
}

TEST_F(Van, NoSliverOfFewFacesStandsBesideAFarLargerCell) {
  const VolumeMesh& m = mesh().mesh;
  const CellFaces faces = faces_of_cells(m);
  int slivers = 0;
  for (int f = 0; f < m.interior_faces(); ++f) {
    int small = m.cell_below[at(f)], large = m.cell_above[at(f)];
    if (m.cell_volume[at(small)] > m.cell_volume[at(large)]) std::swap(small, large);
    const int sides = faces.start[at(small) + 1] - faces.start[at(small)];
    const bool at_wall = faces.face[at(faces.start[at(small) + 1] - 1)] >= m.interior_faces();
    slivers += sides <= 5 && !at_wall && m.cell_volume[at(small)] < 0.09 * m.cell_volume[at(large)];
  }
  EXPECT_LE(slivers, 20) << "what no merger makes better";
}

TEST_F(Van, SidesAreSmooth) {
  // Folds in the skin above the wheel houses must not pass for thin plates: the side keeps its
  // leaning plane.
  double worst = 0;
  for (const Boundary& p : mesh().mesh.boundaries)
    if (p.name == "body")
      for (int f = p.first; f < p.first + p.count; ++f) {
        const Vec3 x = mesh().mesh.face_centre[at(f)];
        if (x.x > -0.5 && x.x < 2.5 && x.z > 0.9 && x.z < 1.7 && x.y > 0.8)
          worst =
              std::max(worst, std::abs(x.y - 0.95 * (1 - 0.05 * std::pow((x.z - 0.9) / 1.3, 2))));
      }
  EXPECT_LT(worst, 0.001) << "metres";
}

TEST_F(Van, WettedAreaIsTheSurfacesOutsideItself) {
  // Each triangle is cut in small ones, which count unless another shell covers them or they lie
  // under the road.
  const SurfaceQuery query(surface());
  double area = 0;
  for (std::size_t t = 0; t < surface().size(); ++t) {
    const Vec3 n = unit(surface().area_vector(t));
    constexpr int cuts = 3;
    for (int i = 0; i < cuts; ++i)
      for (int j = 0; j < cuts; ++j) {
        const double a = (i + 0.5) / cuts, b = (j + 0.5) / cuts;
        const Vec3 p = surface().corner(t, 0) * (1 - std::sqrt(a)) +
                       surface().corner(t, 1) * (std::sqrt(a) * (1 - b)) +
                       surface().corner(t, 2) * (std::sqrt(a) * b);
        if (p.y > 0 && p.z > 0 && !query.inside(p + n * 1e-4))
          area += norm(surface().area_vector(t)) / (cuts * cuts);
      }
  }
  EXPECT_NEAR(wetted_area(mesh().mesh) / area, 1, 0.02);
}

TEST(Mesh, ContradictionsAreRefused) {
  const Surface ball = sphere("ball", {0, 0, 1.03}, 0.5, 24);
  MeshOptions o = sizes(0.1);
  o.surface_size = -1;
  EXPECT_THROW(build_mesh(ball, tunnel, o), InputError);
  o = sizes(50);
  EXPECT_THROW(build_mesh(ball, tunnel, o), InputError);
  o = sizes(0.1);
  o.smallest_size = 5;
  EXPECT_THROW(build_mesh(ball, tunnel, o), InputError);
  o = sizes(0.1);
  o.part_size["wing"] = 0.1;
  EXPECT_THROW(build_mesh(ball, tunnel, o), InputError);
  o = sizes(0.1);
  o.boxes.push_back({"far off", Box{{50, 0, 0}, {60, 1, 1}}, 0.1});
  EXPECT_THROW(build_mesh(ball, tunnel, o), InputError);
  o = sizes(0.1);
  o.standing_parts = {"wheel"};
  EXPECT_THROW(build_mesh(ball, tunnel, o), InputError);
  EXPECT_THROW(mesh_recipe("finest", tunnel, ""), InputError);
}

TEST(Mesh, RecipesFollowTheLongestSideAndWhereTheVehicleIs) {
  const auto box_of = [](const MeshOptions& o, const std::string& name) {
    for (const RefinedBox& b : o.boxes)
      if (b.name == name) return b.box;
    return Box{};
  };
  const MeshOptions van = mesh_recipe("scout", Box{{-2.6, -1, 0}, {2.6, 1, 2.3}}, ""),
                    wing = mesh_recipe("scout", Box{{-0.25, -1.3, 4}, {0.25, 1.3, 4.1}}, "");
  EXPECT_DOUBLE_EQ(van.surface_size, 2 * wing.surface_size);
  EXPECT_EQ(box_of(van, "wake").lo.z, 0);
  EXPECT_FALSE(box_of(van, "under-floor").empty());
  EXPECT_NEAR(box_of(wing, "wake").lo.z, 4, 0.1);
  EXPECT_TRUE(box_of(wing, "under-floor").empty());
}

TEST(Mesh, StopsWhenAskedTo) {
  Progress p;
  p.cancelled = [] { return true; };
  EXPECT_THROW(build_mesh(sphere("ball", {0, 0, 1.03}, 0.5, 24), tunnel, sizes(0.1), p), Cancelled);
}

TEST(DirtyVan, HasNoWallAwayFromItsSurface) {
  // Specks of scan noise above the roof, holes in it: neither may grow into something else.
  const TemporaryFolder folder;
  Campaign c = read_campaign(garage::write_demo("dirty", folder.path()));
  c.recipe.smallest_size = 1.0, c.recipe.layers.count = 0;
  const RunSetup v = prepare(c).variants.front();
  const VolumeMesh mesh = build_mesh(v).mesh;
  const NearestTree surface(v.vehicle.surface);
  const MeshOptions options = v.mesh_options();
  int far = 0, faces = 0;
  for (const Boundary& p : mesh.boundaries)
    for (int f = p.first; p.kind == BoundaryKind::part && f < p.first + p.count; ++f) {
      const Vec3& x = mesh.face_centre[at(f)];
      const bool in_plinth = x.z < options.plinth_cells * options.surface_size;
      ++faces, far += !in_plinth && surface.nearest(x, 1.0).distance > options.surface_size;
    }
  EXPECT_GT(faces, 10'000);
  EXPECT_LT(far, 0.006 * faces) << "but for two bridged holes a hand wide";
}

}  // namespace
}  // namespace dunefield::test
