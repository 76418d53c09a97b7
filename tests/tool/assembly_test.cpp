// Vehicles of many parts, as the terminal shows them.
#include <gtest/gtest.h>

#include <fmt/format.h>

#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

TEST(Tool, LayersOfAnAssemblyAreToldOfItsLargestParts) {
  const TemporaryFolder folder;
  constexpr int across = 9, along = 5;  // tiles of a floor, each a little larger than the last
  std::string files;
  for (int i = 0; i < across * along; ++i) {
    const double x = 250 * (i / across), y = 250 * (i % across), side = 160 + i;
    const std::string name = fmt::format("tile {:02}", i);
    write_stl_binary(folder / (name + ".stl"),
                     rounded_box(name, Box{{x, y, 50}, {x + side, y + side, 150}}, 0));
    files += fmt::format("\"{}.stl\", ", name);
  }
  write_text(folder / "c.toml",
             "name = \"Floor\"\n[vehicle]\nfiles = [" + files +
                 "]\nunit = \"mm\"\n[mesh]\nsurface_size = \"40 mm\"\nsmallest_size = \"40 mm\"\n"
                 "[mesh.layers]\ncount = 2\n[runs]\nspeeds = [\"60 km/h\"]\n");
  const ProcessResult r = tool("mesh " + (folder / "c.toml").string() + " --plain");
  ASSERT_EQ(r.exit_code, 0) << r.err;
  EXPECT_NE(r.out.find("\ntile 44"), std::string::npos) << r.out;
  EXPECT_NE(r.out.find("\ntile 05"), std::string::npos) << r.out;
  EXPECT_EQ(r.out.find("\ntile 04"), std::string::npos) << "one of the five smallest";
  EXPECT_NE(r.out.find("5 parts more, smaller than these"), std::string::npos) << r.out;
}

}  // namespace
}  // namespace dunefield::test
