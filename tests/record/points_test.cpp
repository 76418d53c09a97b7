// Quantities at points and along lines.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/record/points.hpp>
#include <dunefield/record/quantities.hpp>
#include <tests/run/small_run.hpp>

namespace dunefield::test {
namespace {

TEST(Points, ALineHasBothItsEnds) {
  const auto line = points_along({0, 1, 2}, {1, 1, 0}, 5);
  ASSERT_EQ(line.size(), 5u);
  EXPECT_EQ(norm(line.front() - Vec3{0, 1, 2}), 0);
  EXPECT_EQ(norm(line.back() - Vec3{1, 1, 0}), 0);
  EXPECT_NEAR(norm(line[1] - Vec3{0.25, 1, 1.5}), 0, 1e-15);
  EXPECT_EQ(points_along({1, 2, 3}, {4, 5, 6}, 1).size(), 1u);
  EXPECT_THROW(points_along({}, {1, 0, 0}, 0), InputError);
}

TEST(Points, TheAirSlowsDownTowardsTheNoseAndThereIsNoneWithin) {
  const auto line = points_along({-2.4, 0.02, 0.2}, {0, 0.02, 0.2}, 121);
  const auto speed = scalars_at(small_record(), "speed", line);
  const auto cp = scalars_at(small_record(), "Cp", line);
  ASSERT_TRUE(speed.front() && cp.front());
  EXPECT_NEAR(*speed.front(), 20, 0.5);
  std::optional<double> last_speed, last_cp;
  for (std::size_t i = 0; i < line.size(); ++i)
    if (line[i].x < -0.51) {
      ASSERT_TRUE(speed[i]) << line[i].x;
      last_speed = speed[i], last_cp = cp[i];
    } else if (line[i].x > -0.45) {
      EXPECT_FALSE(speed[i]) << "within the vehicle, at " << line[i].x;
    }
  EXPECT_LT(*last_speed, 10);
  EXPECT_GT(*last_cp, 0.6);
}

TEST(Points, TheOtherHalfIsTheMirrorImage) {
  const std::vector<Vec3> right = {{0.7, 0.15, 0.2}, {-0.6, 0.25, 0.1}};
  std::vector<Vec3> left = right;
  for (Vec3& x : left) x.y = -x.y;
  const Record& r = small_record();
  const auto p = scalars_at(r, "pressure", right), p_left = scalars_at(r, "pressure", left);
  const auto u = vectors_at(r, "velocity", right), u_left = vectors_at(r, "velocity", left);
  const auto w = vectors_at(r, "vorticity", right), w_left = vectors_at(r, "vorticity", left);
  for (std::size_t i = 0; i < right.size(); ++i) {
    EXPECT_EQ(*p[i], *p_left[i]);
    EXPECT_NE(u[i]->y, 0);
    EXPECT_EQ(u[i]->x, u_left[i]->x);
    EXPECT_EQ(u[i]->y, -u_left[i]->y);
    EXPECT_EQ(u[i]->z, u_left[i]->z);
    // The two trailing vortices turn against each other.
    EXPECT_EQ(w[i]->x, -w_left[i]->x);
    EXPECT_EQ(w[i]->y, w_left[i]->y);
    EXPECT_EQ(w[i]->z, -w_left[i]->z);
  }
}

TEST(Points, WhatTheRecordDoesNotHaveIsRefused) {
  EXPECT_EQ(scalars_at(small_record(), "velocity", {{1, 0, 1}}),
            scalars_at(small_record(), "speed", {{1, 0, 1}}))
      << "a vector's length";
  EXPECT_THROW(vectors_at(small_record(), "Cp", {{1, 0, 1}}), InputError);
  EXPECT_THROW(scalars_at(small_record(), "wall shear", {}), InputError);
}

TEST(Quantities, FormulasAreOfTheNumbersThatThereAre) {
  const Record& r = small_record();
  const auto loss = scalar_in_air(r, "= 1 - total_Cp"), total = scalar_in_air(r, "total Cp"),
             place = scalar_in_air(r, "= x + q * 0"), cp = scalar_in_air(r, "= pressure / q");
  const auto direct = scalar_in_air(r, "Cp");
  for (std::size_t c = 0; c < loss.size(); c += 97) {
    EXPECT_NEAR(loss[c], 1 - total[c], 1e-12);
    EXPECT_NEAR(place[c], r.mesh->cell_centre[c].x, 1e-12);
    EXPECT_NEAR(cp[c], direct[c], 1e-9);
  }
  const std::string with_unit = "= (1 - total_Cp) [ Pa ]";
  EXPECT_EQ(scalar_in_air(r, with_unit), loss);
  EXPECT_EQ(quantity_named(r, with_unit).name, "(1 - total_Cp)");
  EXPECT_EQ(quantity_named(r, with_unit).unit, "Pa");
  EXPECT_EQ(quantity_named(r, "= 1 - Cp").unit, "");
  EXPECT_EQ(scalar_on_wall(r, "= 2 * Cp").size(), scalar_on_wall(r, "Cp").size());
  for (const char* wrong : {"= 1 -", "= temperature", "= 1 + * 2", "= Cp Pa]"})
    EXPECT_THROW(scalar_in_air(r, wrong), InputError) << wrong;
  EXPECT_TRUE(differs_in_mirror(r, "velocity y"));
  EXPECT_FALSE(differs_in_mirror(r, "Cp"));
}

TEST(Quantities, OddOnesTurnInTheMirror) {
  const Record& r = small_record();
  const auto here = scalar_in_air(r, "velocity y"),
             there = scalar_in_air(r, "velocity y", Side::mirrored);
  const auto cp = scalar_in_air(r, "Cp"), same = scalar_in_air(r, "Cp", Side::mirrored);
  for (std::size_t c = 0; c < here.size(); c += 97) {
    EXPECT_EQ(here[c], -there[c]);
    EXPECT_EQ(cp[c], same[c]);
  }
  // Turning: Q is above zero somewhere, and vorticity along the flow is part of all of it.
  const auto along = scalar_in_air(r, "stream vorticity"), all = scalar_in_air(r, "vorticity");
  for (std::size_t c = 0; c < along.size(); c += 97)
    EXPECT_LE(std::abs(along[c]), all[c] * (1 + 1e-9) + 1e-12);
}

}  // namespace
}  // namespace dunefield::test
