// glTF and 3MF files: parts with names and places.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/scene.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <tests/support/process.hpp>
#include <tests/support/refusal.hpp>

namespace dunefield {
namespace {

using test::refusal;
using test::TemporaryFolder;
using test::write_text;

/// Two uses of one triangle, the second moved by 2 along z and mirrored in x, in one text file.
const char* const gltf = R"({
"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}],
"nodes": [{"name": "car", "children": [1, 2]}, {"name": "door", "mesh": 0},
          {"name": "door", "mesh": 0, "translation": [0, 0, 2], "scale": [-1, 1, 1]}],
"meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
"accessors": [
 {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3",
  "min": [0,0,0], "max": [1,1,0]},
 {"bufferView": 1, "componentType": 5123, "count": 3, "type": "SCALAR"}],
"bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 36},
                {"buffer": 0, "byteOffset": 36, "byteLength": 6}],
"buffers": [{"byteLength": 42, "uri": "data:application/octet-stream;base64,)"
                         "AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAAAAABAAIA\"}]}";

TEST(Scene, NodesArePartsAtTheirPlaces) {
  if (!reads_scenes()) GTEST_SKIP() << "not built in";
  const TemporaryFolder folder;
  write_text(folder / "car.gltf", gltf);
  EXPECT_TRUE(says_its_unit(folder / "car.gltf")) << "metres";
  const Surface s = read_surface(folder / "car.gltf");
  ASSERT_EQ(s.part_names, (std::vector<std::string>{"door", "door 2"}));
  ASSERT_EQ(s.size(), 2u);
  EXPECT_NEAR(s.area_vector(0).z, 0.5, 1e-6);
  EXPECT_NEAR(s.area_vector(1).z, 0.5, 1e-6) << "outside stays outside where a place mirrors";
  EXPECT_NEAR(s.centroid(1).z, 2, 1e-6);
  EXPECT_NEAR(s.centroid(1).x, -1.0 / 3, 1e-6);
}

TEST(Scene, DamagedFilesAreRefusedWithWhatToDo) {
  const TemporaryFolder folder;
  write_text(folder / "cut.gltf", std::string(gltf).substr(0, 200));
  write_text(folder / "cut.3mf", "PK\x03\x04 and no more");
  write_text(folder / "cut.glb", "glTF\x02");
  for (const char* name : {"cut.gltf", "cut.3mf", "cut.glb"}) {
    const std::string said = refusal(folder / name);
    EXPECT_NE(said.find(name), std::string::npos) << said;
    EXPECT_NE(said.find("as STL"), std::string::npos) << said;
  }
}

}  // namespace
}  // namespace dunefield
