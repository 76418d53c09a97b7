// Pictures of meshes.
#include <gtest/gtest.h>

#include <cairo/cairo.h>

#include <cstring>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/health/health.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/look/health_picture.hpp>
#include <dunefield/look/mesh_picture.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

struct Colours {
  int width = 0, height = 0, white = 0, dark = 0, red = 0, grey = 0;
};

/// How many pixels are of which kind.
Colours colours_of(const std::filesystem::path& file) {
  cairo_surface_t* s = cairo_image_surface_create_from_png(file.string().c_str());
  Colours c{cairo_image_surface_get_width(s), cairo_image_surface_get_height(s), 0, 0, 0, 0};
  for (int y = 0; y < c.height; ++y)
    for (int x = 0; x < c.width; ++x) {
      unsigned v;
      std::memcpy(
          &v, cairo_image_surface_get_data(s) + y * cairo_image_surface_get_stride(s) + 4 * x, 4);
      const int r = v >> 16 & 255, g = v >> 8 & 255, b = v & 255;
      c.white += r > 250 && g > 250 && b > 250;
      c.dark += r < 90 && g < 90 && b < 90;
      c.red += r > 180 && g < 80 && b < 80;
      c.grey += r == g && std::abs(g - b) < 4 && r > 195 && r < 210;
    }
  cairo_surface_destroy(s);
  return c;
}

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
  const Colours c = colours_of(folder_ / "s.png");
  EXPECT_EQ(c.width, 1280);
  EXPECT_EQ(c.height, 800);
  EXPECT_GT(c.dark, 5000) << "lines";
  EXPECT_GT(c.white, 400'000);
}

TEST_F(MeshPicture, CutShowsSolidAndCells) {
  draw_mesh_cut(folder_ / "c.png", mesh_.mesh, 0.02, 0.08, "ball");
  const Colours c = colours_of(folder_ / "c.png");
  EXPECT_GT(c.grey, 10'000) << "the solid";
  EXPECT_GT(c.dark, 5'000) << "outlines";
}

TEST_F(MeshPicture, QualityIsRedOnlyWhereSomethingIsBeyondALimit) {
  MeshQuality clean = mesh_.quality;
  for (MeasureSummary& s : clean.summary) {
    s.beyond = 0;
    for (std::size_t k = 0; k < s.classes.size(); ++k)
      if (s.small_is_bad ? k < s.steps.size() && s.steps[k] <= s.limit
                         : k > 0 && s.steps[k - 1] >= s.limit)
        s.classes[k] = 0;
  }
  draw_mesh_quality(folder_ / "q.png", clean, "ball");
  EXPECT_EQ(colours_of(folder_ / "q.png").red, 0);
  clean.summary[0].beyond = 3, clean.summary[0].classes.back() = 3;
  draw_mesh_quality(folder_ / "r.png", clean, "ball");
  EXPECT_GT(colours_of(folder_ / "r.png").red, 100);
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
  const int before = colours_of(folder / "a.png").red;
  // A hole in the side that looks at us.
  const std::size_t n = s.size();
  std::size_t kept = 0;
  for (std::size_t t = 0; t < n; ++t)
    if (s.centroid(t).x > -0.95)
      s.triangles[kept] = s.triangles[t], s.part_of[kept++] = s.part_of[t];
  s.triangles.resize(kept), s.part_of.resize(kept);
  draw_health(folder / "b.png", s, check_health(s), {}, "open");
  EXPECT_GT(colours_of(folder / "b.png").red, before + 300);
}

}  // namespace
}  // namespace dunefield::test
