// Spatial queries and wheels, on shapes with known answers and on the demo van.
#include <gtest/gtest.h>

#include <random>

#include <demo/garage.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/query/surface_query.hpp>
#include <dunefield/geometry/query/winding_number.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {
namespace {

TEST(SurfaceQuery, FindsDistanceInsideAndCrossingOfABox) {
  const SurfaceQuery q(rounded_box("box", Box{{0, 0, 0}, {1, 2, 3}}, 0));
  EXPECT_TRUE(q.inside({0.5, 1, 1.5}));
  EXPECT_FALSE(q.inside({1.1, 1, 1.5}));
  const auto near = q.nearest({1.25, 1, 1.5}, 1);
  ASSERT_TRUE(near);
  EXPECT_NEAR(near->distance, 0.25, 1e-12);
  EXPECT_FALSE(q.nearest({1.25, 1, 1.5}, 0.2));
  const auto hit = q.first_crossing({2, 1, 1.4}, {0.5, 1, 1.4});
  ASSERT_TRUE(hit);
  EXPECT_NEAR(hit->point.x, 1, 1e-12);
  EXPECT_FALSE(q.first_crossing({2, 1, 1.4}, {1.1, 1, 1.4}));
}

TEST(SurfaceQuery, TakesOverlappingShellsAsTheirUnionWhicheverWayTheyFace) {
  Surface s = sphere("a", {0, 0, 0}, 1, 32);
  Surface flipped = sphere("b", {1, 0, 0}, 1, 32);
  for (auto& t : flipped.triangles) std::swap(t[0], t[1]);
  append(s, flipped);
  const SurfaceQuery q(s);
  for (const double x : {-0.5, 0.5, 1.5}) EXPECT_TRUE(q.inside({x, 0.1, 0.1})) << x;
  EXPECT_FALSE(q.inside({0.5, 0, 0.95}));
}

TEST(WindingNumber, IsOneInsideAndZeroOutside) {
  const Surface s = sphere("ball", {0, 0, 0}, 1, 64);
  std::vector<int> all(s.size());
  for (std::size_t i = 0; i < all.size(); ++i) all[i] = static_cast<int>(i);
  const WindingNumber w(s, all);
  std::mt19937 random(1);
  std::uniform_real_distribution<double> u(-1.5, 1.5);
  for (int i = 0; i < 2000; ++i) {
    const Vec3 p{u(random), u(random), u(random)};
    if (std::abs(norm(p) - 1) < 0.01) continue;
    EXPECT_NEAR(w.at(p), norm(p) < 1 ? 1 : 0, 0.05);
  }
}

TEST(Shapes, HaveTheirVolumesAndNoOpenEdges) {
  EXPECT_NEAR(signed_volume(rounded_box("box", Box{{0, 0, 0}, {1, 2, 3}}, 0)), 6, 1e-12);
  EXPECT_NEAR(signed_volume(sphere("ball", {1, 2, 3}, 0.5, 256)), 0.523599, 2e-4);
  for (const Surface& s : {rounded_box("box", Box{{0, 0, 0}, {1, 2, 3}}, 0.2),
                           sphere("ball", {0, 0, 0}, 1, 24), garage::marram()}) {
    const EdgeCount edges = count_edges(s, connected_pieces(s));
    EXPECT_EQ(edges.open, 0u);
    EXPECT_EQ(edges.non_manifold, 0u);
  }
  EXPECT_THROW(loft("one", {{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}}), InputError);
}

TEST(Garage, TheShippedVanIsWhatTheCodeBuilds) {
  const Surface shipped = read_stl(DUNEFIELD_SOURCE "/demo/marram.stl");
  const Surface built = garage::marram();
  EXPECT_EQ(shipped.part_names, built.part_names);
  EXPECT_NEAR(signed_volume(shipped), signed_volume(built), 1e-4);
  EXPECT_NEAR(total_area(shipped), total_area(built), 1e-3);
}

TEST(Wheels, OfTheVanAreFoundByShape) {
  const auto wheels = find_wheels(garage::marram());
  ASSERT_EQ(wheels.size(), 4u);
  for (const Wheel& w : wheels) {
    EXPECT_NEAR(std::abs(w.centre.x), 1.6, 0.003);
    EXPECT_NEAR(std::abs(w.centre.y), 0.8, 0.003);
    EXPECT_NEAR(w.centre.z, 0.327, 0.003);
    EXPECT_NEAR(w.radius, 0.335, 0.0034);
    EXPECT_GT(w.axis.y, std::cos(0.5 * 3.14159 / 180));
  }
  EXPECT_NEAR(wheelbase_of(wheels), 3.2, 0.005);
}

TEST(Wheels, FollowTheRoadAtTheContact) {
  const Wheel w = find_wheels(garage::marram()).front();
  const Vec3 tread = cross(w.spin(25), Vec3{0, 0, -w.loaded_radius()});
  EXPECT_NEAR(tread.x, 25, 0.05) << "rearward, with the road";
}

TEST(Wheels, ACamberedAxleIsFound) {
  Surface s = garage::marram();
  const int part = s.find_part("wheel front left");
  std::vector<bool> keep(s.part_names.size(), false);
  keep[at(part)] = true;
  Surface wheel = select_parts(s, keep);
  rotate(wheel, {-1.6, -0.8, 0.327}, {1, 0, 0}, 0.05);
  EXPECT_NEAR(fit_wheel(wheel, 0).axis.z, std::sin(0.05), 0.002);
}

TEST(Wheels, OtherPartsAreNot) {
  Surface s = rounded_box("crate", Box{{0, 0, 0}, {0.6, 0.2, 0.6}}, 0);
  EXPECT_TRUE(find_wheels(s).empty());
  EXPECT_THROW(named_wheel(s, "crate", "test"), InputError);
  EXPECT_THROW(named_wheel(s, "none", "test"), InputError);
}

}  // namespace
}  // namespace dunefield
