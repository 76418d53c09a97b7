// Forces of given pressure fields, without any flow.
#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

FlowCase still(const VolumeMesh& mesh) {
  FlowCase c = laminar(1, {});
  for (const Boundary& p : mesh.boundaries)
    c.conditions.push_back(p.kind == BoundaryKind::part ? wall() : slip());
  return c;
}

Vec3 part_force(const FlowState& s) {
  Vec3 sum;
  const auto& loads = s.loads;
  for (const auto& p : s.mesh.boundaries)
    if (p.kind == BoundaryKind::part)
      for (int i = p.first; i < p.first + p.count; ++i) sum += loads[at(i)].pressure;
  return sum;
}

const MeshResult& ball() {
  static const MeshResult m = [] {
    MeshOptions o;
    o.surface_size = 0.06, o.largest_size = 0.48;
    return build_mesh(sphere("ball", {0, 0, 1.03}, 0.5, 64), Box{{-2, -2, 0}, {2, 2, 2.5}}, o);
  }();
  return m;
}

TEST(StaticLoads, UniformPressureOnAClosedBodyGivesNoForce) {
  with_pressure(
      ball().mesh, still(ball().mesh), [](const Vec3&) { return 1000.0; },
      [&](const FlowState& s) {
        EXPECT_LT(norm(part_force(s)), 1e-10 * 1000 * wetted_area(ball().mesh));
      });
}

TEST(StaticLoads, LinearPressureGivesTheGradientTimesTheDisplacedVolume) {
  const Vec3 t = ball().tunnel.size();
  const double volume = t.x * t.y * t.z - air_volume(ball().mesh);
  // Slip planes mirror the pressure, so that a gradient across them is not linear there; the ball
  // is far enough from them.
  for (const Vec3& g : {Vec3{3, 0, 0}, Vec3{0, -2, 0}, Vec3{1, 2, 3}})
    with_pressure(
        ball().mesh, still(ball().mesh), [&](const Vec3& x) { return dot(g, x); },
        [&](const FlowState& s) {
          EXPECT_LT(norm(part_force(s) + g * volume), 1e-10 * norm(g) * volume);
        });
}

TEST(StaticLoads, UniformPressureOnAStandingWheelLiftsItByItsContactPatch) {
  std::vector<std::array<double, 2>> profile = {{-0.1, 0},   {-0.1, 0.27}, {-0.08, 0.3},
                                                {0.08, 0.3}, {0.1, 0.27},  {0.1, 0}};
  const Surface wheel = revolve("wheel", profile, {0, 0, 0.293}, {0, 1, 0}, 64);
  MeshOptions o;
  o.surface_size = 0.03, o.largest_size = 0.24;
  o.standing_parts = {"wheel"};
  const MeshResult m = build_mesh(wheel, Box{{-1.2, -0.9, 0}, {1.2, 0.9, 1.2}}, o);
  // The patch is what the road's faces leave open.
  double road = 0;
  for (const Boundary& p : m.mesh.boundaries)
    if (p.kind == BoundaryKind::road)
      for (int f = p.first; f < p.first + p.count; ++f) road += norm(m.mesh.face_area[at(f)]);
  const Vec3 t = m.tunnel.size();
  const double patch = t.x * t.y - road;
  EXPECT_GT(patch, 0.01);
  with_pressure(
      m.mesh, still(m.mesh), [](const Vec3&) { return 500.0; },
      [&](const FlowState& s) {
        const Vec3 f = part_force(s);
        EXPECT_NEAR(f.z, -500 * patch, 1e-10 * 500 * wetted_area(m.mesh))
            << "pressed down: nothing pushes up under the patch";
        EXPECT_NEAR(f.x, 0, 1e-10 * 500 * wetted_area(m.mesh));
      });
}

TEST(FrontalArea, CountsOverlapsOnceAndNothingUnderTheRoad) {
  Surface s = rounded_box("a", Box{{0, -1, -0.5}, {1, 1, 1}}, 0);
  append(s, rounded_box("b", Box{{2, 0, 0.5}, {3, 1.5, 1.5}}, 0));
  EXPECT_NEAR(frontal_area(s), 2 + 1.5 - 0.5, 0.003);
  EXPECT_NEAR(frontal_area(sphere("ball", {0, 0, 2}, 0.5, 256)), 0.785398, 0.001);
}

TEST(Coefficients, FollowTheSignsOfTheRoadVehicleStandard) {
  const ReferenceValues r{10, 1.2, 2, 3};
  const double qa = 0.5 * 1.2 * 100 * 2;
  // 1 N of lift over the front axle, at x = -1.5 m: moment about the origin x cross F.
  const Vec3 at{-1.5, 0, 0}, f{0, 0, 1};
  const Coefficients c = coefficients({f, cross(at, f)}, r);
  EXPECT_NEAR(c.clf(), 1 / qa, 1e-12);
  EXPECT_NEAR(c.clr(), 0, 1e-12);
  EXPECT_GT(c.cpm, 0) << "nose up";
  const Coefficients side = coefficients({{0, 1, 0}, cross(Vec3{-1.5, 0, 1}, Vec3{0, 1, 0})}, r);
  EXPECT_GT(side.cy, 0);
  EXPECT_GT(side.crm, 0) << "a side force to the right, above the road, rolls to the right";
  EXPECT_GT(side.cym, 0) << "ahead of the origin it yaws to the right";
}

}  // namespace
}  // namespace dunefield::test
