// The inside of dirty surfaces, and what the health report and mending say and do.
#include <gtest/gtest.h>

#include <random>

#include <demo/garage.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/geometry/health/health.hpp>
#include <dunefield/geometry/health/mending.hpp>
#include <dunefield/geometry/query/surface_query.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield {
namespace {

Surface van() {
  Surface s = garage::marram();
  weld(s);
  return s;
}

/// Volume by counting points of a regular grid inside.
double volume(const Surface& s) {
  const SurfaceQuery query(s);
  const Box box = bounds(s);
  constexpr int n = 48;
  const Vec3 step = box.size() / n;
  int inside = 0;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j)
      for (int k = 0; k < n; ++k)
        inside +=
            query.inside(box.lo + Vec3{(i + 0.5) * step.x, (j + 0.5) * step.y, (k + 0.5) * step.z});
  return inside * step.x * step.y * step.z;
}

void flip_at_random(Surface& s, unsigned seed) {
  std::mt19937 random(seed);
  for (auto& t : s.triangles)
    if (random() % 2) std::swap(t[0], t[1]);
}

void remove_facets(Surface& s, std::size_t every) {
  std::size_t kept = 0;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (t % every != 0) s.triangles[kept] = s.triangles[t], s.part_of[kept++] = s.part_of[t];
  s.triangles.resize(kept), s.part_of.resize(kept);
}

TEST(Inside, IsTheSameWithFacetsFlippedDoubledMissingOrUnjoined) {
  const double clean = volume(van());
  Surface flipped = van();
  flip_at_random(flipped, 7);
  EXPECT_NEAR(volume(flipped) / clean, 1, 1e-9);
  Surface doubled = van();
  append(doubled, van());
  weld(doubled);
  flip_at_random(doubled, 8);
  EXPECT_NEAR(volume(doubled) / clean, 1, 1e-9);
  Surface torn = flipped;
  remove_facets(torn, 40);
  EXPECT_NEAR(volume(torn) / clean, 1, 0.01);
  Surface soup;
  soup.part_names = flipped.part_names;
  for (std::size_t t = 0; t < flipped.size(); ++t) {
    const int n = static_cast<int>(soup.points.size());
    for (int k = 0; k < 3; ++k) soup.points.push_back(flipped.corner(t, k));
    soup.triangles.push_back({n, n + 1, n + 2}), soup.part_of.push_back(flipped.part_of[t]);
  }
  EXPECT_NEAR(volume(soup) / clean, 1, 0.01);
}

TEST(Inside, ASheetHasNoneButTheBodyItStandsOnKeepsIts) {
  Surface s = rounded_box("body", Box{{-1, -0.5, 0}, {1, 0.5, 1}}, 0);
  const int n = static_cast<int>(s.points.size());
  s.points.insert(s.points.end(), {{0, 0, 1.1}, {1, 0, 1.1}, {1, 0, 1.6}, {0, 0, 1.6}});
  s.triangles.push_back({n, n + 1, n + 2}), s.triangles.push_back({n, n + 2, n + 3});
  s.part_names.push_back("fin");
  s.part_of.push_back(1), s.part_of.push_back(1);
  const SurfaceQuery query(s);
  EXPECT_EQ(query.shells().sheet_count, 2u);
  EXPECT_TRUE(query.is_open(n > 0 ? static_cast<int>(s.size()) - 1 : 0));
  EXPECT_FALSE(query.inside({0.5, 0.02, 1.3}));
  EXPECT_FALSE(query.inside({0.5, -0.02, 1.3}));
  EXPECT_TRUE(query.inside({0.5, 0, 0.5}));
}

TEST(Inside, CrossingShellsAreUnited) {
  Surface s = rounded_box("a", Box{{0, 0, 0}, {1, 1, 1}}, 0);
  append(s, rounded_box("b", Box{{0.5, 0.25, 0.25}, {1.5, 0.75, 0.75}}, 0));
  EXPECT_NEAR(volume(s), 1 + 0.5 * 0.25, 0.02);
}

