// Records found again by what they are.
#include <gtest/gtest.h>

#include <fstream>

#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/run_index.hpp>
#include <tests/run/small_run.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Index : public testing::Test {
 protected:
  Index() {
    Record r = small_record();
    for (const char* name : {"skirts", "plain", "it's \"; DROP TABLE runs; --"}) {
      r.run.variant = name;
      r.save(folder_ / ("run-" + std::to_string(++number_)));
    }
  }
  std::vector<std::string> variants(const RunFilter& filter) {
    std::vector<std::string> out;
    findings_ = {};
    for (const StoredRun& r : stored_runs(folder_.path(), filter, findings_))
      out.push_back(r.variant);
    return out;
  }
  TemporaryFolder folder_;
  Findings findings_;
  int number_ = 0;
};

TEST_F(Index, FindsFiltersAndSorts) {
  EXPECT_EQ(variants({}).size(), 3u);
  RunFilter f;
  f.variant = "plain";
  EXPECT_EQ(variants(f), std::vector<std::string>{"plain"});
  f.variant = "it's \"; DROP TABLE runs; --";
  EXPECT_EQ(variants(f).size(), 1u) << "names are values, whatever stands in them";
  f = {};
  f.sort_by = "folder", f.descending = true;
  EXPECT_EQ(variants(f).back(), "skirts");
  f.sort_by = "CD; DROP TABLE runs";
  EXPECT_THROW(variants(f), InputError);
  f = {}, f.speed = 1;
  EXPECT_TRUE(variants(f).empty());
}

TEST_F(Index, FollowsTheFolders) {
  EXPECT_EQ(variants({}).size(), 3u);
  std::filesystem::remove_all(folder_ / "run-1");
  EXPECT_EQ(variants({}).size(), 2u);
  Record r = small_record();
  r.run.variant = "new";
  r.save(folder_ / "deeper" / "run-4");
  r.save(folder_ / ".being-written");
  EXPECT_EQ(variants({}).size(), 3u) << "hidden folders are not done";
  write_text(folder_ / "run-2" / record_file::numbers, "{\"schema\": ");
  EXPECT_EQ(variants({}).size(), 2u);
  EXPECT_EQ(findings_.size(), 1u) << "a damaged record is told";
}

TEST_F(Index, IsMadeAgainFromTheFoldersAndWithoutRights) {
  EXPECT_EQ(variants({}).size(), 3u);
  std::filesystem::remove(folder_ / "index.sqlite");
  EXPECT_EQ(variants({}).size(), 3u);
  std::ofstream(folder_ / "index.sqlite", std::ios::trunc) << "no database at all, but a text file";
  EXPECT_EQ(variants({}).size(), 3u) << "damaged: made in memory";
}

}  // namespace
}  // namespace dunefield::test
