// Transport of quantities that cannot be negative.
#include <gtest/gtest.h>

#include <random>

#include <dunefield/flow/turbulence/transport_face.hpp>

namespace dunefield::test {
namespace {

TEST(TransportFace, NeverTakesFromAnEmptyCellWhateverTheGradients) {
  // Two oblique cells; one is empty, gradients are anything.
  const VolumeMesh mesh = structured_mesh(2, 1, 1, [](const Vec3& a) {
    return Vec3{a.x + 0.8 * a.y, a.y, a.z};
  });
  SoloCommunicator solo;
  const std::vector<double> distance(2, 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  ASSERT_EQ(m.faces(), 1u);
  std::mt19937 random(7);
  std::uniform_real_distribution<double> any(-1e4, 1e4), positive(0, 1e4);
  for (int i = 0; i < 500; ++i) {
    const std::vector<Vec3> grad = {{any(random), any(random), any(random)},
                                    {any(random), any(random), any(random)}};
    const std::vector<double> gamma = {positive(random), positive(random)},
                              first_empty = {0, positive(random)},
                              second_empty = {positive(random), 0};
    const TransportFace t(m, 0, any(random));
    EXPECT_GE(t.carried(first_empty, grad, gamma).into_a, -1e-9);
    EXPECT_GE(t.carried(second_empty, grad, gamma).into_b, -1e-9);
  }
}

TEST(TransportFace, IsExactForALinearQuantityThatIsLargeAgainstItsSlope) {
  const VolumeMesh mesh = structured_mesh(2, 1, 1, [](const Vec3& a) {
    return Vec3{a.x + 0.3 * a.y, a.y, a.z};
  });
  SoloCommunicator solo;
  const std::vector<double> distance(2, 1.0);
  const FlowMesh m = distribute(&mesh, &distance, solo);
  const Vec3 g{0.2, -0.1, 0.3};
  std::vector<double> q, gamma = {1, 1};
  for (const Vec3& x : m.centre) q.push_back(10 + dot(g, x));
  const auto diffusion = TransportFace(m, 0, 0.0).carried(q, {g, g}, gamma);
  EXPECT_NEAR(diffusion.into_a, dot(g, m.area[0]), 1e-12);
  EXPECT_NEAR(diffusion.into_b, -dot(g, m.area[0]), 1e-12);
}

}  // namespace
}  // namespace dunefield::test