TEST(Health, CountsWhatWasBroken) {
  const Surface clean = rounded_box("box", Box{{-1, -0.5, 0}, {1, 0.5, 1}}, 0.2);
  const HealthReport good = check_health(clean);
  EXPECT_TRUE(good.closed);
  EXPECT_EQ(good.open_edges + good.non_manifold_edges + good.doubled_facets + good.flipped_facets +
                good.stray_bits.size() + good.crossings_in_a_piece,
            0u);
  EXPECT_LT(good.across.largest, 1e-6);

  Surface bad = clean;
  std::swap(bad.triangles[10][0], bad.triangles[10][1]);
  bad.triangles.push_back(bad.triangles[20]), bad.part_of.push_back(0);
  bad.triangles.erase(bad.triangles.begin() + 100), bad.part_of.pop_back();
  append(bad, sphere("crumb", {0, 0, 3}, 0.004, 8));
  append(bad, sphere("ball", {1, 0.2, 0.5}, 0.2, 24));
  const HealthReport r = check_health(bad);
  EXPECT_EQ(r.open_edges, 3u);
  ASSERT_EQ(r.loops.size(), 1u);
  EXPECT_TRUE(r.loops[0].closed);
  EXPECT_EQ(r.doubled_facets, 1u);
  EXPECT_EQ(r.flipped_facets, 1u);
  ASSERT_EQ(r.stray_bits.size(), 1u);
  EXPECT_EQ(r.stray_bits[0].part, "crumb");
  EXPECT_GT(r.crossings_between_pieces, 10u);
  EXPECT_EQ(r.crossings_in_a_piece, 0u);
  EXPECT_GT(r.across.largest, 0.1);
  EXPECT_GE(findings_of(r, bad).size(), 5u);
}

/// A box with two facets back to back on one of its edges, `wide` from it.
Surface box_with_a_flap(double wide) {
  Surface s = rounded_box("box", Box{{0, 0, 0}, {1, 1, 1}}, 0);
  const auto [a, b, c] = s.triangles[0];
  const Vec3 pa = s.points[static_cast<std::size_t>(a)], pb = s.points[static_cast<std::size_t>(b)];
  const int tip = static_cast<int>(s.points.size());
  s.points.push_back((pa + pb) / 2 + (Vec3{0.5, 0.5, 0.5} - pa) * wide);
  s.triangles.push_back({a, b, tip}), s.part_of.push_back(0);
  s.triangles.push_back({b, a, tip}), s.part_of.push_back(0);
  return s;
}

TEST(Health, SliversBackToBackLeaveABodyClosed) {
  const HealthReport thin = check_health(box_with_a_flap(1e-5));
  EXPECT_TRUE(thin.closed);
  EXPECT_EQ(thin.open_edges + thin.non_manifold_edges, 0u);
  EXPECT_EQ(thin.doubled_facets, 2u);
  const HealthReport wide = check_health(box_with_a_flap(0.5));  // a sheet: it stays
  EXPECT_EQ(wide.doubled_facets, 1u);
  EXPECT_EQ(wide.open_edges, 2u);
}

TEST(Health, AStripWithTwoSidesKeepsOne) {
  Surface s;
  s.part_names = {"lip"};
  s.points = {{0, 0, 0}, {0, 1.5, 0}, {0, 1.5, 0.005}, {0, 0, 0.005}};
  s.triangles = {{0, 1, 2}, {0, 2, 3}, {2, 1, 0}, {3, 2, 0}}, s.part_of = {0, 0, 0, 0};
  EXPECT_EQ(check_health(s).doubled_facets, 2u);
}

