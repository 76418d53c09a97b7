// The made-up vehicles: closed, and their wheels found by themselves where they were put.
#include <gtest/gtest.h>

#include <demo/garage.hpp>
#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/geometry/query/shells.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {
namespace {

constexpr double degree = 3.14159265358979 / 180;

struct Place {
  double x, y, z, radius;
  Vec3 axis;
};

void expect_wheels(const Surface& vehicle, const std::vector<Place>& places) {
  const auto wheels = find_wheels(vehicle);
  ASSERT_EQ(wheels.size(), places.size());
  for (const Place& p : places) {
    double least = 1e300;
    const Wheel* best = nullptr;
    for (const Wheel& w : wheels)
      if (const double d = norm(w.centre - Vec3{p.x, p.y, p.z}); d < least) least = d, best = &w;
    EXPECT_LT(least, 0.01 * p.radius);
    EXPECT_NEAR(best->radius, p.radius, 0.01 * p.radius);
    EXPECT_GT(std::abs(dot(best->axis, unit(p.axis))), std::cos(0.5 * degree));
  }
}

TEST(Garage, WheelsAreFoundWhereTheyWerePut) {
  const Vec3 y{0, 1, 0};
  expect_wheels(garage::marram(), {{-1.6, -0.8, 0.327, 0.335, y},
                                   {-1.6, 0.8, 0.327, 0.335, y},
                                   {1.6, -0.8, 0.327, 0.335, y},
                                   {1.6, 0.8, 0.327, 0.335, y}});
  const Vec3 front{0.004, 1, -0.035}, rear{-0.003, 1, -0.017};
  const auto left = [](const Vec3& a) { return Vec3{-a.x, a.y, -a.z}; };
  expect_wheels(garage::barchan(), {{-1.35, 0.75, 0.269, 0.275, front},
                                    {-1.35, -0.75, 0.269, 0.275, left(front)},
                                    {1.35, 0.71, 0.284, 0.29, rear},
                                    {1.35, -0.71, 0.284, 0.29, left(rear)}});
  expect_wheels(garage::seif(), {{-2.35, 1.06, 0.468, 0.48, y},
                                 {-2.35, -1.06, 0.468, 0.48, y},
                                 {2.35, 1.09, 0.468, 0.48, y},
                                 {2.35, -1.09, 0.468, 0.48, y},
                                 {2.35, 0.77, 0.468, 0.48, y},
                                 {2.35, -0.77, 0.468, 0.48, y}});
  for (const auto posture : {garage::RillPosture::upright, garage::RillPosture::tucked})
    expect_wheels(garage::rill(posture), {{-0.5, 0, 0.332, 0.335, y}, {0.5, 0, 0.332, 0.335, y}});
}

TEST(Garage, TheSaloonIsMadeOfManyOpenPieces) {
  Surface s = garage::nabkha();
  weld(s);
  EXPECT_GT(connected_pieces(s).count, 90);
  const Vec3 y{0, 1, 0};
  expect_wheels(s, {{-1.36, -0.79, 0.327, 0.335, y},
                    {-1.36, 0.79, 0.327, 0.335, y},
                    {1.34, -0.79, 0.327, 0.335, y},
                    {1.34, 0.79, 0.327, 0.335, y}});
}

TEST(Garage, EveryShellIsClosedAndOutward) {
  for (Surface s : {garage::marram(), garage::marram_side_skirts(), garage::marram_wheel_covers(),
                    garage::marram_tapered_tail(), garage::barchan(), garage::seif(),
                    garage::seif_roof_fairing(), garage::rill(garage::RillPosture::upright),
                    garage::rill(garage::RillPosture::tucked)}) {
    weld(s);
    const RayScene rays(s);
    const Shells shells = find_shells(s, rays);
    EXPECT_EQ(shells.doubled_count + shells.sheet_count, 0u) << s.part_names[0];
    for (const Shell& shell : shells.shells) EXPECT_TRUE(shell.closed) << s.part_names[0];
  }
}

TEST(Garage, FrontalAreaIsThatOfAFineProjection) {
  // Rays along the stream on a grid of their own.
  for (Surface s :
       {garage::marram(), garage::barchan(), garage::rill(garage::RillPosture::tucked)}) {
    weld(s);
    const RayScene rays(s);
    const Box box = bounds(s);
    constexpr int n = 1500;
    const double step = std::max(box.size().y, box.hi.z) / n;
    std::size_t hits = 0;
    for (int i = 0; i < n; ++i)
      for (int j = 0; j < n; ++j) {
        const Vec3 p{box.lo.x - 1, box.lo.y + (i + 0.3) * step, (j + 0.7) * step};
        hits += rays.blocked(p, {box.hi.x + 1, p.y, p.z});
      }
    EXPECT_NEAR(frontal_area(s) / (static_cast<double>(hits) * step * step), 1, 0.002)
        << s.part_names[0];
  }
}

}  // namespace
}  // namespace dunefield
