// Files that are written whole or not at all, tables, and arrays that come back to the last bit.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include <dunefield/base/array_file.hpp>
#include <dunefield/base/csv.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>
#include <dunefield/base/text_file.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

std::string message(const auto& work) {
  try {
    work();
  } catch (const Error& e) {
    return e.what();
  }
  return "";
}

TEST(TextFile, IsNeverLeftHalfWritten) {
  const TemporaryFolder folder;
  dunefield::write_text(folder / "a.txt", "first");
  dunefield::write_text(folder / "a.txt", "second");
  EXPECT_EQ(dunefield::read_text(folder / "a.txt"), "second");
  EXPECT_THROW(dunefield::write_text("/proc/none/a.txt", "x"), OutputError);
  EXPECT_NE(message([&] { dunefield::read_text(folder / "none"); }).find("is missing"),
            std::string::npos);
  EXPECT_THROW(dunefield::read_text(folder.path()), InputError) << "a folder";
}

TEST(CsvTable, QuotesWordsThatNeedItAndKeepsAllDigits) {
  CsvTable table({"name", "value", "count"});
  table.add({"plain", 0.1 + 0.2, 3});
  table.add({"say \"a, b\"", 1e-300, {}});
  EXPECT_EQ(table.text(),
            "name,value,count\nplain,0.30000000000000004,3\n\"say \"\"a, b\"\"\",1e-300,\n");
  EXPECT_THROW(table.add({"short"}), std::logic_error);
}

TEST(CsvTable, NumbersComeBackToTheBit) {
  CsvTable table({"a", "b"});
  const double values[] = {1.0 / 3, -2.5e-17, std::sqrt(2.0), 1e22};
  for (const double v : values) table.add({v, -v});
  const auto rows = csv_numbers(table.text());
  ASSERT_EQ(rows.size(), 4u);
  for (std::size_t i = 0; i < 4; ++i) {
    EXPECT_EQ(rows[i][0], values[i]);
    EXPECT_EQ(rows[i][1], -values[i]);
  }
  EXPECT_TRUE(csv_numbers("a,b").empty());
  EXPECT_TRUE(csv_numbers("").empty());
}

TEST(Hash, TellsContentsApartHoweverTheyArePieced) {
  EXPECT_EQ(Hash().add("abc").add("def").hex(), Hash().add("abcdef").hex());
  EXPECT_NE(Hash().add("abcdef").hex(), Hash().add("abcdeg").hex());
  EXPECT_EQ(Hash().add("abc").hex().size(), 32u);
  // XXH3's value for nothing, of 128 bits (Collet 2019).
  EXPECT_EQ(Hash().hex(), "99aa06d3014798d86001c324468d497f");
  const TemporaryFolder folder;
  write_text(folder / "a", "abcdef");
  EXPECT_EQ(hash_of_file(folder / "a"), Hash().add("abcdef").hex());
  EXPECT_THROW(hash_of_file(folder / "none"), InputError);
}

class ArrayFile : public testing::Test {
 protected:
  ArrayFile() {
    ArrayFileWriter out(folder_ / "a.arrays");
    out.put("numbers", numbers_);
    out.put("nothing", std::vector<float>{});
    out.put("whole", std::vector<int>{1, 2, 3});
    out.finish();
  }
  const std::vector<double> numbers_ = {1.0 / 3, -0.0, std::numeric_limits<double>::max()};
  TemporaryFolder folder_;
};

TEST_F(ArrayFile, GivesBackWhatWasPutIn) {
  ArrayFileReader in(folder_ / "a.arrays");
  EXPECT_EQ(in.take<int>("whole"), (std::vector<int>{1, 2, 3}));
  EXPECT_EQ(in.take<double>("numbers"), numbers_) << "in any order";
  EXPECT_TRUE(in.take<float>("nothing").empty());
  EXPECT_FALSE(in.has("other"));
  EXPECT_NE(message([&] { in.take<int>("other"); }).find("lacks 'other'"), std::string::npos);
  EXPECT_THROW(in.take<float>("numbers"), InputError) << "another kind of number";
}

TEST_F(ArrayFile, IsRefusedWhereverItIsCutOrAltered) {
  const std::string bytes = read_text(folder_ / "a.arrays");
  for (std::size_t n = 0; n < bytes.size(); n += 7) {
    write_text(folder_ / "cut", bytes.substr(0, n));
    const auto read = [&] {
      ArrayFileReader in(folder_ / "cut");
      in.take<double>("numbers");
      in.take<int>("whole");
    };
    EXPECT_THROW(read(), InputError) << n;
  }
  std::string altered = bytes;
  altered[bytes.find("numbers") + 7 + 16 + 3] ^= 1;
  write_text(folder_ / "altered", altered);
  ArrayFileReader in(folder_ / "altered");
  EXPECT_NE(message([&] { in.take<double>("numbers"); }).find("was altered in 'numbers'"),
            std::string::npos);
  EXPECT_THROW(ArrayFileReader(folder_ / "none"), InputError);
}

}  // namespace
}  // namespace dunefield::test
