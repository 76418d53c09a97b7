// STL files, good and bad.
#include <gtest/gtest.h>

#include <cstring>
#include <limits>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield {
namespace {

using test::TemporaryFolder;

Surface two_boxes() {
  Surface s = rounded_box("left", Box{{0, 0, 0}, {1, 1, 1}}, 0);
  append(s, rounded_box("right <b>", Box{{2, 0, 0}, {3, 1, 1}}, 0.1));
  return s;
}

std::string refusal(const std::filesystem::path& file) {
  try {
    read_stl(file);
  } catch (const InputError& e) {
    return e.what();
  }
  return "";
}

TEST(Stl, AsciiKeepsPartsAndShape) {
  const TemporaryFolder folder;
  write_stl_ascii(folder / "a.stl", two_boxes());
  const Surface s = read_stl(folder / "a.stl");
  EXPECT_EQ(s.part_names, (std::vector<std::string>{"left", "right <b>"}));
  EXPECT_EQ(s.size(), two_boxes().size());
  EXPECT_NEAR(signed_volume(s), signed_volume(two_boxes()), 1e-5);
}

TEST(Stl, BinaryIsOnePartNamedAfterTheFile) {
  const TemporaryFolder folder;
  write_stl_binary(folder / "boxes.stl", two_boxes());
  const Surface s = read_stl(folder / "boxes.stl");
  EXPECT_EQ(s.part_names, std::vector<std::string>{"boxes"});
  EXPECT_NEAR(total_area(s), total_area(two_boxes()), 1e-5);
  EXPECT_EQ(count_edges(s, connected_pieces(s)).open, 0u) << "points are welded";
}

TEST(Stl, BinaryThatStartsWithTheWordSolidIsStillBinary) {
  const TemporaryFolder folder;
  write_stl_binary(folder / "a.stl", two_boxes());
  std::string bytes = test::read_text(folder / "a.stl");
  std::memcpy(bytes.data(), "solid of a kind", 15);
  test::write_text(folder / "a.stl", bytes);
  EXPECT_EQ(read_stl(folder / "a.stl").size(), two_boxes().size());
}

TEST(Stl, TruncatedBinaryIsRefusedWithByteCount) {
  const TemporaryFolder folder;
  write_stl_binary(folder / "a.stl", two_boxes());
  const std::string bytes = test::read_text(folder / "a.stl");
  test::write_text(folder / "a.stl", bytes.substr(0, bytes.size() - 70));
  EXPECT_NE(refusal(folder / "a.stl").find(std::to_string(bytes.size() - 70) + " bytes"),
            std::string::npos);
}

TEST(Stl, LyingHeaderIsRefusedBeforeAnythingIsAllocated) {
  const TemporaryFolder folder;
  std::string bytes(84 + 50, '\0');
  const std::uint32_t promised = 4000000000u;
  std::memcpy(bytes.data() + 80, &promised, 4);
  test::write_text(folder / "a.stl", bytes);
  EXPECT_NE(refusal(folder / "a.stl").find("promises 4000000000 triangles"), std::string::npos);
}

TEST(Stl, NonFiniteCoordinatesAreRefused) {
  const TemporaryFolder folder;
  for (const float bad :
       {std::numeric_limits<float>::quiet_NaN(), std::numeric_limits<float>::infinity()}) {
    write_stl_binary(folder / "a.stl", two_boxes());
    std::string bytes = test::read_text(folder / "a.stl");
    std::memcpy(bytes.data() + 84 + 50 * 2 + 12, &bad, 4);
    test::write_text(folder / "a.stl", bytes);
    EXPECT_NE(refusal(folder / "a.stl").find("triangle 3 "), std::string::npos);
  }
}

TEST(Stl, EveryOtherBadFileHasItsOwnWords) {
  const TemporaryFolder folder;
  EXPECT_NE(refusal(folder / "none.stl").find("no such file"), std::string::npos);
  EXPECT_NE(refusal(folder.path()).find("is a folder"), std::string::npos);
  test::write_text(folder / "empty.stl", "");
  EXPECT_NE(refusal(folder / "empty.stl").find("empty"), std::string::npos);
  test::write_text(folder / "nothing.stl", "solid a\nendsolid a\n");
  EXPECT_NE(refusal(folder / "nothing.stl").find("no triangles"), std::string::npos);
  test::write_text(folder / "comma.stl",
                   "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0,5 0 0\n");
  EXPECT_NE(refusal(folder / "comma.stl").find("decimal points"), std::string::npos);
  test::write_text(folder / "cut.stl",
                   "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n");
  EXPECT_NE(refusal(folder / "cut.stl").find("the end of the line or file"), std::string::npos);
  test::write_text(folder / "points.stl",
                   "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 0 0 0\nvertex 1 "
                   "0 0\nendloop\nendfacet\nendsolid\n");
  EXPECT_NE(refusal(folder / "points.stl").find("same place"), std::string::npos);
  test::write_text(folder / "text.stl", "hello");
  EXPECT_NE(refusal(folder / "text.stl").find("5 bytes"), std::string::npos);
}

}  // namespace
}  // namespace dunefield
