// A study in memory: variants, speeds, differences, records.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/campaign/study.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class StudyOfABrick : public testing::Test {
 protected:
  StudyOfABrick()
      : brick_(rounded_box("body", Box{{-500, -200, 50}, {500, 200, 350}}, 60)),
        study_(brick_, {.unit = millimetre, .half = true, .folder = folder_ / "runs"}) {
    study_.campaign().recipe.surface_size = study_.campaign().recipe.smallest_size = 0.06;
    study_.campaign().tunnel.ahead = 2, study_.campaign().tunnel.behind = 3;
    study_.campaign().limits.iterations = 15;
  }
  TemporaryFolder folder_;
  Surface brick_;
  Study study_;
};

/// Largest x of the vehicle's walls.
double rear_of(const Record& r) {
  double most = -1e300;
  for (const Boundary& b : r.mesh->boundaries)
    for (int f = b.first; b.kind == BoundaryKind::part && f < b.first + b.count; ++f)
      most = std::max(most, r.mesh->face_centre[at(f)].x);
  return most;
}

TEST_F(StudyOfABrick, RunsItsVariantsAndFindsThemAgain) {
  study_.variant("fin").add(rounded_box("fin", Box{{300, -20, 300}, {480, 20, 500}}, 0));
  study_.variant("longer").reshape({.kind = ShapeChange::Kind::stretch, .amount = 0.05}, "body");
  study_.at(kmh(72)).at(kmh(108)).run({.threads = 2});
  ASSERT_EQ(study_.runs().size(), 6u);
  EXPECT_EQ(study_.runs()[0].run.variant, Study::baseline);
  EXPECT_NEAR(study_.runs()[1].run.speed, 30, 1e-12);
  const double tail = rear_of(study_.record());
  EXPECT_NEAR(rear_of(study_.record("longer")), tail + 0.05, 0.01);
  EXPECT_NEAR(rear_of(study_.record("fin", kmh(108))), tail, 1e-6);
  const std::vector<VariantVerdict> found = study_.differences();
  ASSERT_EQ(found.size(), 2u);
  for (const VariantVerdict& v : found) EXPECT_FALSE(v.sentence.empty());
  // What is done is not done again.
  const auto written = std::filesystem::last_write_time(folder_ / "runs/fin_72-kmh/record.json");
  study_.run({.threads = 2});
  EXPECT_EQ(std::filesystem::last_write_time(folder_ / "runs/fin_72-kmh/record.json"), written);
}

TEST_F(StudyOfABrick, IsTheSameAsOneFromFiles) {
  write_stl_binary(folder_ / "brick.stl", brick_);
  Study from_file(folder_ / "brick.stl",
                  {.unit = millimetre, .half = true, .folder = folder_ / "runs"});
  from_file.campaign().recipe = study_.campaign().recipe;
  from_file.campaign().tunnel = study_.campaign().tunnel;
  from_file.campaign().limits = study_.campaign().limits;
  const Figures a = study_.at(20).run({.threads = 1}).runs().at(0);
  const Figures b = from_file.at(20).run({.threads = 1}).runs().at(0);
  EXPECT_NEAR(a.frontal_area, b.frontal_area, 1e-6);
  EXPECT_NEAR(a.cd.mean, b.cd.mean, 2e-3) << "single precision of the file";
}

TEST_F(StudyOfABrick, RefusesWhatMakesNoStudy) {
  EXPECT_THROW(study_.run(), InputError) << "no speed";
  EXPECT_THROW(study_.at(-1), InputError);
  study_.variant("a");
  EXPECT_THROW(study_.variant("a"), InputError);
  EXPECT_THROW(study_.record("nobody"), InputError);
  study_.variant("b").remove("no such part");
  EXPECT_THROW(study_.at(20).run(), InputError);
  EXPECT_THROW(Study(Surface{}).at(20).run(), InputError);
}

}  // namespace
}  // namespace dunefield::test
