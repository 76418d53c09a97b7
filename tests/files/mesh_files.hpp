// What the tests of mesh files share: a mesh whose boundary has an awkward name, and the comparison
// of what comes back.
#pragma once

#include <gtest/gtest.h>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <tests/support/refusal.hpp>

namespace dunefield::test {

inline const VolumeMesh& ball_mesh() {
  static const VolumeMesh m = [] {
    MeshOptions o;
    o.surface_size = 0.1, o.largest_size = 0.4, o.half = true;
    return build_mesh(sphere("a ball/with <a> name & \"more\", longer than thirty-two letters",
                             {0, 0, 1}, 0.5, 48),
                      Box{{-2, 0, 0}, {2, 2, 2.4}}, o)
        .mesh;
  }();
  return m;
}

/// To the last bit; boundaries without faces need not come back.
inline void expect_same(const VolumeMesh& got, const VolumeMesh& wanted) {
  EXPECT_EQ(got.cells, wanted.cells);
  EXPECT_EQ(got.face_start, wanted.face_start);
  EXPECT_EQ(got.face_points, wanted.face_points);
  EXPECT_EQ(got.cell_below, wanted.cell_below);
  EXPECT_EQ(got.cell_above, wanted.cell_above);
  EXPECT_EQ(got.cell_volume, wanted.cell_volume);
  std::vector<Boundary> with_faces;
  for (const Boundary& p : wanted.boundaries)
    if (p.count > 0) with_faces.push_back(p);
  ASSERT_EQ(got.boundaries.size(), with_faces.size());
  for (std::size_t i = 0; i < with_faces.size(); ++i) {
    EXPECT_EQ(got.boundaries[i].name, with_faces[i].name);
    EXPECT_EQ(got.boundaries[i].kind, with_faces[i].kind);
    EXPECT_EQ(got.boundaries[i].first, with_faces[i].first);
    EXPECT_EQ(got.boundaries[i].count, with_faces[i].count);
  }
}

}  // namespace dunefield::test
