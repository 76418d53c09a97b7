// Names for files.
#include <gtest/gtest.h>

#include <dunefield/base/slug.hpp>

namespace dunefield::test {
namespace {

TEST(Slug, IsSafeOnEveryFileSystem) {
  EXPECT_EQ(slug("Tapered tail, 30 mm!", "x"), "tapered-tail-30-mm");
  EXPECT_EQ(slug("../../<b>&\n", "x"), "b");
  EXPECT_EQ(slug("翼", "variant"), "variant");
  EXPECT_EQ(slug("", "sheet"), "sheet");
  EXPECT_LE(slug(std::string(500, 'a'), "x").size(), 60u);
}

}  // namespace
}  // namespace dunefield::test
