// The documents say what the program does: identifiers of messages, links, commands.
#include <gtest/gtest.h>

#include <regex>
#include <set>

#include <dunefield/base/text_file.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

namespace fs = std::filesystem;

const fs::path source = DUNEFIELD_SOURCE;

std::vector<fs::path> files_below(const fs::path& folder, const std::string& ending) {
  std::vector<fs::path> files;
  for (const auto& entry : fs::recursive_directory_iterator(folder))
    if (entry.path().extension() == ending) files.push_back(entry.path());
  return files;
}

std::set<std::string> all_matches(const std::string& text, const std::regex& pattern) {
  std::set<std::string> found;
  for (auto m = std::sregex_iterator(text.begin(), text.end(), pattern);
       m != std::sregex_iterator(); ++m)
    found.insert((*m)[1]);
  return found;
}

std::vector<fs::path> pages() {
  std::vector<fs::path> all = files_below(source / "docs", ".md");
  all.push_back(source / "README.md"), all.push_back(source / "CONTRIBUTING.md");
  all.push_back(source / "CHANGELOG.md");
  return all;
}

TEST(Docs, ListEveryIdentifierOfAMessageAndNoOther) {
  std::set<std::string> used;
  for (const fs::path& f : files_below(source / "dunefield", ".cpp"))
    used.merge(all_matches(read_text(f), std::regex("\"((?:mesh|setup|run)\\.[a-z]+-[a-z-]+|"
                                                    "run\\.(?:momentum|backflow|fluctuating|"
                                                    "status)|mesh\\.hole|setup\\.(?:blockage|"
                                                    "asymmetry))\"")));
  const auto listed = all_matches(read_text(source / "docs/reference/messages.md"),
                                  std::regex("\\| `((?:mesh|setup|run)\\.[a-z-]+)` \\|"));
  EXPECT_GT(used.size(), 20u);
  EXPECT_EQ(used, listed);
}

TEST(Docs, HaveNoLinkThatLeadsNowhere) {
  for (const fs::path& page : pages())
    for (const std::string& link :
         all_matches(read_text(page), std::regex("\\]\\(([^)#:]+)(?:#[^)]*)?\\)")))
      EXPECT_TRUE(fs::exists(page.parent_path() / link)) << page << " has " << link;
}

TEST(Docs, ShowCommandsThatThereAre) {
  const std::string help = tool("--help").out;
  // Names of file layouts, which begin likewise, end with a number.
  const std::regex shown("`dunefield ([a-z]+)(?:`| [^0-9])");
  for (const fs::path& page : pages())
    for (const std::string& command : all_matches(read_text(page), shown))
      EXPECT_NE(help.find("  " + command + " "), std::string::npos) << page << ": " << command;
}

}  // namespace
}  // namespace dunefield::test
