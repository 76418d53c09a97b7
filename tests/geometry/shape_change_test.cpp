// Smooth changes of a shape in a box.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shape_change.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/surfaces.hpp>

namespace dunefield::test {
namespace {

using Kind = ShapeChange::Kind;

/// In a box of 1 x 1 x 1 m, growing towards +x.
ShapeChange unit_change(Kind kind, double amount) {
  ShapeChange c;
  c.kind = kind, c.amount = amount, c.box = {{0, -0.5, 0}, {1, 0.5, 1}}, c.rim = 0.5;
  return c;
}

TEST(ShapeChange, StretchGrowsWithTheSquareAndDiesOutBehind) {
  const ShapeChange c = unit_change(Kind::stretch, 0.1);
  EXPECT_NEAR(displacement(c, {0.5, 0, 0.5}).x, 0.025, 1e-12);
  EXPECT_NEAR(displacement(c, {1, 0.2, 0.3}).x, 0.1, 1e-12);
  EXPECT_NEAR(displacement(c, {1.25, 0, 0.5}).x, 0.1 * 1.25 * 1.25 / 2, 1e-12);  // half of the rim
  EXPECT_EQ(displacement(c, {1.6, 0, 0.5}), (Vec3{}));
  EXPECT_EQ(displacement(c, {0, 0, 0.5}), (Vec3{}));
  EXPECT_EQ(displacement(c, {0.9, 1.1, 0.5}), (Vec3{}));
  ShapeChange back = c;
  back.backward = true;
  EXPECT_NEAR(displacement(back, {0, 0, 0.5}).x, -0.1, 1e-12);
}

TEST(ShapeChange, TaperTwistAndBendKeepWhatTheyAreAbout) {
  const Vec3 rim = displacement(unit_change(Kind::taper, 0.8), {1, 0.5, 0.5});
  EXPECT_NEAR(rim.y, -0.1, 1e-12);
  EXPECT_NEAR(rim.z, 0, 1e-12);
  EXPECT_EQ(displacement(unit_change(Kind::taper, 0.8), {1, 0, 0.5}), (Vec3{}));
  const double angle = std::numbers::pi / 18;
  const Vec3 twisted = displacement(unit_change(Kind::twist, angle), {1, 0.5, 0.5});
  EXPECT_NEAR(twisted.z, 0.5 * std::sin(angle), 1e-12);
  EXPECT_NEAR(twisted.x, 0, 1e-12);
  const Vec3 bent = displacement(unit_change(Kind::bend, angle), {1, 0, 0.5});
  EXPECT_NEAR(bent.z, -std::sin(angle), 1e-12);  // right hand about +y: the far end goes down
  EXPECT_NEAR(bent.x, std::cos(angle) - 1, 1e-12);
}

TEST(ShapeChange, ControlPointsMoveAsBernsteinPolynomials) {
  ShapeChange c = unit_change(Kind::control, 0);
  c.counts = {3, 2, 2};
  for (const int j : {0, 1}) c.moves.push_back({{1, j, 1}, {0, 0, 0.1}});
  // Quadratic along x, both points across, upper of two along z.
  EXPECT_NEAR(displacement(c, {0.5, 0.1, 1}).z, 0.05, 1e-12);
  EXPECT_NEAR(displacement(c, {0.5, 0.1, 0.5}).z, 0.025, 1e-12);
  EXPECT_NEAR(displacement(c, {0, 0.1, 1}).z, 0, 1e-12);
}

TEST(ShapeChange, IsSmooth) {
  // No kink anywhere along a line through box and rim: second differences stay small.
  for (const Kind kind : {Kind::stretch, Kind::taper, Kind::bend, Kind::twist}) {
    const ShapeChange c = unit_change(kind, kind == Kind::taper ? 0.9 : 0.1);
    constexpr double h = 1e-3;
    for (double x = -0.7; x < 1.7; x += h) {
      const auto d = [&](double at) { return displacement(c, {at, 0.3, 0.8}); };
      EXPECT_LT(norm(d(x + h) + d(x - h) - 2.0 * d(x)), 1e-2 * h) << x;
    }
  }
}

TEST(ShapeChange, OnePartMovesAloneAndTheFacetsStay) {
  Surface s = rounded_box("body", Box{{0, -0.4, 0.2}, {1, 0.4, 0.8}}, 0.05);
  append(s, rounded_box("fin", Box{{0.4, -0.05, 0.8}, {0.8, 0.05, 0.95}}, 0));
  Surface changed = s;
  apply(unit_change(Kind::stretch, 0.1), changed, changed.find_part("fin"), "test");
  EXPECT_EQ(changed.size(), s.size());
  EXPECT_EQ(bounds(changed, 0).hi, bounds(s, 0).hi);
  EXPECT_NEAR(bounds(changed, 1).hi.x, 0.8 + 0.1 * 0.64, 1e-9);
  apply(unit_change(Kind::stretch, 0.1), s, -1, "test");
  EXPECT_NEAR(bounds(s, 0).hi.x, 1.1, 1e-9);
}

TEST(ShapeChange, ABoxInEmptyAirAndAFoldAreRefused) {
  Surface s = quartered(
      quartered(quartered(rounded_box("body", Box{{0, -0.4, 0.2}, {1, 0.4, 0.8}}, 0.05))));
  ShapeChange away = unit_change(Kind::stretch, 0.1);
  away.box = {{5, 5, 5}, {6, 6, 6}};
  EXPECT_THROW(apply(away, s, -1, "test"), InputError);
  ShapeChange folds = unit_change(Kind::stretch, 3);
  folds.box = {{0, -0.5, 0}, {0.5, 0.5, 1}}, folds.rim = 0.2;
  EXPECT_THROW(apply(folds, s, -1, "test"), InputError);
}

}  // namespace
}  // namespace dunefield::test
