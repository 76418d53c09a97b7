// Where the output goes: a reader that leaves early, a disk that is full.
#include <gtest/gtest.h>

#include <csignal>

#include <dunefield/base/text_file.hpp>
#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

TEST(Output, AReaderThatLeavesEarlyIsNoFailure) {
  const ProcessResult r =
      shell("bash -c 'set -o pipefail; " + std::string(DUNEFIELD_TOOL) + " manual | head -1'");
  EXPECT_EQ(r.exit_code, 0) << r.err;
  EXPECT_EQ(r.err, "");
}

TEST(Output, AFullDiskIsReported) {
  const ProcessResult r = shell("{ " DUNEFIELD_TOOL " doctor --json > /dev/full; }");
  EXPECT_EQ(r.exit_code, 1);
  EXPECT_NE(r.err.find("could not be written"), std::string::npos) << r.err;
}

TEST(Output, ARunOutlivesItsTerminal) {
  const TemporaryFolder folder;
  const ProcessResult r = shell("{ " DUNEFIELD_TOOL " run " + brick_campaign(folder) +
                                " --no-report --variant plain --at '60 km/h' >/dev/full 2>&1; }");
  EXPECT_EQ(r.exit_code, 1) << "since its tables are lost";
  EXPECT_TRUE(std::filesystem::exists(folder / "c.runs" / "plain_60-kmh" / "record.json"));
}

TEST(Output, AHangUpStopsAndSavesButNotUnderNohup) {
  const auto hung_up = [](const std::string& under, const std::string& iterations) {
    const TemporaryFolder folder;
    const std::string file = brick_campaign(folder);
    std::string text = read_text(file);
    text.replace(text.find("iterations = 30"), 15, "iterations = " + iterations);
    write_text(file, text);
    return shell("{ " + under + DUNEFIELD_TOOL " run " + file +
                 " --no-report --variant plain --at '60 km/h' & p=$!; sleep 0.5; kill -HUP $p; "
                 "wait $p; }")
        .exit_code;
  };
  std::signal(SIGHUP, SIG_DFL);  // the tests may run under nohup themselves
  EXPECT_EQ(hung_up("", "100000"), 3);
  EXPECT_EQ(hung_up("nohup ", "60"), 0);
}

}  // namespace
}  // namespace dunefield::test
