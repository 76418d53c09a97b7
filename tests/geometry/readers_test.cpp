// OBJ and PLY files, good and bad, and text that files carry.
#include <gtest/gtest.h>

#include <bit>
#include <cstring>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/aerofoil.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <tests/support/process.hpp>

namespace dunefield {
namespace {

using test::TemporaryFolder;
using test::write_text;

const std::string cube_points =
    "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\n";

class Readers : public testing::Test {
 protected:
  Surface read(const std::string& name, const std::string& text) {
    write_text(folder_ / name, text);
    return read_surface(folder_ / name);
  }
  std::string refusal(const std::string& name, const std::string& text) {
    try {
      read(name, text);
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
};

/// A PLY cube whose faces are quadrilaterals, in binary of the byte order asked for.
std::string binary_cube(bool big) {
  std::string bytes =
      std::string("ply\nformat binary_") + (big ? "big" : "little") +
      "_endian 1.0\ncomment made for a test\nelement vertex 8\nproperty double x\nproperty float "
      "y\nproperty float z\nproperty uchar red\n"
      "element face 6\nproperty list uchar int vertex_indices\nproperty short flag\nend_header\n";
  const auto put = [&](const void* data, std::size_t n) {
    std::string raw(static_cast<const char*>(data), n);
    if (big != (std::endian::native == std::endian::big)) std::reverse(raw.begin(), raw.end());
    bytes += raw;
  };
  for (int i = 0; i < 8; ++i) {
    const double x = (i + 1) / 2 % 2;
    const float y = static_cast<float>(i / 2 % 2), z = static_cast<float>(i / 4);
    put(&x, 8), put(&y, 4), put(&z, 4);
    bytes += '\x07';
  }
  const int faces[6][4] = {{0, 3, 2, 1}, {4, 5, 6, 7}, {0, 1, 5, 4},
                           {1, 2, 6, 5}, {2, 3, 7, 6}, {3, 0, 4, 7}};
  for (const auto& f : faces) {
    bytes += '\x04';
    for (const int i : f) put(&i, 4);
    const short flag = 1;
    put(&flag, 2);
  }
  return bytes;
}

TEST_F(Readers, ObjGroupsAndObjectsBecomePartsAndPolygonsTriangles) {
  const Surface s =
      read("a.obj", cube_points +
                        "o car\ng floor\nf 1 4 3 2\ng roof\nf 5/1 6/1/1 7//2 8\no box\nf -8 -7 -3 "
                        "-4 # from the end\nusemtl red\nf 2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n");
  EXPECT_EQ(s.part_names, (std::vector<std::string>{"car / floor", "car / roof", "box"}));
  EXPECT_EQ(s.size(), 12u);
  EXPECT_NEAR(signed_volume(s), 1, 1e-12);
}

TEST_F(Readers, ConcavePolygonsKeepTheirArea) {
  const Surface s =
      read("l.obj", "v 0 0 0\nv 2 0 0\nv 2 1 0\nv 1 1 0\nv 1 2 0\nv 0 2 0\nf 1 2 3 4 5 6\n");
  EXPECT_NEAR(total_area(s), 3, 1e-12);
}

TEST_F(Readers, PlyOfAllThreeKindsGivesTheSameCube) {
  const Surface text =
      read("a.ply",
           "ply\nformat ascii 1.0\nelement vertex 8\nproperty float x\nproperty float y\nproperty "
           "float z\nelement face 6\nproperty list uchar int vertex_index\nend_header\n"
           "0 0 0\n1 0 0\n1 1 0\n0 1 0\n0 0 1\n1 0 1\n1 1 1\n0 1 1\n4 0 3 2 1\n4 4 5 6 7\n4 0 1 5 "
           "4\n4 1 2 6 5\n4 2 3 7 6\n4 3 0 4 7\n");
  EXPECT_NEAR(signed_volume(text), 1, 1e-12);
  for (const bool big : {false, true}) {
    const Surface s = read("b.ply", binary_cube(big));
    EXPECT_EQ(s.size(), 12u);
    EXPECT_NEAR(signed_volume(s), 1, 1e-12);
  }
}

TEST_F(Readers, BadFilesGetTheirOwnWords) {
  const std::string header =
      "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float "
      "z\n";
  const std::string binary = binary_cube(false);
  const std::tuple<std::string, std::string, std::string> cases[] = {
      {"a.obj", cube_points + "f 1 2 9\n",
       "a.obj:9: a polygon names point 9, but 8 points came before it"},
      {"a.obj", cube_points + "f 1 2 -9\n", "names point -9"},
      {"a.obj", cube_points + "f 1 2\n", "has 2 points, but needs three"},
      {"a.obj", "v 0 0,5 0\n", "has a comma"},
      {"a.obj", "v 0 nan 0\n", "not a finite number"},
      {"a.obj", cube_points, "holds no triangles"},
      {"a.obj", "v 0 0 0\nv 1 1 1\nv 2 2 2\nf 1 2 3\n", "no triangle has an area"},
      {"a.ply",
       header + "element face 4000000000\nproperty list uchar int vertex_index\nend_header\n0 0 "
                "0\n1 0 0\n0 1 0\n3 0 1 2\n",
       "more than the"},
      {"a.ply",
       header + "element face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0\n1 0 0\n0 "
                "1 0\n3 0 1 7\n",
       "names point 8, but there are 3"},
      {"a.ply", header + "end_header\n0 0 0\n1 0 0\n0 1 0\n", "points alone"},
      {"a.ply", "ply\nformat mystery 1.0\nend_header\n", "format 'mystery' is not known"},
      {"a.ply", binary.substr(0, binary.size() - 20), "truncated"},
      {"a.ply", binary.substr(0, 60), "header"},
      {"a.dat", cube_points, "not a kind of surface file"},
      {"a.stl", "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0,5 0 0\n", "has a comma"},
  };
  for (const auto& [name, text, expected] : cases)
    EXPECT_NE(refusal(name, text).find(expected), std::string::npos) << expected << "\n"
                                                                     << refusal(name, text);
  EXPECT_THROW(read_surface(folder_.path()), InputError);
}

TEST_F(Readers, PartNamesAreKeptAsHarmlessText) {
  const std::string raw = "../<b>bad\x1b[31m\xff\xc3\xa9";
  const Surface s = read("a.stl", "solid " + raw +
                                      "\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 "
                                      "0\nvertex 0 1 0\nendloop\nendfacet\nendsolid\n");
  EXPECT_EQ(s.part_names.at(0), "../<b>bad\\x1B[31m\\xFF\xc3\xa9");
  EXPECT_LE(safe_text(std::string(5000, 'a')).size(), 200u);
}

TEST_F(Readers, MillionsOfFacetsWithoutAreaAreRefusedNotMeshed) {
  std::string text = "solid a\n";
  for (int i = 0; i < 2000; ++i)
    text +=
        "facet normal 0 0 1\nouter loop\nvertex 1 1 1\nvertex 1 1 1\nvertex 1 1 "
        "1\nendloop\nendfacet\n";
  EXPECT_NE(refusal("a.stl", text + "endsolid a\n").find("two corners at the same place"),
            std::string::npos);
}

/// The inputs that fuzzing has grown: none may do more than throw.
TEST(ReaderCorpus, EveryFileIsReadOrRefused) {
  int files = 0;
  for (const auto& entry :
       std::filesystem::recursive_directory_iterator(DUNEFIELD_SOURCE "/tests/fuzz/corpus")) {
    if (!entry.is_regular_file()) continue;
    ++files;
    const std::string kind = entry.path().parent_path().filename();
    const TemporaryFolder folder;
    const auto copy = folder / ("input." + kind);
    std::filesystem::copy_file(entry.path(), copy);
    try {
      if (kind == "aerofoil")
        read_aerofoil(copy);
      else
        read_surface(copy);
    } catch (const InputError& e) {
      EXPECT_STRNE(e.what(), "");
    }
  }
  EXPECT_GT(files, 0);
}

}  // namespace
}  // namespace dunefield
