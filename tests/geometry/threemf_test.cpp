// 3MF files: their unit, their objects' names and places.
#include <gtest/gtest.h>

#include <minizip/zip.h>

#include <dunefield/geometry/files/surface_file.hpp>
#include <tests/support/process.hpp>
#include <tests/support/refusal.hpp>

namespace dunefield {
namespace {

using test::refusal;
using test::TemporaryFolder;

void add_entry(zipFile archive, const char* name, const std::string& text) {
  ASSERT_EQ(zipOpenNewFileInZip(archive, name, nullptr, nullptr, 0, nullptr, 0, nullptr, Z_DEFLATED,
                                Z_DEFAULT_COMPRESSION),
            ZIP_OK);
  zipWriteInFileInZip(archive, text.data(), static_cast<unsigned>(text.size()));
  zipCloseFileInZip(archive);
}

std::string tetrahedron(const std::string& attributes) {
  return "<object type=\"model\" " + attributes +
         "><mesh><vertices><vertex x=\"0\" y=\"0\" z=\"0\"/><vertex x=\"100\" y=\"0\" z=\"0\"/>"
         "<vertex x=\"0\" y=\"100\" z=\"0\"/><vertex x=\"0\" y=\"0\" z=\"100\"/></vertices>"
         "<triangles><triangle v1=\"0\" v2=\"2\" v3=\"1\"/><triangle v1=\"0\" v2=\"1\" v3=\"3\"/>"
         "<triangle v1=\"0\" v2=\"3\" v3=\"2\"/><triangle v1=\"1\" v2=\"2\" v3=\"3\"/></triangles>"
         "</mesh></object>";
}

/// Two tetrahedra, the second 500 further along x, the first without a name.
void write_3mf(const std::filesystem::path& file, const std::string& unit) {
  zipFile archive = zipOpen64(file.c_str(), APPEND_STATUS_CREATE);
  ASSERT_NE(archive, nullptr);
  add_entry(archive, "_rels/.rels",
            "<?xml version=\"1.0\"?><Relationships xmlns=\"http://schemas.openxmlformats.org/"
            "package/2006/relationships\"><Relationship Target=\"/3D/3dmodel.model\" Id=\"rel0\" "
            "Type=\"http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel\"/>"
            "</Relationships>");
  add_entry(archive, "3D/3dmodel.model",
            "<?xml version=\"1.0\"?><model " + unit +
                " xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\"><resources>" +
                tetrahedron("id=\"1\"") + tetrahedron("id=\"2\" name=\"spoiler\"") +
                "</resources><build><item objectid=\"1\"/><item objectid=\"2\" "
                "transform=\"1 0 0 0 1 0 0 0 1 500 0 0\"/></build></model>");
  zipClose(archive, nullptr);
}

TEST(Threemf, ObjectsArePartsOfTheirNamesInMetres) {
  const TemporaryFolder folder;
  write_3mf(folder / "a.3mf", "unit=\"millimeter\"");
  EXPECT_TRUE(says_its_unit(folder / "a.3mf"));
  const Surface s = read_surface(folder / "a.3mf");
  ASSERT_EQ(s.size(), 8u);
  EXPECT_EQ(s.part_names, (std::vector<std::string>{"Object_1", "spoiler"}));
  EXPECT_NEAR(bounds(s).hi.x, 0.6, 1e-6);
  EXPECT_NEAR(bounds(s).hi.z, 0.1, 1e-6);
  write_3mf(folder / "b.3mf", "unit=\"inch\"");
  EXPECT_NEAR(bounds(read_surface(folder / "b.3mf")).hi.x, 600 * 0.0254, 1e-4);
  write_3mf(folder / "c.3mf", "");
  EXPECT_NEAR(bounds(read_surface(folder / "c.3mf")).hi.x, 0.6, 1e-6);
}

TEST(Threemf, AnUnknownUnitIsRefused) {
  const TemporaryFolder folder;
  write_3mf(folder / "a.3mf", "unit=\"furlong\"");
  EXPECT_NE(refusal(folder / "a.3mf").find("furlong"), std::string::npos);
}

}  // namespace
}  // namespace dunefield
