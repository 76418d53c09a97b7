// The table of turbulence models, row by row; and what the curvature correction is there for.
#include <gtest/gtest.h>

#include <numbers>
#include <set>

#include <dunefield/base/error.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

using std::numbers::pi;

TEST(TurbulenceModels, HaveWordsOfTheirOwn) {
  std::set<std::string> words, descriptions;
  std::set<TurbulenceModel> models;
  for (const TurbulenceTraits& row : turbulence_models) {
    words.insert(row.word), descriptions.insert(row.description), models.insert(row.model);
    EXPECT_EQ(&traits_of(row.model), &row);
  }
  EXPECT_EQ(words.size(), turbulence_models.size());
  EXPECT_EQ(descriptions.size(), turbulence_models.size());
  EXPECT_EQ(models.size(), turbulence_models.size());
}

TEST(TurbulenceModels, EachRunsWithItsOwnFields) {
  const VolumeMesh mesh = structured_mesh(12, 6, 2, [](const Vec3& a) {
    return Vec3{2 * a.x, 0.2 * a.y, 0.1 * a.z};
  });
  for (const TurbulenceTraits& row : turbulence_models) {
    FlowCase c = laminar(1.5e-5, {stream({20, 0, 0}), outflow(), wall(), slip(), slip(), slip()});
    c.options.turbulence = row.model;
    c.reference_speed = 20, c.initial_velocity = {20, 0, 0};
    const Solution s = solve(mesh, c, 30, 0);
    EXPECT_EQ(s.fields.k.empty(),
              row.fields == TurbulenceFields::none || row.fields == TurbulenceFields::nu_tilde)
        << row.word;
    EXPECT_EQ(s.fields.omega.empty(), row.fields != TurbulenceFields::k_omega) << row.word;
    EXPECT_EQ(s.fields.epsilon.empty(), row.fields != TurbulenceFields::k_epsilon) << row.word;
    for (const Vec3& u : s.fields.u) ASSERT_LT(norm(u), 40) << row.word;
  }
}

TEST(TurbulenceModels, FastAirIsRefusedWhereItDoesNotGo) {
  const VolumeMesh mesh = structured_mesh(2, 2, 2, [](const Vec3& a) { return a; });
  for (const TurbulenceTraits& row : turbulence_models) {
    FlowCase c = laminar(1.5e-5, {stream({90, 0, 0}), outflow(), slip(), slip(), slip(), slip()});
    c.options.turbulence = row.model, c.fast = FastAir{};
    c.reference_speed = 90, c.initial_velocity = {90, 0, 0};
    if (row.fast_air)
      EXPECT_NO_THROW(solve(mesh, c, 1, 0)) << row.word;
    else
      EXPECT_THROW(solve(mesh, c, 1, 0), InputError) << row.word;
  }
}

/// Friction on the concave wall over that on the convex one of a channel bent to a ring, whose mean
/// radius is 79 half-widths (as in Moser and Moin 1987), driven along it; Re_tau 500.
double concave_over_convex(TurbulenceModel model) {
  constexpr double inner = 78, re_tau = 500;
  constexpr int around = 60, rows = 40;
  const auto height = [](double a) {  // finer towards both walls
    return 1 + std::tanh(2.2 * (2 * a - 1)) / std::tanh(2.2);
  };
  const VolumeMesh mesh = structured_mesh(
      around, rows, 1,
      [&](const Vec3& a) {
        const double r = inner + height(a.y), angle = -2 * pi * a.x;
        return Vec3{r * std::cos(angle), r * std::sin(angle), a.z};
      },
      true);
  const auto along = [](const Vec3& x) { return unit(Vec3{x.y, -x.x, 0}); };
  FlowCase c = laminar(1 / re_tau, {wall(), wall(), slip(), slip()});
  c.options.turbulence = model, c.options.courant = 10;
  c.reference_speed = 18;
  c.options.body_force = [=](const Vec3& x) { return along(x); };
  const std::vector<bool> walls = {true, true, false, false};
  const auto distance = wall_distances(mesh, walls);
  SoloCommunicator solo;
  const FlowMesh share = distribute(&mesh, &distance, solo);
  FlowSolver solver(share, c, solo);
  Fields start = solver.gather();
  for (std::size_t i = 0; i < start.u.size(); ++i) start.u[i] = along(mesh.cell_centre[i]) * 18;
  for (double& k : start.k) k = 2;
  for (double& omega : start.omega) omega = 30;
  solver.start_from(start);
  for (int i = 0; i < 1500; ++i) solver.iterate();
  double friction[2] = {0, 0};
  for (std::size_t side : {0u, 1u}) {
    double area = 0;
    for (int i = share.boundaries[side].first;
         i < share.boundaries[side].first + share.boundaries[side].count; ++i) {
      const auto& b = share.boundary_faces[static_cast<std::size_t>(i)];
      friction[side] +=
          dot(solver.state().loads[static_cast<std::size_t>(i)].friction, along(b.centre));
      area += b.size;
    }
    friction[side] /= area;
  }
  return friction[1] / friction[0];
}

TEST(TurbulenceModels, TheCurvatureCorrectionFeelsABend) {
  // A bend of this strength takes friction from the convex wall and gives it to the concave one.
  // The plain model hardly sees it.
  const double plain = concave_over_convex(TurbulenceModel::sst),
               corrected = concave_over_convex(TurbulenceModel::sst_curvature);
  RecordProperty("plain", std::to_string(plain));
  RecordProperty("corrected", std::to_string(corrected));
  EXPECT_GT(corrected, plain + 0.1);
  EXPECT_LT(corrected, 2);
}

}  // namespace
}  // namespace dunefield::test
