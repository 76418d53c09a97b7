// Pictures of meshes.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/health/health.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/look/health_picture.hpp>
#include <dunefield/look/mesh_picture.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <tests/look/png.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class MeshPicture : public testing::Test {
 protected:
  MeshPicture() {
    MeshOptions o;
    o.surface_size = 0.08, o.largest_size = 0.32, o.half = true;
    o.layers.count = 3, o.layers.total_leaves = 0.5;
    mesh_ = build_mesh(sphere("ball", {0, 0, 1}, 0.5, 64), Box{{-2, 0, 0}, {2, 2, 2.5}}, o);
  }
  MeshResult mesh_;
  TemporaryFolder folder_;
};

TEST_F(MeshPicture, SurfaceShowsEdgesOfTheFacesOnTheWholeBody) {
  draw_mesh_surface(folder_ / "s.png", mesh_.mesh, mesh_.quality, true, "ball");
  const Png png(folder_ / "s.png");
  const Colours c(png);
  EXPECT_EQ(png.width(), 1280);
  EXPECT_EQ(png.height(), 800);
  EXPECT_GT(c.dark, 5000) << "lines";
  EXPECT_GT(c.white, 400'000);
}

TEST_F(MeshPicture, CutShowsSolidAndCells) {
  draw_mesh_cut(folder_ / "c.png", mesh_.mesh, 0.02, 0.08, "ball");
  const Png png(folder_ / "c.png");
  const Colours c(png);
  EXPECT_GT(c.grey, 10'000) << "the solid";
  EXPECT_GT(c.dark, 5'000) << "outlines";
}

TEST_F(MeshPicture, QualityIsRedOnlyWhereSomethingIsBeyondALimit) {
  MeshQuality clean = mesh_.quality;
  for (MeasureSummary& s : clean.summary) {
    s.beyond = 0;
    for (std::size_t k = 0; k < s.classes.size(); ++k)
      if (k > 0 && s.steps[k - 1] >= s.limit) s.classes[k] = 0;
  }
  draw_mesh_quality(folder_ / "q.png", clean, "ball");
  EXPECT_EQ(Colours(Png(folder_ / "q.png")).red, 0);
  clean.summary[0].beyond = 3, clean.summary[0].classes.back() = 3;
  draw_mesh_quality(folder_ / "r.png", clean, "ball");
  EXPECT_GT(Colours(Png(folder_ / "r.png")).red, 100);
}

TEST_F(MeshPicture, NothingToDrawIsSaid) {
  const MeshResult empty = build_mesh(Surface{}, Box{{-1, -1, 0}, {1, 1, 1}}, [] {
    MeshOptions o;
    o.surface_size = 0.5, o.largest_size = 0.5;
    return o;
  }());
  EXPECT_THROW(draw_mesh_surface(folder_ / "e.png", empty.mesh, empty.quality, false, "nothing"),
               InputError);
  EXPECT_THROW(draw_mesh_cut(folder_ / "e.png", empty.mesh, 0, 0.1, "nothing"), InputError);
}

TEST(HealthPicture, MarksOpenEdgesInRed) {
  const TemporaryFolder folder;
  Surface s = rounded_box("box", Box{{-1, -0.5, 0.2}, {1, 0.5, 1}}, 0.1);
  draw_health(folder / "a.png", s, check_health(s), {}, "closed");
  const int before = Colours(Png(folder / "a.png")).red;
  // A hole in the side that looks at us.
  const std::size_t n = s.size();
  std::size_t kept = 0;
  for (std::size_t t = 0; t < n; ++t)
    if (s.centroid(t).x > -0.95)
      s.triangles[kept] = s.triangles[t], s.part_of[kept++] = s.part_of[t];
  s.triangles.resize(kept), s.part_of.resize(kept);
  draw_health(folder / "b.png", s, check_health(s), {}, "open");
  EXPECT_GT(Colours(Png(folder / "b.png")).red, before + 300);
}

}  // namespace
}  // namespace dunefield::test
