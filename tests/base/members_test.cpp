// Lists of members, from which set-ups are written and hashed.
#include <gtest/gtest.h>

#include <sstream>
#include <string>

#include <dunefield/base/members.hpp>

namespace dunefield::test {

struct Wing {
  double chord = 0.3;
  int elements = 2;
  std::string section = "flat";
};

struct Forgetful {
  double kept = 1, forgotten = 2;
};

}  // namespace dunefield::test

namespace dunefield {

template <>
inline constexpr auto members_of<test::Wing> =
    std::tuple{Member{"chord_m", &test::Wing::chord}, Member{"elements", &test::Wing::elements},
               Member{"section", &test::Wing::section}};
template <>
inline constexpr auto members_of<test::Forgetful> =
    std::tuple{Member{"kept", &test::Forgetful::kept}};

}  // namespace dunefield

namespace dunefield::test {
namespace {

TEST(Members, AreVisitedInTheirOrderWithKeys) {
  std::ostringstream told;
  const Wing wing{0.25, 3, "cambered"};
  visit_members(wing,
                [&](const char* key, const auto& value) { told << key << ' ' << value << ';'; });
  EXPECT_EQ(told.str(), "chord_m 0.25;elements 3;section cambered;");
}

TEST(Members, OneThatIsMissingInTheListIsCounted) {
  static_assert(Listed<Wing> && !Listed<std::string>);
  EXPECT_EQ(members_left_out<Wing>, 0u);
  EXPECT_EQ(members_left_out<Forgetful>, 1u);
}

}  // namespace
}  // namespace dunefield::test
