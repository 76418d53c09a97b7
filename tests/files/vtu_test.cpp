// Meshes as VTU files: written, read again, read from elsewhere in every coding of the format, and
// refused when they are not whole.
#include <gtest/gtest.h>

#include <fstream>

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <zlib.h>

#include <dunefield/files/vtu.hpp>
#include <tests/files/mesh_files.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

std::string said(const std::filesystem::path& file) { return said_by(read_vtu, file); }

class Vtu : public testing::Test {
 protected:
  const TemporaryFolder folder_;
  const std::filesystem::path file_ = folder_ / "mesh.vtu";
};

TEST_F(Vtu, ComesBackAsItWasWritten) {
  write_vtu(file_, ball_mesh(), {{"volume", ball_mesh().cell_volume, {}}});
  expect_same(read_vtu(file_), ball_mesh());
}

std::string base64(const std::string& bytes) {
  const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string out;
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    unsigned group = 0;
    for (std::size_t k = 0; k < 3; ++k)
      group = group << 8 | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0u);
    for (std::size_t k = 0; k < 4; ++k)
      out += i + k > bytes.size() ? '=' : digits[group >> (18 - 6 * k) & 63];
  }
  return out;
}

/// A cube of eight cells without its last octant, as another program might write it: hexahedra and
/// one polyhedron whose faces are turned anyhow, 32 bit heads, arrays as text or as base 64 in the
/// tree, packed or not. The walls of the missing octant are the vehicle.
struct Foreign {
  enum class Coding { text, base64, packed };
  std::vector<int> connectivity, offsets, types, faces, face_offsets;
  std::vector<float> points;
  Coding coding = Coding::text;
  std::string head =
      "<VTKFile type=\"UnstructuredGrid\" version=\"0.1\" byte_order=\"LittleEndian\">";

  Foreign() {
    for (int i = 0; i < 27; ++i)
      for (const int x : {i % 3, i / 3 % 3, i / 9}) points.push_back(static_cast<float>(x) - 1);
    const int step[3] = {1, 3, 9};
    for (int c = 0; c < 7; ++c) {
      const int o = (c & 1) * step[0] + (c >> 1 & 1) * step[1] + (c >> 2) * step[2];
      const int p[8] = {o, o + 1, o + 4, o + 3, o + 9, o + 10, o + 13, o + 12};
      connectivity.insert(connectivity.end(), p, p + 8);
      offsets.push_back(static_cast<int>(connectivity.size()));
      types.push_back(c == 3 ? 42 : 12);
      if (c == 3) {
        faces = {6};
        for (const auto& f : {std::array{0, 1, 2, 3},
                              {4, 5, 6, 7},
                              {0, 1, 5, 4},
                              {1, 2, 6, 5},
                              {3, 2, 6, 7},
                              {0, 3, 7, 4}}) {
          faces.push_back(4);
          for (const int k : f) faces.push_back(p[k]);
        }
      }
      face_offsets.push_back(c == 3 ? static_cast<int>(faces.size()) : -1);
    }
  }
  template <class T>
  std::string array(const char* name, const std::vector<T>& values, int components = 1) const {
    const char* type = std::is_same_v<T, float> ? "Float32" : "Int32";
    const std::string bytes(reinterpret_cast<const char*>(values.data()),
                            values.size() * sizeof(T));
    const auto size = static_cast<std::uint32_t>(bytes.size());
    const auto numbers = [](const std::vector<std::uint32_t>& n) {
      return std::string(reinterpret_cast<const char*>(n.data()), 4 * n.size());
    };
    std::string text;
    if (coding == Coding::text) text = fmt::format("{}", fmt::join(values, " "));
    if (coding == Coding::base64) text = base64(numbers({size}) + bytes);
    if (coding == Coding::packed) {
      uLongf length = compressBound(size);
      std::string packed(length, 0);
      compress(reinterpret_cast<Bytef*>(packed.data()), &length,
               reinterpret_cast<const Bytef*>(bytes.data()), size);
      text = base64(numbers({1, size, 0, static_cast<std::uint32_t>(length)})) +
             base64(packed.substr(0, length));
    }
    return fmt::format(
        "<DataArray type=\"{}\" Name=\"{}\" NumberOfComponents=\"{}\" format=\"{}\">\n "
        "{}\n</DataArray>\n",
        type, name, components, coding == Coding::text ? "ascii" : "binary", text);
  }
  void write(const std::filesystem::path& file) const {
    write_text(
        file,
        head +
            fmt::format(
                "<UnstructuredGrid><Piece NumberOfPoints=\"{}\" NumberOfCells=\"{}\"><Points>",
                points.size() / 3, offsets.size()) +
            array("p", points, 3) + "</Points><Cells>" + array("connectivity", connectivity) +
            array("offsets", offsets) + array("types", types) + array("faces", faces) +
            array("faceoffsets", face_offsets) + "</Cells></Piece></UnstructuredGrid></VTKFile>\n");
  }
};

