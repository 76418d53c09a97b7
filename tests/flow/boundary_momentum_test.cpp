// What goes through boundary faces: one place for the momentum equation and the balance.
#include <gtest/gtest.h>

#include <dunefield/balance/balance.hpp>
#include <dunefield/flow/boundary_momentum.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

/// A box of one cell's height with shear: u = (z, 0, 0).
class Faces : public testing::Test {
 protected:
  Faces() {
    mesh_ = structured_mesh(3, 3, 3, [](const Vec3& a) { return a; });
    mesh_.derive();
    case_ = laminar(0.5, {stream({1, 0, 0}), outflow(), slip(), slip(), wall(), wall({1, 0, 0})});
    case_.conditions[0].profile = [](const Vec3& x) { return Vec3{x.z, 0, 0}; };
    const std::vector<double> distance(at(mesh_.cells), 1.0);
    share_ = distribute(&mesh_, &distance, solo_);
  }
  /// Visits the faces of a boundary with what goes through them.
  void visit(
      const std::string& name,
      const std::function<void(const FlowMesh::BoundaryFace&, const BoundaryMomentum&)>& see) {
    FlowState s(share_, case_, solo_);
    for (std::size_t c = 0; c < s.u.size(); ++c) s.u[c] = {share_.centre[c].z, 0, 0};
    s.update_velocity_gradient();
    s.update_wall_shear();
    for (std::size_t b = 0; b < share_.boundaries.size(); ++b) {
      const Boundary& boundary = share_.boundaries[b];
      for (int i = boundary.first; boundary.name == name && i < boundary.first + boundary.count;
           ++i)
        see(share_.boundary_faces[at(i)],
            boundary_momentum(s, at(i), share_.boundary_faces[at(i)], case_.conditions[b]));
    }
  }
  SoloCommunicator solo_;
  VolumeMesh mesh_;
  FlowCase case_;
  FlowMesh share_;
};

TEST_F(Faces, WallsDragTheAirAlong) {
  int seen = 0;
  visit("z-", [&](const auto& b, const BoundaryMomentum& m) {
    ++seen;
    EXPECT_NEAR(m.stress.x, -0.5 * b.size, 1e-9) << "the standing wall holds it back";
    EXPECT_NEAR(m.stress.z, 0, 1e-9);
  });
  visit("z+", [&](const auto& b, const BoundaryMomentum& m) {
    EXPECT_NEAR(m.stress.x, 0.5 * b.size, 1e-9) << "the moving one pulls it";
  });
  EXPECT_EQ(seen, 9);
}

TEST_F(Faces, SlipPlanesLetNothingPass) {
  visit("y-",
        [&](const auto&, const BoundaryMomentum& m) { EXPECT_NEAR(norm(m.stress), 0, 1e-12); });
}

TEST_F(Faces, TheStreamBringsItsOwnVelocity) {
  visit("x-", [&](const auto& b, const BoundaryMomentum& m) {
    EXPECT_NEAR(m.carried.x, b.centre.z, 1e-12);
    // The shear's transposed part: a face across the stream is pulled upward or downward by it.
    EXPECT_NEAR(m.stress.z, -0.5 * b.size, 1e-9);
    EXPECT_NEAR(m.stress.x, 0, 1e-9);
  });
}

TEST_F(Faces, WallLoadsAreTheStressOfTheMomentumEquation) {
  FlowState s(share_, case_, solo_);
  for (std::size_t c = 0; c < s.u.size(); ++c) s.u[c] = {share_.centre[c].z, 0.3, 0};
  s.update_velocity_gradient();
  s.update_wall_shear();
  s.update_loads();
  for (std::size_t b = 0; b < share_.boundaries.size(); ++b) {
    if (case_.conditions[b].kind != ConditionKind::wall) continue;
    const Boundary& wall = share_.boundaries[b];
    for (int i = wall.first; i < wall.first + wall.count; ++i) {
      const Vec3 stress =
          boundary_momentum(s, at(i), share_.boundary_faces[at(i)], case_.conditions[b]).stress;
      EXPECT_LT(norm(s.loads[at(i)].friction + stress * case_.air.density), 1e-14);
    }
  }
}

}  // namespace
}  // namespace dunefield::test
