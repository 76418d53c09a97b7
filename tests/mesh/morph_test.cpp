// A mesh that follows its surface.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shape_change.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/morph/edge_graph.hpp>
#include <dunefield/mesh/morph/morph.hpp>
#include <tests/support/surfaces.hpp>

namespace dunefield::test {
namespace {

class Morph : public testing::Test {
 protected:
  Morph() : box_(rounded_box("body", Box{{-0.5, -0.25, 0.15}, {0.5, 0.25, 0.55}}, 0.08)) {
    append(box_, rounded_box("stilt", Box{{-0.1, -0.1, 0}, {0.1, 0.1, 0.2}}, 0));
    box_ = quartered(quartered(quartered(box_)));
    MeshOptions o;
    o.surface_size = 0.04, o.largest_size = 0.32, o.layers.count = 3;
    mesh_ = build_mesh(box_, Box{{-2, -1.5, 0}, {3, 1.5, 2}}, o);
  }
  Surface changed(const ShapeChange& change) const {
    Surface s = box_;
    apply(change, s, -1, "test");
    return s;
  }
  static ShapeChange tail(double longer) {
    ShapeChange c;
    c.amount = longer, c.box = {{0.25, -0.4, 0}, {0.6, 0.4, 0.7}};
    return c;
  }
  Surface box_;
  MeshResult mesh_;
};

TEST_F(Morph, AStraightDisplacementOfTheBorderIsFollowedExactly) {
  // A linear field is harmonic on a regular grid.
  const VolumeMesh m = structured_mesh(6, 6, 6, [](const Vec3& a) { return a; });
  std::vector<Given> given(m.points.size(), Given{});
  std::vector<Vec3> moved(m.points.size());
  const auto linear = [](const Vec3& x) { return Vec3{0.1 * x.x, 0.2 * x.y - x.z, 0.3 * x.x}; };
  for (int f = m.interior_faces(); f < m.faces(); ++f)
    for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k) {
      const std::size_t p = at(m.face_points[at(k)]);
      given[p] = {true, true, true}, moved[p] = linear(m.points[p]);
    }
  make_harmonic(edge_graph(m), given, moved, {});
  for (std::size_t i = 0; i < moved.size(); ++i)
    EXPECT_LT(norm(moved[i] - linear(m.points[i])), 1e-4);
}

TEST_F(Morph, FollowsAStretchWithItsTopologyAndItsLayers) {
  const Surface longer = changed(tail(0.05));
  const MeshResult out = morphed(mesh_, box_, longer);
  EXPECT_TRUE(out.follows);
  EXPECT_EQ(out.mesh.face_points, mesh_.mesh.face_points);
  EXPECT_TRUE(out.quality.sound());
  // What the vehicle gains in volume, the air loses.
  const double gained = signed_volume(longer) - signed_volume(box_);
  EXPECT_NEAR(air_volume(mesh_.mesh) - air_volume(out.mesh), gained, 0.02 * gained);
  // The first layer keeps its height over the middle of the moved end.
  const auto first_height = [](const VolumeMesh& m) {
    double best = 1e300, height = 0;
    for (const Boundary& b : m.boundaries)
      if (b.name == "body")
        for (int f = b.first; f < b.first + b.count; ++f) {
          const std::size_t i = at(f), c = at(m.cell_below[i]);
          const Vec3 n = unit(m.face_area[i]);
          if (m.face_centre[i].x < 0.49 || norm(m.face_centre[i] - Vec3{0.5, 0, 0.35}) > best)
            continue;
          best = norm(m.face_centre[i] - Vec3{0.5, 0, 0.35});
          height = dot(n, m.face_centre[i] - m.cell_centre[c]);
        }
    return height;
  };
  EXPECT_NEAR(first_height(out.mesh) / first_height(mesh_.mesh), 1, 0.1);
  // Tunnel walls and road stay where they are.
  for (const Boundary& b : out.mesh.boundaries) {
    if (b.kind != BoundaryKind::road) continue;
    for (int f = b.first; f < b.first + b.count; ++f)
      EXPECT_NEAR(out.mesh.face_centre[at(f)].z, 0, 1e-12);
  }
}

TEST_F(Morph, IsRefusedWhereItCannotFollow) {
  ShapeChange lift = tail(0);
  lift.kind = ShapeChange::Kind::control;
  lift.box = {{-0.6, -0.4, -0.1}, {0.6, 0.4, 0.7}};
  for (const int i : {0, 1})
    for (const int j : {0, 1})
      for (const int k : {0, 1}) lift.moves.push_back({{i, j, k}, {0, 0, 0.05}});
  EXPECT_THROW(morphed(mesh_, box_, changed(lift)), MeshError) << "the stilt leaves the road";
  Surface apart = box_;
  std::vector<char> of_body(apart.points.size(), 0);
  for (std::size_t t = 0; t < apart.size(); ++t)
    if (apart.part_of[t] == 0)
      for (const int p : apart.triangles[t]) of_body[at(p)] = 1;
  for (std::size_t i = 0; i < apart.points.size(); ++i)
    if (of_body[i]) apart.points[i].x += 0.03;
  EXPECT_THROW(morphed(mesh_, box_, apart), MeshError) << "the body slides off its stilt";
  const Surface other = rounded_box("body", Box{{0, 0, 0}, {1, 1, 1}}, 0.1);
  EXPECT_THROW(morphed(mesh_, box_, other), MeshError);
}

TEST_F(Morph, GivesTheSameBitsEachTime) {
  const Surface longer = changed(tail(0.03));
  EXPECT_EQ(morphed(mesh_, box_, longer).mesh.points, morphed(mesh_, box_, longer).mesh.points);
}

}  // namespace
}  // namespace dunefield::test
