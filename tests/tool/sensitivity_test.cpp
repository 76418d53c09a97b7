// `dunefield sensitivity`: the map of a section at rest, what it leaves, and what it refuses.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <dunefield/record/quantities.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

using nlohmann::json;

/// A thin profile at an incidence, in a stream without bounds, on a coarse mesh.
std::string profile(const std::string& incidence) {
  return "name = \"profile\"\n[section]\nground = false\n[vehicle]\nshapes = [\"wing\"]\n"
         "[[shape]]\nname = \"wing\"\nkind = \"wing\"\nsection = \"0012\"\nturned_over = false\n"
         "leading_edge = [\"0 m\", \"0 m\", \"0 m\"]\nspan = \"2 m\"\nchord = \"1 m\"\nincidence = "
         "\"" +
         incidence +
         "\"\n[tunnel]\nahead = 50\nbehind = 50\nheight = 100\n[mesh]\nrecipe = \"sketch\"\n"
         "[runs]\nspeeds = [\"40 m/s\"]\n";
}

class SensitivityCommand : public testing::Test {
 protected:
  SensitivityCommand() { write_text(file(), profile("3 deg")); }
  std::string file() const { return (folder_ / "p.toml").string(); }
  TemporaryFolder folder_;
};

TEST_F(SensitivityCommand, MapsASectionAndLeavesAQuantity) {
  ASSERT_EQ(tool_run(file()).exit_code, 0);
  const ProcessResult told = tool("sensitivity " + file() + " --of CL --radius \"60 mm\" --json");
  ASSERT_EQ(told.exit_code, 0) << told.err;
  const json j = json::parse(told.out);
  const json& s = j["sensitivities"].at(0);
  EXPECT_EQ(s["of"], "CL");
  EXPECT_EQ(s["damping_crossings"], 0);
  EXPECT_GE(s["regions"].size(), 5u);
  EXPECT_TRUE(std::filesystem::exists(s["picture"].get<std::string>()));
  const Record record = Record::open(j["run"].get<std::string>());
  const std::vector<double> map = scalar_on_wall(record, "sensitivity of CL");
  EXPECT_EQ(map.size(), record.loads.size());
  // Moved out by a mm all over, a thousandth of the chord, the profile hardly lifts otherwise.
  double most = 0, inflated = 0;
  const auto first = at(record.mesh->interior_faces());
  for (std::size_t i = 0; i < map.size(); ++i)
    most = std::max(most, std::abs(map[i])),
    inflated += map[i] * norm(record.mesh->face_area[first + i]);
  EXPECT_GT(most, 0);
  EXPECT_LT(std::abs(inflated), 0.05);
}

TEST_F(SensitivityCommand, RefusesInOneLine) {
  const auto refusal = [&](const std::string& arguments) {
    const ProcessResult r = tool("sensitivity " + arguments);
    EXPECT_EQ(r.exit_code, 1) << arguments;
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
  };
  refusal(file());  // not run yet
  ASSERT_EQ(tool_run(file()).exit_code, 0);
  refusal(file() + " --of CQ");
  refusal(file() + " --variant nobody");
  refusal(file() + " --at \"90 m/s\"");
  refusal(file() + " --radius \"60\"");
}

}  // namespace
}  // namespace dunefield::test
