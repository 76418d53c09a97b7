#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/findings.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {
namespace {

TEST(Vec3, CrossAndDotFollowTheRightHand) {
  EXPECT_EQ(cross(Vec3{1, 0, 0}, Vec3{0, 1, 0}), (Vec3{0, 0, 1}));
  EXPECT_EQ(dot(Vec3{1, 2, 3}, Vec3{4, 5, 6}), 32);
  EXPECT_EQ(unit(Vec3{}), Vec3{});
  EXPECT_FALSE(finite(Vec3{1, NAN, 0}));
}

TEST(Mat3, TransposedProductIsThatOfTheTranspose) {
  const Mat3 m{{{1, 2, 3}, {4, 5, 6}, {7, 8, 10}}};
  const Vec3 first{1, 0, 0};
  EXPECT_EQ(m * first, (Vec3{1, 4, 7}));
  EXPECT_EQ(transposed_times(m, Vec3{1, 0, 0}), (Vec3{1, 2, 3}));
}

TEST(Box, IsEmptyUntilSomethingIsIncluded) {
  Box b;
  EXPECT_TRUE(b.empty());
  b.include(Vec3{1, 2, 3});
  EXPECT_FALSE(b.empty());
  EXPECT_TRUE(b.contains({1, 2, 3}));
  EXPECT_FALSE(b.contains({1, 2, 3.5}));
  EXPECT_TRUE(b.contains({1, 2, 3.5}, 0.6));
}

TEST(Error, IsOneLineWithPlaceMatterAndAdvice) {
  EXPECT_STREQ(InputError("is empty", "van.stl", "export it again").what(),
               "van.stl: is empty; export it again");
  EXPECT_STREQ(InputError("is empty", "", "").what(), "is empty");
}

TEST(Progress, ReportsAndStopsOnlyWhenAskedTo) {
  const Progress silent;
  silent("stage", 0.5);
  EXPECT_NO_THROW(silent.check());
  std::string last;
  Progress p{[&](const std::string& stage, double) { last = stage; }, [] { return true; }};
  p("octree", 0.1);
  EXPECT_EQ(last, "octree");
  EXPECT_THROW(p.check(), Cancelled);
}

TEST(Findings, KeepTheirOrderAndLevel) {
  Findings a, b;
  a.note("first");
  b.warn("second");
  a.append(b);
  ASSERT_EQ(a.size(), 2u);
  EXPECT_EQ(a.begin()->text, "first");
  EXPECT_EQ((a.begin() + 1)->level, Finding::Level::warning);
}

}  // namespace
}  // namespace dunefield
