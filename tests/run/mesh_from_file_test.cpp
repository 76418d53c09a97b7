// Meshes that variants bring along, instead of being meshed.
#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class MeshFromFile : public testing::Test {
 protected:
  MeshFromFile() {
    write_stl_binary(folder_ / "brick.stl",
                     rounded_box("brick", Box{{-500, -200, 50}, {500, 200, 350}}, 60));
    write_stl_binary(folder_ / "fin.stl",
                     rounded_box("fin", Box{{300, -20, 300}, {480, 20, 500}}, 0));
  }
  CampaignSetup setup(const std::string& more = "") {
    write_text(folder_ / "c.toml",
               "name = \"Brick\"\n[vehicle]\nfiles = [\"brick.stl\", \"fin.stl\"]\nunit = "
               "\"mm\"\n[tunnel]\nhalf = true\nahead = 2\nbehind = 3\n[mesh]\nsurface_size = \"35 "
               "mm\"\nsmallest_size = \"35 mm\"\n"
               "[mesh.layers]\ncount = 0\n[runs]\nspeeds = [\"60 km/h\"]\n[[variant]]\nname = "
               "\"plain\"\n" +
                   more);
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  static double area_of(const VolumeMesh& m, const std::string& part) {
    double area = 0;
    for (const Boundary& p : m.boundaries)
      for (int f = p.first; p.name == part && f < p.first + p.count; ++f)
        area += norm(m.face_area[at(f)]);
    return area;
  }
  const TemporaryFolder folder_;
};

TEST_F(MeshFromFile, WallsWithoutNamesGoToTheNearestPart) {
  const CampaignSetup meshed = setup();
  const VolumeMesh ours = build_mesh(meshed.variants.front()).mesh;
  VolumeMesh nameless = ours;
  for (Boundary& p : nameless.boundaries)
    if (p.kind == BoundaryKind::part) p.name = "wall of " + p.name;
  write_vtu(folder_ / "m.vtu", nameless, {});
  const CampaignSetup from_file = setup("mesh = \"m.vtu\"\n");
  const MeshResult read = build_mesh(from_file.variants.front());
  EXPECT_TRUE(read.quality.sound());
  EXPECT_EQ(read.mesh.cells, ours.cells);
  for (const char* part : {"brick", "fin"}) {
    ASSERT_GT(area_of(ours, part), 0) << part;
    // but for faces across the seam
    EXPECT_NEAR(area_of(read.mesh, part) / area_of(ours, part), 1, 0.03) << part;
  }
  int next = read.mesh.interior_faces();
  for (const Boundary& p : read.mesh.boundaries) {
    EXPECT_EQ(p.first, next) << p.name;
    next += p.count;
  }
  EXPECT_EQ(next, read.mesh.faces());
  EXPECT_TRUE(std::any_of(read.findings.begin(), read.findings.end(), [](const Finding& f) {
    return f.text.find("nearest to it") != std::string::npos;
  }));
}

TEST_F(MeshFromFile, OneThatDoesNotFitTheVehicleIsRefused) {
  const CampaignSetup meshed = setup();
  VolumeMesh moved = build_mesh(meshed.variants.front()).mesh;
  for (Vec3& p : moved.points) p.x += 1;
  write_vtu(folder_ / "m.vtu", moved, {});
  const CampaignSetup from_file = setup("mesh = \"m.vtu\"\n");
  EXPECT_THROW(build_mesh(from_file.variants.front()), InputError);
}

}  // namespace
}  // namespace dunefield::test
