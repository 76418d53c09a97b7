// Sizes from the errors of a flow.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/run/adaptation.hpp>
#include <tests/run/small_run.hpp>

namespace dunefield::test {
namespace {

/// A box of air with a velocity of our own.
template <class Velocity>
Record made_up(const Velocity& velocity) {
  Record r;
  VolumeMesh m = structured_mesh(24, 4, 4, [](const Vec3& a) { return Vec3{6 * a.x, a.y, a.z}; });
  r.fields.u.resize(at(m.cells)), r.fields.p.assign(at(m.cells), 0);
  for (std::size_t c = 0; c < r.fields.u.size(); ++c) r.fields.u[c] = velocity(m.cell_centre[c]);
  r.reference.speed = 1;
  r.vehicle = {{0, 0, 0}, {6, 1, 1}};
  r.mesh = std::make_shared<const VolumeMesh>(std::move(m));
  return r;
}

TEST(SizesByError, AreSmallWhereTheFlowIsCurved) {
  const Record r = made_up([](const Vec3& x) { return Vec3{std::tanh(4 * (x.x - 3)), 0, 0}; });
  const std::vector<SizeField::Wish> sizes = sizes_by_error(r);
  double at_front = 1e300, away = 1e300;
  for (const SizeField::Wish& w : sizes) {
    EXPECT_NEAR(w.width, 0.25, 1e-9);
    double& least = std::abs(w.centre.x - 3) < 0.5 ? at_front : away;
    if (std::abs(w.centre.x - 3) < 0.5 || std::abs(w.centre.x - 3) > 2)
      least = std::min(least, w.size);
  }
  EXPECT_LT(at_front, 0.3 * away);
}

TEST(SizesByError, OfALinearFlowAreAllAlike) {
  const Record r = made_up([](const Vec3& x) { return Vec3{1 + 0.1 * x.x, -0.1 * x.y, 0}; });
  for (const SizeField::Wish& w : sizes_by_error(r))
    EXPECT_NEAR(w.size, std::pow(0.25 * 0.25 / 1e-6, 0.2), 1e-3 * w.size);
}

TEST(SizesByError, GrowAwayFromTheVehicle) {
  Record r = made_up([](const Vec3& x) { return Vec3{std::sin(6 * x.x), 0, 0}; });
  r.vehicle = {{0, 0, 0}, {1, 1, 1}};
  double near = 0, far = 0;
  int n = 0;
  for (const SizeField::Wish& w : sizes_by_error(r)) {
    if (w.centre.x < 1) near += w.size, ++n;
    if (w.centre.x > 5) far += w.size;
  }
  ASSERT_GT(n, 0);
  EXPECT_GT(far, 2 * near);
}

RunSetup adapted_setup() {
  RunSetup s = small_setup();
  s.recipe.surface_size = 0.06, s.recipe.smallest_size = 0.015;
  auto plain = std::make_shared<const RunSetup>(s);
  s.recipe.adapt = true;
  s.adaptation = Adaptation{std::make_shared<const RunSetup>(small_setup()), std::move(plain)};
  return s;
}

TEST(AdaptedSizes, GiveAsManyCellsAsTheRecipe) {
  const RunSetup s = adapted_setup();
  Record sketch = small_record();
  sketch.status = RunStatus::steady;
  MeshOptions o = s.mesh_options();
  o.field = adapted_sizes(s, sketch);
  const Surface& surface = s.vehicle.surface;
  const double plain = predict_cells(surface, s.tunnel_box(), s.adaptation->plain->mesh_options());
  EXPECT_NEAR(predict_cells(surface, s.tunnel_box(), o) / plain, 1, 0.1);
  EXPECT_DOUBLE_EQ(expected_cells(s), plain);
}

TEST(AdaptedSizes, NeedAFlowThatCanBeReliedOn) {
  Record sketch = small_record();
  sketch.status = RunStatus::not_converged;
  EXPECT_THROW(adapted_sizes(adapted_setup(), sketch), FlowError);
}

}  // namespace
}  // namespace dunefield::test
