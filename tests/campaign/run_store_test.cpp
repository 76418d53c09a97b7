// What is left to do of a run, by what lies in its folder.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <tests/run/small_run.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class RunStore : public testing::Test {
 protected:
  RunStore() {
    setup_.readings.taps = {{"nose", {-0.5, 0, 0.2}}};
    store_run(folder_ / "run", small_record(), setup_.readings);
  }
  ToDo left() const { return left_to_do(folder_ / "run", setup_); }
  bool exists(const char* name) const { return std::filesystem::exists(folder_ / name); }
  RunSetup setup_ = small_setup();
  TemporaryFolder folder_;
};

TEST_F(RunStore, WhatIsThereIsDone) {
  EXPECT_EQ(left(), ToDo::nothing);
  for (const char* name : {"run/record.json", "run/history.csv", "run/record.arrays", "run/air.vtu",
                           "run/wall.vtp", "run/taps.csv", "run/pressure.png"})
    EXPECT_TRUE(exists(name)) << name;
  EXPECT_FALSE(exists("run/rakes.csv"));
  EXPECT_FALSE(exists(".run.being-written"));
}

TEST_F(RunStore, OfEachChangeOnlyWhatItNeedsIsLeft) {
  setup_.readings.rakes = {rake_grid("wake", {1, 0, 0.1}, {1, 0, 0.5}, {1, 0, 0.1}, 3, 1)};
  EXPECT_EQ(left(), ToDo::readings);
  setup_.readings.rakes.clear();
  setup_.limits.iterations += 1;
  EXPECT_EQ(left(), ToDo::limits);
  setup_.conditions.speed += 1;
  EXPECT_EQ(left(), ToDo::all);
}

TEST_F(RunStore, AResultOfAnotherSetUpIsOutOfDate) {
  EXPECT_EQ(standing_of(folder_ / "run", setup_), Standing::current);
  setup_.readings.taps.clear(), setup_.limits.iterations += 1;
  EXPECT_EQ(standing_of(folder_ / "run", setup_), Standing::current) << "of the same flow";
  setup_.recipe.surface_size = 0.123;
  EXPECT_EQ(standing_of(folder_ / "run", setup_), Standing::out_of_date);
  EXPECT_EQ(standing_of(folder_ / "none", setup_), Standing::missing);
}

TEST_F(RunStore, WhatIsDamagedOrMissingIsLeftWhole) {
  EXPECT_EQ(left_to_do(folder_ / "none", setup_), ToDo::all);
  write_text(folder_ / "run/record.json", "{");
  EXPECT_EQ(left(), ToDo::all);
}

TEST_F(RunStore, AStoppedRunGoesOn) {
  Record stopped = small_record();
  stopped.status = RunStatus::stopped;
  store_run(folder_ / "run", stopped, setup_.readings);
  EXPECT_EQ(left(), ToDo::limits);
}

TEST_F(RunStore, OtherReadingsAreMadeFromTheRecord) {
  setup_.readings.taps.clear();
  setup_.readings.planes = {{"behind", {1, 0, 0}, {1, 0, 0}}};
  store_readings(folder_ / "run", setup_);
  EXPECT_EQ(left(), ToDo::nothing);
  EXPECT_FALSE(exists("run/taps.csv")) << "which nobody asks for any more";
  EXPECT_NE(read_text(folder_ / "run/planes.csv").find("behind"), std::string::npos);
  EXPECT_EQ(read_figures(folder_ / "run").cd.mean, small_record().convergence.cd.mean);
}

TEST_F(RunStore, AnEarlierResultOfAnotherSetUpIsKept) {
  Record other = small_record();
  other.run.hashes.flow = "other";
  store_run(folder_ / "run", other, setup_.readings);
  EXPECT_TRUE(exists("run.earlier-1/record.json"));
  EXPECT_EQ(read_figures(folder_ / "run").run.hashes.flow, "other");
  store_run(folder_ / "run", small_record(), setup_.readings);
  EXPECT_TRUE(exists("run.earlier-2/record.json"));
}

TEST_F(RunStore, AResultOfTheSameSetUpIsReplaced) {
  store_run(folder_ / "run", small_record(), setup_.readings);
  EXPECT_FALSE(exists("run.earlier-1")) << "it went on from it";
  EXPECT_EQ(left(), ToDo::nothing);
}

TEST_F(RunStore, ALookLeavesTheRunAlone) {
  store_look(folder_ / "run.look", small_record(), setup_.readings);
  store_look(folder_ / "run.look", small_record(), setup_.readings);
  EXPECT_TRUE(exists("run.look/history.png"));
  EXPECT_FALSE(exists("run.look/air.vtu")) << "a look is quick";
  EXPECT_EQ(left(), ToDo::nothing);
}

}  // namespace
}  // namespace dunefield::test
