// Bad input: one line that says what, where and what to do, exit code 1, and nothing is lost.
#include <gtest/gtest.h>

#include <algorithm>

#include <nlohmann/json.hpp>

#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

using Json = nlohmann::ordered_json;

/// @param saying part of the line
void refused(const std::string& command, const std::string& saying) {
  const ProcessResult r = tool(command);
  EXPECT_EQ(r.exit_code, 1) << command;
  EXPECT_EQ(r.err.find("error "), 0u) << command << ": " << r.err;
  EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
  EXPECT_NE(r.err.find(saying), std::string::npos) << command << ": " << r.err;
}

TEST(Refusals, CommandsAndCampaignFiles) {
  const TemporaryFolder folder;
  write_text(folder / "bad.toml",
             "[vehicle]\nfiles = [\"none.stl\"]\n[runs]\nspeeds = [\"90 km/h\"]\n");
  for (const std::string& command :
       {std::string("inspect /nowhere.stl"), "run " + (folder / "bad.toml").string(),
        std::string("run /nowhere.toml"),
        std::string("inspect " DUNEFIELD_SOURCE "/demo/marram.stl --unit furlong"),
        "mesh " + brick_campaign(folder) + " --variant none",
        "run " + brick_campaign(folder) + " --into /proc/nothing"}) {
    refused(command, "");
  }
  refused("run " + brick_campaign(folder) + " --variant wing", "name one of: plain, fin");
  refused("run " + brick_campaign(folder) + " --at \"75 km/h\"", "name one of: 60 km/h, 90 km/h");
}

TEST(Refusals, ListsTellOfDamagedRecordsWhateverTheirForm) {
  const TemporaryFolder folder;
  std::filesystem::create_directories(folder / "half-written");
  write_text(folder / "half-written" / "record.json", "{\"run\": ");
  const std::string list = "list " + folder.path().string();
  EXPECT_NE(tool(list).out.find("record.json: is damaged"), std::string::npos);
  const ProcessResult csv = tool(list + " --csv");
  EXPECT_EQ(csv.exit_code, 0);
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 1) << csv.out << "headings alone";
  EXPECT_NE(csv.err.find("record.json: is damaged"), std::string::npos) << csv.err;
}

TEST(Refusals, AListedSpeedNeedsANumberAndAUnit) {
  const TemporaryFolder folder;
  const std::string list = "list " + folder.path().string();
  EXPECT_EQ(tool(list + " --at '60 km/h'").exit_code, 0);
  refused(list + " --at fast", "--at");
}

TEST(Refusals, SurfacesThatAreNoVehicle) {
  const TemporaryFolder folder;
  const auto start = [&](const std::string& name, const std::string& text, const char* saying) {
    write_text(folder / name, text);
    for (const char* command : {"start ", "run "})
      refused(command + (folder / name).string(), saying);
    EXPECT_FALSE(std::filesystem::exists((folder / name).replace_extension(".toml")));
  };
  start("empty.stl", "", "is empty");
  start("text.stl", "hello\n", "truncated or not an STL file");
  start("triangle.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "that is no vehicle");
  start("nothing.obj", "# exported without a selection\n", "holds no triangles");
  start("far.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "far.obj:4: a polygon names point 9");
}

TEST(Refusals, StancesThatCannotBe) {
  const TemporaryFolder folder;
  brick_campaign(folder);
  const std::string start =
      "start " + (folder / "brick.stl").string() + " --into " + (folder / "new.toml").string();
  refused(start + " --unit um", "'um' is no unit of length; use one of m, mm");
  refused(start + " --unit m", "give the unit of the files' numbers");
  refused(start + " --nose +z --up +z", "lies along the nose");
  refused(start + " --road 12", "has no unit");
  refused(start + " --road \"900 mm\"", "the whole vehicle lies below the road at 0.9 m");
  refused(start + " --speed fast", "--speed");
  refused(start + " --speed=\"-90 km/h\"", "is no speed");
  refused("start " + (folder / "brick.stl").string() + " --into /proc/new.toml",
          "cannot be written");
  EXPECT_FALSE(std::filesystem::exists(folder / "new.toml"));
  // A file that is there is not written over.
  write_text(folder / "new.toml", "mine");
  refused(start + " --unit mm", "there is such a file already");
  EXPECT_EQ(read_text(folder / "new.toml"), "mine");
}

TEST(Refusals, AFullDiskLosesNothing) {
  const TemporaryFolder folder;
  const std::string file = brick_campaign(folder);
  // Files may not grow: as on a disk that is full.
  const ProcessResult r =
      shell("{ trap \"\" XFSZ; ulimit -f 100; " DUNEFIELD_TOOL " run " + file + "; }");
  EXPECT_EQ(r.exit_code, 1) << r.out;
  EXPECT_NE(r.err.find("check the free space"), std::string::npos) << r.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "c.runs" / "plain_60-kmh"))
      << "no record that is not whole";
  std::string text = read_text(file);
  text.replace(text.find("iterations = 30"), 15, "iterations = 3");
  write_text(file, text);
  EXPECT_EQ(tool_run(file).exit_code, 0) << "with free space the same command goes on";
}

class RefusedRecords : public ::testing::Test {
 protected:
  RefusedRecords() {
    std::string text = read_text(brick_campaign(folder_));
    text = text.substr(0, text.find("[[variant]]\nname = \"fin\""));
    text.replace(text.find("iterations = 30"), 15, "iterations = 2");
    text.replace(text.find(", \"90 km/h\""), 11, "");
    write_text(folder_ / "c.toml", text);
    EXPECT_EQ(tool_run((folder_ / "c.toml").string()).exit_code, 0);
  }

  std::filesystem::path of(const char* file) const { return run() / file; }
  std::filesystem::path run() const { return folder_ / "c.runs" / "plain_60-kmh"; }
  std::string show() const { return "show " + run().string(); }

  const TemporaryFolder folder_;
};

TEST_F(RefusedRecords, OfANewerVersionOrDamaged) {
  const std::string text = read_text(of("record.json"));
  Json j = Json::parse(text);
  j["schema"]["version"] = 99;
  write_text(of("record.json"), j.dump());
  refused(show(), "record.json");
  refused(show() + " --again", "newer version");
  write_text(of("record.json"), text.substr(0, text.size() / 2));
  refused(show(), "record.json: is damaged");
  write_text(of("record.json"), text);
  EXPECT_EQ(tool(show()).exit_code, 0);
}

TEST_F(RefusedRecords, NotWhole) {
  // Altered in the middle, where only the checksum tells.
  std::string arrays = read_text(of("record.arrays"));
  arrays[arrays.size() / 2] ^= 1;
  write_text(of("record.arrays"), arrays);
  refused(show(), "record.arrays");
  std::filesystem::remove(of("record.arrays"));
  refused(show(), "record.arrays");
  // Its numbers are whole: fields deleted for their size do not run a case again.
  const std::string run_all = "run " + (folder_ / "c.toml").string();
  const ProcessResult numbers = tool(run_all);
  EXPECT_EQ(numbers.exit_code, 0) << numbers.err;
  EXPECT_NE(numbers.out.find("already done"), std::string::npos) << numbers.out;
  std::filesystem::remove_all(run());
  refused(show(), "there is no such folder");
  EXPECT_EQ(tool(run_all).exit_code, 0);
  EXPECT_EQ(tool(show()).exit_code, 0) << "made anew";
}

}  // namespace
}  // namespace dunefield::test
