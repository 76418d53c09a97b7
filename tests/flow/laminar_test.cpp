// Laminar flows with reference results from the literature.
#include <gtest/gtest.h>

#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

struct CavityReference {
  double reynolds;
  int cells, iterations;
  double band;
  std::vector<std::pair<double, double>> values;
};

void PrintTo(const CavityReference& reference, std::ostream* out) {
  *out << "Re" << reference.reynolds;
}

class Cavity : public testing::TestWithParam<CavityReference> {};

TEST_P(Cavity, HasTheReferenceVelocities) {
  const auto& reference = GetParam();
  const int n = reference.cells;
  // Finer towards the walls; even n, so that two columns flank the centre line.
  const auto stretch = [](double a) {
    return 0.5 - 0.5 * std::tanh(1.4 * (1 - 2 * a)) / std::tanh(1.4);
  };
  const VolumeMesh mesh = structured_mesh(n, n, 1, [&](const Vec3& a) {
    return Vec3{stretch(a.x), stretch(a.y), a.z / n};
  });
  FlowCase c =
      laminar(1 / reference.reynolds, {wall(), wall(), wall(), wall({1, 0, 0}), slip(), slip()});
  c.options.courant = 50;
  const Solution s = solve(mesh, c, reference.iterations, 1e-5);
  for (const auto& [y, u] : reference.values)
    EXPECT_NEAR(centre_line(mesh, s.fields.u, n, y), u, reference.band) << "y = " << y;
}

// Ghia, Ghia, Shin 1982 (centre value from spectral results); Botella and Peyret 1998.
INSTANTIATE_TEST_SUITE_P(Reynolds, Cavity,
                         testing::Values(CavityReference{100,
                                                         40,
                                                         3000,
                                                         0.007,
                                                         {{0.9531, 0.68717},
                                                          {0.7344, 0.00332},
                                                          {0.5, -0.2091},
                                                          {0.2813, -0.15662},
                                                          {0.1016, -0.06434}}},
                                         CavityReference{1000,
                                                         80,
                                                         3000,
                                                         0.004,
                                                         {{0.9531, 0.47233},
                                                          {0.7344, 0.18867},
                                                          {0.5, -0.06206},
                                                          {0.2813, -0.28037},
                                                          {0.1719, -0.38857},
                                                          {0.1016, -0.30046}}}));

class Sphere : public testing::Test {
 protected:
  static const MeshResult& mesh() {
    static const MeshResult m = sphere_mesh(0.05);
    return m;
  }
  static double cd(const Solution& s) {
    return s.balance.total().force.x / (0.5 * 0.25 * 3.14159265358979);
  }
};

TEST_F(Sphere, HasTheReferenceDragAtReynolds100) {
  const Solution s = solve(mesh().mesh, sphere_case(mesh().mesh, 100), 130, 1e-6);
  EXPECT_NEAR(cd(s), 1.09, 0.02 * 1.09);
  EXPECT_NEAR(s.momentum_drag / s.balance.total().force.x, 1, 1e-3)
      << "momentum through the tunnel's faces";
  EXPECT_LT(std::abs(s.mass_balance), 1e-6);
  EXPECT_NEAR(s.balance.total().force.y / s.balance.total().force.x, 0, 2e-3);
}

TEST_F(Sphere, DragDoesNotDependOnTheRelaxation) {
  FlowCase c = sphere_case(mesh().mesh, 100);
  const double at_20 = cd(solve(mesh().mesh, c, 150, 1e-6));
  c.options.courant = 8;
  const double at_8 = cd(solve(mesh().mesh, c, 250, 1e-6));
  EXPECT_NEAR(at_20 / at_8, 1, 1e-4);
}

TEST_F(Sphere, IsTheSameOnOneTwoAndFourRanks) {
  const FlowCase c = sphere_case(mesh().mesh, 100);
  const double one = cd(solve(mesh().mesh, c, 60, 0, 1));
  for (const int ranks : {2, 4})
    EXPECT_NEAR(cd(solve(mesh().mesh, c, 60, 0, ranks)) / one, 1, 1e-3) << ranks << " ranks";
}

TEST_F(Sphere, GivesTheSameBitsAgain) {
  const FlowCase c = sphere_case(mesh().mesh, 100);
  const Solution a = solve(mesh().mesh, c, 8, 0, 2), b = solve(mesh().mesh, c, 8, 0, 2);
  EXPECT_EQ(a.cd_history, b.cd_history);
  EXPECT_EQ(a.fields.p, b.fields.p);
}

}  // namespace
}  // namespace dunefield::test
