// A campaign for tests of the tool.
#pragma once

#include <string>

#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {

/// A small brick above a rolling road: some seconds a run.
inline std::string brick_campaign(const TemporaryFolder& folder, const std::string& more = "") {
  write_stl_binary(folder / "brick.stl",
                   rounded_box("brick", Box{{-500, -200, 50}, {500, 200, 350}}, 60));
  write_stl_binary(folder / "fin.stl", rounded_box("fin", Box{{300, -20, 300}, {480, 20, 500}}, 0));
  write_text(
      folder / "c.toml",
      "name = \"Brick\"\n[vehicle]\nfiles = [\"brick.stl\"]\nunit = \"mm\"\n[tunnel]\nhalf = "
      "true\nahead = 2\nbehind = 3\n[mesh]\nsurface_size = \"35 mm\"\nsmallest_size = \"35 "
      "mm\"\n[mesh.layers]\ncount = 0\n"
      "[flow]\niterations = 30\n[runs]\nspeeds = [\"60 km/h\", \"90 km/h\"]\n[[variant]]\nname = "
      "\"plain\"\n[[variant]]\nname = \"fin\"\nadd = [\"fin.stl\"]\n" +
          more);
  return (folder / "c.toml").string();
}

}  // namespace dunefield::test
