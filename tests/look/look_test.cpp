// Pictures and open formats: files that other programs can read, and pixels that show the right
// thing.
#include <gtest/gtest.h>

#include <cairo/cairo.h>
#include <zlib.h>

#include <cstring>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/files/vtp.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/look/pictures.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <tests/look/png.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

const MeshResult& ball() {
  static const MeshResult m = [] {
    MeshOptions o;
    o.surface_size = 0.1, o.largest_size = 0.4;
    o.half = true;
    return build_mesh(sphere("ball & <co>", {0, 0, 1}, 0.5, 48), Box{{-2, 0, 0}, {2, 2, 2}}, o);
  }();
  return m;
}

TEST(Pictures, ShowTheVehicleInTheMiddleOnAWhiteGround) {
  const TemporaryFolder folder;
  const std::vector<double> value(ball().mesh.cell_below.size() - ball().mesh.cell_above.size(),
                                  1.0);
  draw_surface(folder / "a.png", ball().mesh, value, {Palette::balance, -1, 1, "Cp"}, {}, true,
               "ball");
  const Png png(folder / "a.png");
  EXPECT_EQ(png.width(), 1280);
  EXPECT_EQ(png.height(), 800);
  EXPECT_EQ(png.at(1270, 400), 0xffffffu);
  const unsigned middle = png.at(640, 370);
  EXPECT_GT(middle >> 16, middle & 0xff) << "high values are red";
}

TEST(Pictures, ASliceShowsTheSolidGreyAndTheAirInItsColour) {
  const TemporaryFolder folder;
  const std::vector<double> value(static_cast<std::size_t>(ball().mesh.cells), 1.0);
  draw_slice_y(folder / "s.png", ball().mesh, value, 0.01, Box{{-2, 0, 0}, {2, 0, 2}},
               {Palette::dune, 0, 1, "u"}, "slice");
  const Png png(folder / "s.png");
  const int x = png.width() / 2, y = 64 + (png.height() - 64 - 92) / 2;
  const unsigned solid = png.at(x, y), air = png.at(x + 400, y);
  EXPECT_NEAR(static_cast<int>(solid >> 16), 204, 2);
  EXPECT_GT(air >> 16, 230u) << "the bright end of the palette";
}

TEST(Pictures, ASliceShowsVeryFlatCellsAndEndsAtItsFrame) {
  // Cells fifty times as wide as high, in a block that reaches beyond the frame.
  const VolumeMesh m = [] {
    VolumeMesh flat = structured_mesh(4, 2, 100, [](const Vec3& a) {
      return Vec3{4 * a.x - 2, a.y - 0.5, 2 * a.z};
    });
    flat.derive();
    return flat;
  }();
  const TemporaryFolder folder;
  draw_slice_y(folder / "s.png", m, std::vector<double>(at(m.cells), 1.0), 0.01,
               Box{{-1.7, 0, 0.3}, {1.7, 0, 1.7}}, {Palette::dune, 0, 1, "u"}, "flat");
  const Png png(folder / "s.png");
  const Colours c(png);
  EXPECT_LT(c.grey, 2000) << "no solid shows through";
  EXPECT_EQ(png.at(16, 200), 0xffffffu) << "nothing beside the frame";
}

TEST(Canvas, MarksAreRoundNumbers) {
  EXPECT_EQ(round_marks(0, 1, 5).size(), 6u);
  EXPECT_EQ(round_marks(-1, 1, 4), (std::vector<double>{-1, -0.5, 0, 0.5, 1}));
  EXPECT_EQ(round_marks(3, 3, 4), std::vector<double>{3});
}

TEST(Vtk, SurfaceHoldsThePartsFaces) {
  const TemporaryFolder folder;
  std::vector<double> value(ball().mesh.cell_below.size() - ball().mesh.cell_above.size(), 2.0);
  write_vtp(folder / "s.vtp", ball().mesh, {{"Cp", value, {}}});
  int faces = 0;
  for (const Boundary& p : ball().mesh.boundaries)
    if (p.kind == BoundaryKind::part) faces += p.count;
  EXPECT_NE(read_text(folder / "s.vtp").find("NumberOfPolys=\"" + std::to_string(faces) + "\""),
            std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
