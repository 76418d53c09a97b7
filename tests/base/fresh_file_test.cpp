// Files that appear whole or not at all, and locks that say who holds them.
#include <gtest/gtest.h>

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/file_lock.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/base/text_file.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

namespace fs = std::filesystem;

std::size_t entries(const fs::path& folder) {
  return static_cast<std::size_t>(
      std::distance(fs::directory_iterator(folder), fs::directory_iterator()));
}

TEST(FreshFile, LeavesNothingWhenItIsNotPutInPlace) {
  const TemporaryFolder folder;
  write_text(folder / "a", "old");
  {
    FreshFile fresh(folder / "a");
    fresh.out() << "new";
  }
  EXPECT_EQ(read_text(folder / "a"), "old");
  EXPECT_EQ(entries(folder.path()), 1u);
}

TEST(FreshFile, OfTwoWritersAtOnceTheLaterOneStays) {
  const TemporaryFolder folder;
  FreshFile one(folder / "a"), two(folder / "a");
  one.out() << "one", two.out() << "two";
  two.place(), one.place();
  EXPECT_EQ(read_text(folder / "a"), "one");
  EXPECT_EQ(entries(folder.path()), 1u);
}

TEST(FreshFile, FollowsLinksAndWritesPipesAsTheyAre) {
  const TemporaryFolder folder;
  write_text(folder / "real", "old");
  fs::create_symlink("real", folder / "link");
  write_text(folder / "link", "new");
  EXPECT_EQ(read_text(folder / "real"), "new");
  EXPECT_TRUE(fs::is_symlink(folder / "link"));
  ASSERT_EQ(::mkfifo((folder / "pipe").c_str(), 0600), 0);
  const int reader = ::open((folder / "pipe").c_str(), O_RDONLY | O_NONBLOCK);
  write_text(folder / "pipe", "through");
  char got[8] = {};
  EXPECT_EQ(::read(reader, got, sizeof got), 7);
  ::close(reader);
}

TEST(FreshFile, ExchangesFolders) {
  const TemporaryFolder folder;
  fs::create_directories(folder / "a"), fs::create_directories(folder / "b");
  write_text(folder / "a" / "x", "of a");
  EXPECT_FALSE(exchanged(folder / "a", folder / "b"));
  EXPECT_EQ(read_text(folder / "b" / "x"), "of a");
  EXPECT_FALSE(fs::exists(folder / "a" / "x"));
}

TEST(FileLock, SaysWhoHoldsIt) {
  const TemporaryFolder folder;
  const FileLock one(folder / "lock"), two(folder / "lock");
  EXPECT_TRUE(one.held());
  EXPECT_FALSE(two.held());
  EXPECT_NE(two.holder().find(std::to_string(::getpid())), std::string::npos) << two.holder();
  EXPECT_THROW(FileLock("/proc/none/lock"), OutputError);
}

}  // namespace
}  // namespace dunefield::test
