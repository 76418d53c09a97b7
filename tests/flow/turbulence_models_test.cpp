// The table of turbulence models, row by row.
#include <gtest/gtest.h>

#include <set>

#include <dunefield/base/error.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

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

}  // namespace
}  // namespace dunefield::test
