// Marks of scales, and open formats that other programs can read.
#include <gtest/gtest.h>

#include <zlib.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/files/vtp.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/look/canvas.hpp>
#include <dunefield/mesh/mesher.hpp>
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

TEST(Canvas, MarksAreRoundNumbers) {
  EXPECT_EQ(round_marks(0, 1, 5).size(), 6u);
  EXPECT_EQ(round_marks(-1, 1, 4), (std::vector<double>{-1, -0.5, 0, 0.5, 1}));
  EXPECT_EQ(round_marks(3, 3, 4), std::vector<double>{3});
  EXPECT_EQ(round_bands(-1, 1), 10);
  EXPECT_EQ(round_bands(0, 1.4), 7) << "steps of 0.2";
  EXPECT_EQ(round_bands(-0.2, 1), 12) << "of 0.1";
  EXPECT_EQ(round_bands(0, 0.0317), 10) << "no step is round";
  EXPECT_EQ(round_bands(3, 3), 10);
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
