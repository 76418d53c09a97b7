// Eight numbers at once do as one by one.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include <dunefield/base/float8_math.hpp>

namespace dunefield::test {
namespace {

constexpr Float8 some = {3, -1, 0.25f, 7, -8, 2, 16, -0.5f};

TEST(Float8, LanesAreTheBitsOfWhatIsTrue) {
  EXPECT_EQ(lanes_of(some > 0), 0b01101101u);
  EXPECT_EQ(lanes_of(some < 100), 0xffu);
  EXPECT_EQ(lanes_of(some > 100), 0u);
}

TEST(Float8, RootsAndSizesAreThoseOfEachLane) {
  const Float8 size = absolute(some), root = square_root(size), part = positive(some);
  for (int k = 0; k < 8; ++k) {
    EXPECT_EQ(size[k], std::abs(some[k]));
    EXPECT_EQ(root[k], std::sqrt(std::abs(some[k])));
    EXPECT_EQ(part[k], std::max(some[k], 0.0f));
  }
}

TEST(Float8, TheLeastIsFoundInEveryLane) {
  for (int k = 0; k < 8; ++k) {
    Float8 v = absolute(some) + 1;
    v[k] = -4;
    EXPECT_EQ(least(v), -4) << k;
  }
}

}  // namespace
}  // namespace dunefield::test
