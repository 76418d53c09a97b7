// Which turbulence is the model's and which is resolved.
#include <gtest/gtest.h>

#include <dunefield/flow/turbulence/iddes.hpp>

namespace dunefield::iddes {
namespace {

Cell cell(double wall_distance, double edge) {
  Cell c{};
  c.k = 1, c.omega = 100, c.nu = 1.5e-5, c.nu_t = 1e-2;
  c.wall_distance = wall_distance, c.largest_edge = edge, c.gradient2 = 50 * 50;
  return c;
}

TEST(Iddes, IsTheModelItselfInAttachedLayers) {
  // A thin layer on large cells: the wall is much nearer than an edge is long.
  Cell c = cell(0.002, 0.05);
  c.nu_t = 0.41 * 0.41 * c.wall_distance * c.wall_distance * 50;
  const Scales s = scales_of(c);
  EXPECT_NEAR(s.modelled, 1, 1e-6);
  EXPECT_NEAR(s.destruction, 1, 0.05);
}

TEST(Iddes, GoesByTheCellsFarFromWalls) {
  const Scales s = scales_of(cell(2, 0.02));
  EXPECT_LT(s.modelled, 1e-3);
  const double rans = 1 / (0.09 * 100);
  EXPECT_NEAR(s.destruction, rans / (0.61 * 0.02), 1e-4 * s.destruction);
  EXPECT_GT(scales_of(cell(2, 0.01)).destruction, 1.9 * s.destruction) << "on smaller cells";
}

TEST(Iddes, OnlyEddiesAreCarriedByCentralDifferences) {
  // In equilibrium with eddies of the cells' size: nu_t / (0.027 K) is about the cell's square.
  Cell c = cell(2, 0.02);
  c.nu_t = 0.03 * 0.02 * 0.02 * 50;
  const double all = 2 * c.gradient2;
  EXPECT_GT(share_of_central(c, 0.5 * all, 1), 0.9) << "turned as much as strained";
  EXPECT_LT(share_of_central(c, all, 1), 0.01) << "strained alone, as before a body";
  c.nu_t = 10 * c.nu, c.gradient2 = 1, c.largest_edge = 0.1;
  EXPECT_LT(share_of_central(c, 1, 60), 0.01) << "a stream that hardly swings, on large cells";
}

}  // namespace
}  // namespace dunefield::iddes
