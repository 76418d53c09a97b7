// From a surface to a campaign file: what is guessed, and what is said.
#include <gtest/gtest.h>

#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

/// Whether the line of a key says that its value was guessed.
bool is_marked(const std::string& file, const std::string& key) {
  const std::size_t from = file.find("\n" + key + " = ");
  EXPECT_NE(from, std::string::npos) << key;
  const std::string line = file.substr(from + 1, file.find('\n', from + 1) - from - 1);
  return line.find("guessed") != std::string::npos;
}

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
  EXPECT_TRUE(is_marked(guessed, "unit") && is_marked(guessed, "nose")) << guessed;
  const auto [said, given] = started(" --unit mm --nose=-x", "given.toml");
  EXPECT_EQ(said.find("that fits"), std::string::npos) << said;
  EXPECT_FALSE(is_marked(given, "unit") || is_marked(given, "nose")) << given;
  EXPECT_TRUE(is_marked(given, "up")) << given;
}

}  // namespace
}  // namespace dunefield::test
