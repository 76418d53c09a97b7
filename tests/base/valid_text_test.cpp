// Text from files is shown as text.
#include <gtest/gtest.h>

#include <dunefield/base/valid_text.hpp>

namespace dunefield::test {
namespace {

TEST(ValidText, KeepsWhatIsTextAndReplacesWhatIsNot) {
  EXPECT_EQ(valid_text("tapered tail, 30 mm"), "tapered tail, 30 mm");
  EXPECT_EQ(valid_text("翼 ± °"), "翼 ± °");
  EXPECT_EQ(valid_text("a\xff"
                       "b"),
            "a\xEF\xBF\xBD"
            "b");
  EXPECT_EQ(valid_text("a\x1b[31mb"), "a [31mb") << "no control of terminals";
  EXPECT_EQ(valid_text("two\nlines"), "two\nlines");
  EXPECT_EQ(valid_text(""), "");
}

}  // namespace
}  // namespace dunefield::test
