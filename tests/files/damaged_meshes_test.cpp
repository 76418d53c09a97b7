// Mesh files that are damaged or made to do harm: refused in one line.
#include <gtest/gtest.h>

#include <functional>
#include <limits>

#include <dunefield/files/cgns.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/mesh/sound_mesh.hpp>
#include <tests/files/mesh_files.hpp>
#include <tests/support/damage.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

VolumeMesh cubes() {
  return structured_mesh(3, 2, 2, [](const Vec3& x) { return x; });
}

TEST(DamagedMeshes, OfVtuAreRefused) {
  const TemporaryFolder folder;
  const auto file = folder / "m.vtu";
  write_vtu(file, cubes(), {});
  expect_taken_or_refused([&] { read_vtu(file); }, file, 1500);
}

TEST(DamagedMeshes, OfCgnsAreRefused) {
  const TemporaryFolder folder;
  const auto file = folder / "m.cgns";
  write_cgns(file, cubes(), {});
  expect_taken_or_refused([&] { read_cgns(file); }, file, 150);
}

TEST(DamagedMeshes, ASoundOneHasNoFaultAndEachFaultIsFound) {
  const VolumeMesh good = cubes();
  ASSERT_EQ(fault_of(good), "");
  const std::vector<std::function<void(VolumeMesh&)>> faults = {
      [](VolumeMesh& m) { m.cells = 0; },
      [](VolumeMesh& m) { m.cells += 1; },
      [](VolumeMesh& m) { m.cells = std::numeric_limits<int>::min(); },
      [](VolumeMesh& m) { m.points[3].y = std::numeric_limits<double>::quiet_NaN(); },
      [](VolumeMesh& m) { m.points.resize(5); },
      [](VolumeMesh& m) { m.face_start.clear(); },
      [](VolumeMesh& m) { m.face_start[2] = 1 << 30; },
      [](VolumeMesh& m) { m.face_start[0] = -4; },
      [](VolumeMesh& m) { m.face_points[7] = -1; },
      [](VolumeMesh& m) { m.face_points.push_back(0); },
      [](VolumeMesh& m) { m.cell_below[4] = 12; },
      [](VolumeMesh& m) { m.cell_above[0] = -1; },
      [](VolumeMesh& m) { m.cell_above[0] = m.cell_below[0]; },
      [](VolumeMesh& m) { m.cell_above.resize(m.cell_below.size() + 1); },
      [](VolumeMesh& m) { m.boundaries[1].count = -1; },
      [](VolumeMesh& m) { m.boundaries.pop_back(); },
      [](VolumeMesh& m) { m.boundaries[0].first = 0; },
      [](VolumeMesh& m) { m.boundaries[0].kind = static_cast<BoundaryKind>(77); }};
  for (std::size_t i = 0; i < faults.size(); ++i) {
    VolumeMesh bad = good;
    faults[i](bad);
    EXPECT_NE(fault_of(bad), "") << "fault " << i;
  }
}

}  // namespace
}  // namespace dunefield::test