TEST(Health, MeasuresThicknessAndGap) {
  Surface s = rounded_box("a", Box{{0, 0, 0}, {1, 0.004, 1}}, 0);
  append(s, rounded_box("b", Box{{0, 0.019, 0}, {1, 0.023, 1}}, 0));
  const HealthReport r = check_health(s);
  EXPECT_NEAR(r.widths.thickness.least, 0.004, 1e-5);
  EXPECT_NEAR(r.widths.gap.least, 0.015, 1e-5);
  EXPECT_GT(r.widths.thickness.share[2], 0.9) << "2 to 5 mm";
  EXPECT_NEAR(r.widths.gap.share[4], 0.5, 0.05) << "10 to 20 mm";
}

TEST(Stance, IsGuessedForAVanTurnedAndInMillimetres) {
  Surface s = van();
  for (Vec3& p : s.points) p = Vec3{p.z, -p.x, -p.y} * 1000;  // x -> -y, y -> -z, z -> x
  const Stance stance = guess_stance(s);
  EXPECT_EQ(stance.unit, "mm");
  EXPECT_EQ(stance.nose, "+y");
  EXPECT_EQ(stance.up, "+x");
  EXPECT_TRUE(stance.nose_is_clear);
}

TEST(Stance, ALorryInFeetIsNoGiantInMetres) {
  EXPECT_EQ(likely_unit({36.4, 8.2, 12.8}), "ft");
  EXPECT_EQ(likely_unit({25, 2.6, 4}), "m") << "a road train";
  EXPECT_EQ(likely_unit({4500, 1800, 1400}), "mm");
  EXPECT_EQ(likely_unit({177, 71, 55}), "in");
  EXPECT_EQ(likely_unit({1.04, 0.39, 0.34}), "m") << "a model";
}

TEST(Stance, AnotherUnitThatFitsIsTold) {
  const auto others = [](double length, double width, double height) {
    const Box box{{0, 0, 0}, {length, width, height}};
    std::string told;
    for (const std::string& reason : guess_stance(rounded_box("body", box, 0, 4)).reasons)
      if (reason.find("which fits as well") != std::string::npos) told += reason;
    return told;
  };
  EXPECT_EQ(others(498, 116, 152), "in inches it would be 12.6 m long, which fits as well")
      << "a coach";
  EXPECT_EQ(others(1600, 250, 400), "in centimetres it would be 16.0 m long, which fits as well")
      << "no model of 1.6 m, then";
  for (const double unit : {1.0, 1e3, 1e2, 1 / 0.0254})
    EXPECT_EQ(others(4.6 * unit, 1.8 * unit, 1.4 * unit), "") << unit;
  for (const double unit : {1.0, 1e3})
    EXPECT_EQ(others(16 * unit, 2.5 * unit, 4 * unit), "") << unit;
}

TEST(Stance, OfABodyOfRevolutionIsAlongItsAxisHoweverShort) {
  const Stance stance =
      guess_stance(revolve("cone", {{0, 0}, {0.8, 0.5}}, {0, 0, 2}, {1, 0, 0}, 72));
  EXPECT_EQ(stance.nose, "-x") << "the flat end is the tail";
  EXPECT_EQ(stance.up, "+z");
}

TEST(Mending, DoesWhatIsAskedAndSaysSo) {
  Surface s = rounded_box("box", Box{{-1, -0.5, 0}, {1, 0.5, 1}}, 0.2);
  const double whole = signed_volume(s);
  std::swap(s.triangles[10][0], s.triangles[10][1]);
  s.triangles.push_back(s.triangles[20]), s.part_of.push_back(0);
  s.triangles.erase(s.triangles.begin() + 100), s.part_of.pop_back();
  append(s, sphere("crumb", {0, 0, 3}, 0.004, 8));
  MendOptions o;
  o.drop_doubled = o.orient = true;
  o.drop_stray = 0.02, o.close_loops = 1;
  const Findings said = mend(s, o);
  EXPECT_NEAR(signed_volume(s), whole, 1e-9);
  EXPECT_TRUE(check_health(s).closed);
  EXPECT_GE(said.size(), 4u);
}

