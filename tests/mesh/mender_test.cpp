// Bad cells are merged with a neighbour; quality says how bad, how many and where.
#include <gtest/gtest.h>

#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/quality/quality.hpp>
#include <dunefield/mesh/repair/mender.hpp>

namespace dunefield {
namespace {

/// A box of cells in which one slice is a thousand times thinner than its neighbours.
VolumeMesh sliced(double thickness) {
  return structured_mesh(4, 3, 3, [thickness](const Vec3& a) {
    const int plane = static_cast<int>(std::lround(4 * a.x));
    const double x[] = {0, 0.5, 0.5 + thickness, 1, 1.5};
    return Vec3{x[plane], a.y, a.z};
  });
}

TEST(Mender, MergesASliceThatIsTooThin) {
  VolumeMesh m = sliced(5e-4);
  m.derive();
  ASSERT_FALSE(measure_quality(m).good());
  const double wall =
      norm(std::accumulate(m.face_area.begin() + m.interior_faces(), m.face_area.end(), Vec3{}));
  const int boundary = m.faces() - m.interior_faces();
  EXPECT_EQ(merge_bad_cells(m), 9) << "each of the nine thin cells";
  const MeshQuality q = measure_quality(m);
  EXPECT_TRUE(q.good());
  EXPECT_EQ(q.cells, 27);
  EXPECT_NEAR(air_volume(m), 1.5, 1e-12);
  EXPECT_NEAR(
      norm(std::accumulate(m.face_area.begin() + m.interior_faces(), m.face_area.end(), Vec3{})),
      wall, 1e-12);
  EXPECT_EQ(m.faces() - m.interior_faces(), boundary) << "the boundary is the same";
  for (std::size_t p = 0, next = static_cast<std::size_t>(m.interior_faces());
       p < m.boundaries.size(); next += static_cast<std::size_t>(m.boundaries[p++].count))
    EXPECT_EQ(m.boundaries[p].first, static_cast<int>(next));
  for (int f = 0; f + 1 < m.interior_faces(); ++f) {
    EXPECT_LT(m.cell_below[at(f)], m.cell_above[at(f)]);
    EXPECT_LE(m.cell_below[at(f)], m.cell_below[at(f) + 1]);
  }
}

TEST(Mender, KeepsDerivedArraysTrue) {
  VolumeMesh m = sliced(5e-4);
  m.derive();
  merge_bad_cells(m);
  VolumeMesh again = m;
  again.derive();
  for (int c = 0; c < m.cells; ++c) {
    EXPECT_NEAR(m.cell_volume[at(c)], again.cell_volume[at(c)], 1e-13);
    EXPECT_LT(norm(m.cell_centre[at(c)] - again.cell_centre[at(c)]), 1e-12);
  }
  for (int f = 0; f < m.faces(); ++f)
    EXPECT_LT(norm(m.face_area[at(f)] - again.face_area[at(f)]), 1e-13);
}

TEST(Mender, LeavesAGoodMeshAlone) {
  VolumeMesh m = sliced(0.1);
  m.derive();
  EXPECT_EQ(merge_bad_cells(m), 0);
  EXPECT_EQ(m.cells, 36);
}

TEST(Quality, HistogramsCountEverythingAndTheWorstComesFirst) {
  VolumeMesh m = sliced(0.02);
  m.derive();
  const MeshQuality q = measure_quality(m);
  for (const MeasureSummary& s : q.summary) {
    EXPECT_EQ(std::accumulate(s.classes.begin(), s.classes.end(), std::int64_t{0}), s.count)
        << s.name;
    EXPECT_EQ(s.classes.size(), s.steps.size() + 1) << s.name;
    for (std::size_t i = 0; i + 1 < s.worst.size(); ++i)
      EXPECT_GE(s.worst[i].value, s.worst[i + 1].value) << s.name;
  }
  EXPECT_NEAR(q.of(Measure::one_sidedness).worst_value(), 0.5 / 0.02, 1e-9)
      << "half heights of the slice and of the thicker neighbour";
  EXPECT_NEAR(q.of(Measure::size_step).worst_value(), std::cbrt(25), 1e-9);
  EXPECT_NEAR(q.of(Measure::size_step).worst.front().place.x, 0.5, 1e-9);
  EXPECT_EQ(q.of(Measure::one_sidedness).beyond, 18) << "both sides of each thin cell";
}

TEST(Quality, AMeshInTwoPiecesIsNotSound) {
  VolumeMesh m = structured_mesh(2, 1, 1, [](const Vec3& a) { return a; });
  m.derive();
  EXPECT_EQ(measure_quality(m).regions, 1);
  // The face between the two cells becomes two boundary faces.
  VolumeMesh apart = structured_mesh(1, 1, 1, [](const Vec3& a) { return a; });
  const VolumeMesh other = apart;
  const int points = static_cast<int>(apart.points.size());
  for (const Vec3& p : other.points) apart.points.push_back(p + Vec3{3, 0, 0});
  for (std::size_t f = 0; f < other.cell_below.size(); ++f) {
    for (int k = other.face_start[f]; k < other.face_start[f + 1]; ++k)
      apart.face_points.push_back(other.face_points[at(k)] + points);
    apart.face_start.push_back(static_cast<int>(apart.face_points.size()));
    apart.cell_below.push_back(1);
  }
  apart.cells = 2;
  apart.derive();
  EXPECT_EQ(measure_quality(apart).regions, 2);
  EXPECT_FALSE(measure_quality(apart).sound());
}

}  // namespace
}  // namespace dunefield
