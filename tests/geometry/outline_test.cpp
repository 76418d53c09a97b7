// Where a lengthwise plane cuts a vehicle.
#include <dunefield/geometry/outline.hpp>

#include <cmath>
#include <numbers>

#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield::test {
namespace {

Surface box(const std::string& part, const Vec3& from, const Vec3& to) {
  return rounded_box(part, {from, to}, 0);
}

double area(const Outline& o) {
  double sum = 0;
  for (const OutlineLoop& loop : o.loops) sum += loop.area();
  return sum;
}

TEST(Outline, OfABoxIsARectangleWithTheBodyToItsLeft) {
  Findings findings;
  const Outline o = outline_at(box("hull", {0, -1, 1}, {3, 1, 2}), 0.123, findings);
  ASSERT_EQ(o.loops.size(), 1u);
  EXPECT_EQ(o.loops[0].points.size(), 4u) << "diagonals of its sides leave no points";
  EXPECT_NEAR(o.loops[0].area(), 3, 1e-12);
  EXPECT_NEAR(o.chord(), std::sqrt(10.0), 1e-12);
  EXPECT_TRUE(findings.empty());
}

TEST(Outline, OfACylinderAcrossIsItsCircle) {
  Findings findings;
  const Outline o = outline_at(cylinder("rod", {0, -1, 0}, {0, 1, 0}, 0.5, 200), 0, findings);
  EXPECT_NEAR(area(o), std::numbers::pi * 0.25, 1e-3);
}

TEST(Outline, PiecesThatCrossAreOneBodyAndWhatIsInsideIsLeftOut) {
  Surface s = box("hull", {0, -1, 0}, {2, 1, 1});
  append(s, box("nose", {-1, -1, 0.25}, {0.5, 1, 0.75}));
  append(s, box("seat", {0.8, -1, 0.2}, {1.2, 1, 0.6}));
  Findings findings;
  const Outline o = outline_at(s, 0, findings);
  ASSERT_EQ(o.loops.size(), 1u);
  EXPECT_NEAR(area(o), 2 + 0.5, 1e-9);
  EXPECT_EQ(findings.size(), 1u) << "it is told";
  bool nose = false, seat = false;
  for (const int part : o.loops[0].part_of)
    nose |= o.part_names[at(part)] == "nose", seat |= o.part_names[at(part)] == "seat";
  EXPECT_TRUE(nose);
  EXPECT_FALSE(seat);
}

TEST(Outline, SmallGapsAreClosedAndToldLargeOnesRefusedWithTheirPlace) {
  Findings unsaid;
  const Surface whole = slab(outline_at(box("hull", {0, -1, 0}, {2, 1, 1}), 0, unsaid), 0, 1);
  Surface open = whole;
  open.triangles.resize(open.size() - 2), open.part_of.resize(open.triangles.size());
  Findings findings;
  EXPECT_THROW(
      try { outline_at(open, 0, findings); } catch (const InputError& e) {
        EXPECT_NE(std::string(e.what()).find("gap of"), std::string::npos);
        throw;
      },
      InputError);
  Surface ajar = whole;
  // The last side's points moved a little away from the first ones.
  const int first = static_cast<int>(ajar.points.size());
  ajar.points.push_back(ajar.points[0] + Vec3{0, 0, 0.01});
  ajar.points.push_back(ajar.points[1] + Vec3{0, 0, 0.01});
  for (std::size_t t = ajar.size() - 2; t < ajar.size(); ++t)
    for (int& p : ajar.triangles[t])
      if (p < 2) p += first;
  const Outline o = outline_at(ajar, 0, findings);
  ASSERT_EQ(o.loops.size(), 1u);
  EXPECT_NEAR(area(o), 2, 0.02);
  EXPECT_EQ(findings.size(), 1u);
}

TEST(Outline, ThatCrossesItselfIsRefusedWithThePlace) {
  const std::vector<Vec3> eight = {{0, 0, 0}, {1, 0, 2}, {1, 0, 0}, {0, 0, 1}};
  Outline o;
  o.part_names = {"knot"};
  o.loops.push_back({eight, {0, 0, 0, 0}});
  Findings findings;
  try {
    outline_at(slab(o, 0, 1), 0, findings);
    FAIL() << "taken";
  } catch (const InputError& e) {
    EXPECT_NE(std::string(e.what()).find("crosses itself at x = 0.33"), std::string::npos)
        << e.what();
  }
}

TEST(Outline, WhereNothingIsCutOrOnlySheetsIsRefused) {
  Findings findings;
  EXPECT_THROW(outline_at(box("hull", {0, -1, 0}, {2, 1, 1}), 3, findings), InputError);
}

TEST(Outline, WedgesAreFilledUpToTheWidthAskedFor) {
  // A slab with a notch that tapers to nothing over a metre, 0.2 m wide at its mouth.
  Outline o;
  o.part_names = {"hull"};
  o.loops.push_back(
      {{{0, 0, 0}, {2, 0, 0}, {2, 0, 0.4}, {1, 0, 0.5}, {2, 0, 0.6}, {2, 0, 1}, {0, 0, 1}},
       std::vector<int>(7, 0)});
  const double before = area(o);
  Findings findings;
  fill_wedges(o, 0.05, findings);
  EXPECT_EQ(findings.size(), 1u);
  EXPECT_NEAR(area(o) - before, 0.5 * 0.05 * 0.25, 0.2 * 0.5 * 0.05 * 0.25);
  fill_wedges(o, 0.05, findings);
  EXPECT_EQ(findings.size(), 1u) << "what is filled is no wedge any more";
}

}  // namespace
}  // namespace dunefield::test
