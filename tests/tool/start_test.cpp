// From a surface to a campaign file: what is guessed, and what is said.
#include <gtest/gtest.h>

#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

TEST(Tool, StartMarksWhatIsGuessedAndNotWhatIsSaid) {
  const TemporaryFolder folder;
  brick_campaign(folder);
  const std::string surface = (folder / "brick.stl").string();
  const auto started = [&](const std::string& options, const std::string& name) {
    const ProcessResult r =
        tool("start " + surface + options + " --into " + (folder / name).string());
    EXPECT_EQ(r.exit_code, 0) << r.err;
    return std::pair{r.out, read_text(folder / name)};
  };
  const auto [guess, guessed] = started("", "guessed.toml");
  EXPECT_NE(guess.find("that fits mm"), std::string::npos) << guess;
  EXPECT_NE(guessed.find("# guessed: of the numbers"), std::string::npos) << guessed;
  const auto [said, given] = started(" --unit mm --nose=-x", "given.toml");
  EXPECT_EQ(said.find("that fits"), std::string::npos) << said;
  EXPECT_NE(given.find("# of the numbers"), std::string::npos) << given;
  EXPECT_NE(given.find("# which way the nose"), std::string::npos) << given;
  EXPECT_NE(given.find("# guessed: which way the roof"), std::string::npos) << given;
}

}  // namespace
}  // namespace dunefield::test
