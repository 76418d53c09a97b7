// Meshes as CGNS files: written, read again, and refused when they are not whole.
#include <gtest/gtest.h>

#include <fstream>

#include <cgnslib.h>

#include <dunefield/base/index.hpp>
#include <dunefield/files/cgns.hpp>
#include <tests/files/mesh_files.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

std::string said(const std::filesystem::path& file) { return said_by(read_cgns, file); }

class Cgns : public testing::Test {
 protected:
  const TemporaryFolder folder_;
  const std::filesystem::path file_ = folder_ / "mesh.cgns";
};

TEST_F(Cgns, ComesBackAsItWasWritten) {
  write_cgns(file_, ball_mesh(), {{"CellVolume", &ball_mesh().cell_volume}});
  expect_same(read_cgns(file_), ball_mesh());
}

/// Two cubes side by side as another program might write them: faces in any order, sections apart,
/// boundaries as lists.
struct Foreign {
  std::vector<cgsize_t> cells[2] = {{1, 2, 3, 4, 5, 6}, {-2, 7, 8, 9, 10, 11}};
  std::vector<cgsize_t> inflow = {1}, outflow = {7}, ground = {5, 10}, top = {6, 11},
                        front = {3, 8}, rest = {4, 9};
  CGNS_ENUMT(BCType_t) front_type = CGNS_ENUMV(BCSymmetryPlane);

  void write(const std::filesystem::path& file) const {
    int f, b, z, n;
    cg_open(file.string().c_str(), CG_MODE_WRITE, &f);
    cg_base_write(f, "Base", 3, 3, &b);
    const cgsize_t size[3] = {12, 2, 0};
    cg_zone_write(f, b, "Zone", size, CGNS_ENUMV(Unstructured), &z);
    const std::vector<float> x = {0, 1, 2, 0, 1, 2, 0, 1, 2, 0, 1, 2},
                             y = {0, 0, 0, 1, 1, 1, 0, 0, 0, 1, 1, 1},
                             h = {0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1};
    cg_coord_write(f, b, z, CGNS_ENUMV(RealSingle), "CoordinateX", x.data(), &n);
    cg_coord_write(f, b, z, CGNS_ENUMV(RealSingle), "CoordinateY", y.data(), &n);
    cg_coord_write(f, b, z, CGNS_ENUMV(RealSingle), "CoordinateZ", h.data(), &n);
    // Outward for the cell that has them first.
    const std::vector<cgsize_t> points = {1, 7, 10, 4,  2,  5, 11, 8,  1,  2, 8, 7,  4,  10, 11,
                                          5, 1, 4,  5,  2,  7, 8,  11, 10, 3, 6, 12, 9,  2,  3,
                                          9, 8, 5,  11, 12, 6, 2,  5,  6,  3, 8, 9,  12, 11};
    std::vector<cgsize_t> start;
    for (cgsize_t i = 0; i <= 11; ++i) start.push_back(4 * i);
    cg_poly_section_write(f, b, z, "Polygons", CGNS_ENUMV(NGON_n), 1, 11, 0, points.data(),
                          start.data(), &n);
    std::vector<cgsize_t> faces = cells[0];
    faces.insert(faces.end(), cells[1].begin(), cells[1].end());
    const std::vector<cgsize_t> first = {0, static_cast<cgsize_t>(cells[0].size()),
                                         static_cast<cgsize_t>(faces.size())};
    cg_poly_section_write(f, b, z, "Polyhedra", CGNS_ENUMV(NFACE_n), 12, 13, 0, faces.data(),
                          first.data(), &n);
    boundary(f, "in", CGNS_ENUMV(BCInflowSubsonic), inflow),
        boundary(f, "out", CGNS_ENUMV(BCOutflow), outflow),
        boundary(f, "Ground plate", CGNS_ENUMV(BCWallViscous), ground);
    boundary(f, "cab", CGNS_ENUMV(BCWall), top), boundary(f, "middle", front_type, front),
        boundary(f, "wall", CGNS_ENUMV(BCWallInviscid), rest);
    cg_close(f);
  }

 private:
  static void boundary(int f, const char* name, CGNS_ENUMT(BCType_t) type,
                       const std::vector<cgsize_t>& list) {
    int n;
    if (list.empty()) return;
    cg_boco_write(f, 1, 1, name, type, CGNS_ENUMV(PointList), static_cast<cgsize_t>(list.size()),
                  list.data(), &n);
    cg_boco_gridlocation_write(f, 1, 1, n, CGNS_ENUMV(FaceCenter));
  }
};

TEST_F(Cgns, AMeshFromElsewhereIsUnderstood) {
  Foreign().write(file_);
  const VolumeMesh m = read_cgns(file_);
  EXPECT_EQ(m.cells, 2);
  EXPECT_EQ(m.interior_faces(), 1);
  EXPECT_NEAR(m.cell_volume[0], 1, 1e-12);
  EXPECT_NEAR(m.cell_volume[1], 1, 1e-12);
  const BoundaryKind kinds[] = {BoundaryKind::inflow,       BoundaryKind::outflow,
                                BoundaryKind::road,         BoundaryKind::part,
                                BoundaryKind::centre_plane, BoundaryKind::side};
  ASSERT_EQ(m.boundaries.size(), 6u);
  for (std::size_t i = 0; i < 6; ++i)
    EXPECT_EQ(m.boundaries[i].kind, kinds[i]) << m.boundaries[i].name;
  for (const Boundary& p : m.boundaries)
    for (int f = p.first; f < p.first + p.count; ++f) {
      const Vec3 out = m.face_centre[at(f)] - m.cell_centre[at(m.cell_below[at(f)])];
      EXPECT_GT(dot(m.face_area[at(f)], out), 0) << p.name;
    }
}

TEST_F(Cgns, WhatIsWrongIsSaid) {
  const auto refused = [&](const Foreign& f) {
    f.write(file_);
    return said(file_);
  };
  Foreign f;
  f.cells[1][1] = 99;
  EXPECT_NE(refused(f).find("face 99, which does not exist"), std::string::npos);
  f = {}, f.cells[0].pop_back(), f.top = {11};
  EXPECT_NE(refused(f).find("cell 1 is not closed"), std::string::npos);
  f = {}, f.rest = {4};
  EXPECT_NE(refused(f).find("1 faces at the outside belong to no boundary"), std::string::npos);
  f = {}, f.rest = {4, 9, 9};
  EXPECT_NE(refused(f).find("another one has, too"), std::string::npos);
  f = {}, f.rest = {4, 9, 2};
  EXPECT_NE(refused(f).find("two cells beside it"), std::string::npos);
  f = {}, f.front_type = CGNS_ENUMV(BCDegenerateLine);
  EXPECT_NE(refused(f).find("says nothing to a tunnel"), std::string::npos);
}

TEST_F(Cgns, FilesThatAreNoneAreRefused) {
  EXPECT_NE(said(folder_ / "nowhere.cgns").find("no such file"), std::string::npos);
  std::ofstream(file_) << "solid nothing";
  EXPECT_NE(said(file_).find("cannot be read as CGNS"), std::string::npos);
  write_cgns(file_, ball_mesh());
  std::filesystem::resize_file(file_, std::filesystem::file_size(file_) / 2);
  EXPECT_NE(said(file_), "");
  EXPECT_THROW(write_cgns(folder_ / "no" / "folder.cgns", ball_mesh()), OutputError);
}

}  // namespace
}  // namespace dunefield::test