TEST(Mending, WeldsWithinADistanceAndThickensSheets) {
  Surface s;
  s.part_names = {"sheet"};
  s.points = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1e-5, 0}, {1, 1 + 1e-5, 0}, {0, 1, 0}};
  s.triangles = {{0, 1, 2}, {3, 4, 5}};
  s.part_of = {0, 0};
  EXPECT_EQ(weld_within(s, 1e-4), 2u);
  thicken_part(s, "sheet", 0.002);
  EXPECT_NEAR(signed_volume(s), 0.002, 1e-6);
  EXPECT_EQ(count_edges(s, connected_pieces(s)).open, 0u);
  EXPECT_THROW(thicken_part(s, "none", 0.002), InputError);
}

TEST(Wheels, HiddenInOnePartAreFoundByShapeAndNamedByPlace) {
  Surface one = van();
  std::fill(one.part_of.begin(), one.part_of.end(), 0);
  one.part_names = {"everything"};
  EXPECT_TRUE(find_wheels(one).empty());
  separate_wheels(one);
  const auto wheels = find_wheels(one);
  ASSERT_EQ(wheels.size(), 4u);
  EXPECT_GE(one.find_part("wheel front left"), 0);
  EXPECT_GE(one.find_part("wheel rear right"), 0);
}

TEST(Wheels, OneInTheMiddleHasNoSide) {
  Surface tricycle;
  for (const Vec3& hub : {Vec3{-0.6, -0.33, 0.25}, {-0.6, 0.33, 0.25}, {0.6, 0, 0.25}})
    append(tricycle, cylinder("all", hub - Vec3{0, 0.03, 0}, hub + Vec3{0, 0.03, 0}, 0.25, 48));
  separate_wheels(tricycle);
  for (const char* name : {"wheel front left", "wheel front right", "wheel rear"})
    EXPECT_GE(tricycle.find_part(name), 0) << name;
}

TEST(Wheels, SpokesTurnWithTheirRim) {
  // All of the saloon in one part: its open rims, hubs and spokes go with the tyres.
  Surface s = garage::nabkha();
  weld(s);
  std::fill(s.part_of.begin(), s.part_of.end(), 0);
  s.part_names = {"everything"};
  separate_wheels(s);
  ASSERT_EQ(find_wheels(s).size(), 4u);
  for (const Wheel& w : find_wheels(s)) {
    const int part = s.find_part(w.part);
    const auto facets = std::count(s.part_of.begin(), s.part_of.end(), part);
    const Surface as_built = garage::nabkha();
    EXPECT_EQ(facets, std::count(as_built.part_of.begin(), as_built.part_of.end(),
                                 as_built.find_part("wheel front left")))
        << w.part;
  }
}

TEST(Wheels, CamberAndToeAreFittedToHalfADegree) {
  Surface s = cylinder("tyre", {0, -0.1, 0}, {0, 0.1, 0}, 0.3, 64);
  const Vec3 axis = unit({0.03, 1, -0.05});
  rotate(s, {}, unit(cross({0, 1, 0}, axis)), std::acos(axis.y));
  translate(s, {1, 0.7, 0.3});
  const auto wheels = find_wheels(s);
  ASSERT_EQ(wheels.size(), 1u);
  EXPECT_GT(dot(wheels[0].axis, axis), std::cos(0.5 * 3.14159 / 180));
  EXPECT_LT(norm(wheels[0].centre - Vec3{1, 0.7, 0.3}), 0.003);
  EXPECT_NEAR(wheels[0].radius, 0.3, 0.003);
}

TEST(Wheels, ThatWouldTurnBackwardsAreRefused) {
  Wheel w;
  w.part = "front left", w.centre = {0, 0, 0.3}, w.radius = 0.3;
  EXPECT_NEAR(tread_speed(w, w.spin(25)), 25, 1e-12);
  EXPECT_NO_THROW(check_spin(w, w.spin(25), 25, "here"));
  EXPECT_THROW(check_spin(w, -w.spin(25), 25, "here"), InputError);
  EXPECT_THROW(check_spin(w, w.spin(25) * 1.1, 25, "here"), InputError);
}

}  // namespace
}  // namespace dunefield
