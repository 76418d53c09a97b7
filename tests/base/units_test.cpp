#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>

namespace dunefield {
namespace {

TEST(Units, AreConvertedToSi) {
  EXPECT_DOUBLE_EQ(parse_quantity("90 km/h", Dimension::speed, ""), 25);
  EXPECT_DOUBLE_EQ(parse_quantity("60mph", Dimension::speed, ""), 26.8224);
  EXPECT_DOUBLE_EQ(parse_quantity(" 12 mm ", Dimension::length, ""), 0.012);
  EXPECT_DOUBLE_EQ(parse_quantity("180 deg", Dimension::angle, ""), std::numbers::pi);
  EXPECT_DOUBLE_EQ(parse_quantity("15 degC", Dimension::temperature, ""), 288.15);
}

std::string message(const char* text, Dimension d) {
  try {
    parse_quantity(text, d, "file.toml:3");
  } catch (const InputError& e) {
    return e.what();
  }
  return "";
}

TEST(Units, WrongOnesAreNamedWithWhatWouldBeRight) {
  EXPECT_NE(message("90 kg", Dimension::speed).find("wrong unit"), std::string::npos);
  EXPECT_NE(message("90", Dimension::speed).find("km/h"), std::string::npos);
  EXPECT_NE(message("fast", Dimension::speed).find("file.toml:3"), std::string::npos);
  EXPECT_NE(message("nan m", Dimension::length), "");
  EXPECT_NE(message("1e999 m", Dimension::length), "");
  EXPECT_NE(message("3 m", Dimension::number), "");
}

}  // namespace
}  // namespace dunefield