TEST_F(Vtu, AMeshFromElsewhereIsUnderstood) {
  for (const auto coding :
       {Foreign::Coding::text, Foreign::Coding::base64, Foreign::Coding::packed}) {
    Foreign f;
    f.coding = coding;
    if (coding == Foreign::Coding::packed)
      f.head = "<VTKFile type=\"UnstructuredGrid\" compressor=\"vtkZLibDataCompressor\">";
    f.write(file_);
    const VolumeMesh m = read_vtu(file_);
    EXPECT_EQ(m.cells, 7);
    EXPECT_EQ(m.interior_faces(), 9);
    for (const double v : m.cell_volume) EXPECT_NEAR(v, 1, 1e-6);
    ASSERT_EQ(m.boundaries.size(), 7u);
    const std::pair<BoundaryKind, int> expected[] = {
        {BoundaryKind::inflow, 4}, {BoundaryKind::outflow, 3}, {BoundaryKind::side, 4},
        {BoundaryKind::side, 3},   {BoundaryKind::road, 4},    {BoundaryKind::roof, 3},
        {BoundaryKind::part, 3}};
    for (std::size_t i = 0; i < 7; ++i) {
      EXPECT_EQ(m.boundaries[i].kind, expected[i].first) << m.boundaries[i].name;
      EXPECT_EQ(m.boundaries[i].count, expected[i].second) << m.boundaries[i].name;
    }
    EXPECT_EQ(m.boundaries.back().name, "vehicle");
  }
}

TEST_F(Vtu, WhatIsWrongIsSaid) {
  const auto refused = [&](const Foreign& f) {
    f.write(file_);
    return said(file_);
  };
  Foreign f;
  f.types[0] = 22;
  EXPECT_NE(refused(f).find("cell 1 is of type 22"), std::string::npos);
  f = {}, f.connectivity[2] = 99;
  EXPECT_NE(refused(f).find("point 99, which does not exist"), std::string::npos);
  f = {}, f.faces[0] = 5;
  EXPECT_NE(refused(f).find("cell 4 is not closed"), std::string::npos);
  f = {}, f.faces[1] = 400;
  EXPECT_NE(refused(f).find("polyhedron 4 contradict"), std::string::npos);
  f = {}, f.face_offsets.clear();
  EXPECT_NE(refused(f).find("polyhedron 4 has no faces"), std::string::npos);
  f = {}, f.offsets.pop_back(), f.offsets.push_back(f.offsets[5]), f.types[6] = 12;
  EXPECT_NE(refused(f).find("cell 7 has the wrong number of points"), std::string::npos);
  f = {}, std::copy_n(f.connectivity.begin(), 8, f.connectivity.begin() + 8),
  std::copy_n(f.connectivity.begin(), 8, f.connectivity.begin() + 16);
  EXPECT_NE(refused(f).find("cells 1, 2 and 3 share a face"), std::string::npos);
  f = {}, f.head = "<VTKFile type=\"UnstructuredGrid\" compressor=\"vtkLZ4DataCompressor\">";
  EXPECT_NE(refused(f).find("packed by vtkLZ4DataCompressor"), std::string::npos);
  f = {}, f.head = "<VTKFile type=\"UnstructuredGrid\" byte_order=\"BigEndian\">";
  EXPECT_NE(refused(f).find("another kind of processor"), std::string::npos);
}

TEST_F(Vtu, FilesThatAreNoneAreRefused) {
  EXPECT_NE(said(folder_ / "nowhere.vtu").find("no such file"), std::string::npos);
  write_text(file_, "solid nothing");
  EXPECT_NE(said(file_).find("cannot be read as XML"), std::string::npos);
  write_text(file_, "<VTKFile type=\"PolyData\"><PolyData/></VTKFile>");
  EXPECT_NE(said(file_).find("data set of type 'PolyData'"), std::string::npos);
  EXPECT_THROW(write_vtu(folder_ / "no" / "folder.vtu", ball_mesh(), {}), OutputError);
}

/// However much of it is missing, and whichever byte is wrong, it is refused or read, and nothing
/// else happens.
TEST_F(Vtu, CutAndDamagedFilesAreRefused) {
  write_vtu(file_, ball_mesh(), {});
  const std::string whole = read_text(file_);
  for (std::size_t k = 1; k < 20; ++k) {
    write_text(file_, whole.substr(0, whole.size() * k / 20));
    EXPECT_NE(said(file_), "") << k;
  }
  std::size_t unnoticed = 0;
  for (std::size_t k = 1; k < 100; ++k) {
    std::string damaged = whole;
    damaged[whole.size() * k / 100] ^= 0x5a;
    write_text(file_, damaged);
    unnoticed += said(file_).empty();
  }
  EXPECT_LE(unnoticed, 2u);
}

}  // namespace
}  // namespace dunefield::test
