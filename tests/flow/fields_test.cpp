// The registry of fields: what follows from an entry.
#include <gtest/gtest.h>

#include <set>
#include <string>

#include <dunefield/flow/fields.hpp>

namespace dunefield::test {
namespace {

/// Names of the fields that are not empty.
std::set<std::string> names_in(const Fields& f) {
  std::set<std::string> names;
  for_each_field([&](const auto& field) {
    if (!(f.*field.values).empty()) names.insert(field.name);
  });
  return names;
}

TEST(FieldRegistry, NamesAreTheirOwnAndEveryFieldHasAUnit) {
  std::set<std::string> names;
  int count = 0;
  for_each_field([&](const auto& field) {
    ++count;
    names.insert(field.name);
    EXPECT_FALSE(std::string(field.unit).empty()) << field.name;
  });
  EXPECT_EQ(static_cast<int>(names.size()), count);
}

TEST(FieldRegistry, AModelHasItsOwnFieldsAndNoOthers) {
  const std::set<std::string> flow = {"velocity", "pressure over density"};
  const auto with = [&](std::set<std::string> more) {
    more.insert(flow.begin(), flow.end());
    return more;
  };
  EXPECT_EQ(names_in(fields_at_rest(TurbulenceModel::laminar, 3)), flow);
  EXPECT_EQ(names_in(fields_at_rest(TurbulenceModel::sst, 3)),
            with({"turbulence energy", "omega", "eddy viscosity"}));
  EXPECT_EQ(names_in(fields_at_rest(TurbulenceModel::k_epsilon, 3)),
            with({"turbulence energy", "epsilon", "eddy viscosity"}));
  EXPECT_EQ(names_in(fields_at_rest(TurbulenceModel::spalart_allmaras, 3)),
            with({"nu tilde", "eddy viscosity"}));
  for (const TurbulenceTraits& row : turbulence_models)
    for_each_field([&](const auto& field) {
      const Fields f = fields_at_rest(row.model, 5);
      EXPECT_EQ((f.*field.values).size(), field.owned_by(row.model) ? 5u : 0u) << field.name;
    });
}

TEST(Fields, ScaleWithSpeedAsTheEquationsDo) {
  Fields f{{{1, 0, 0}}, {2}, {3}, {4}, {7}, {6}, {5}, {}, {}, {}};
  scale_speed(f, 2);
  EXPECT_EQ(f.u[0].x, 2);
  EXPECT_EQ(f.p[0], 8);
  EXPECT_EQ(f.k[0], 12);
  EXPECT_EQ(f.omega[0], 8);
  EXPECT_EQ(f.epsilon[0], 56);
  EXPECT_EQ(f.nu_tilde[0], 12);
  EXPECT_EQ(f.nu_t[0], 10);
  // The same eddies turn over as often per crossing: epsilon = C_mu k omega at any speed.
  EXPECT_DOUBLE_EQ(f.epsilon[0] / (f.k[0] * f.omega[0]), 7.0 / (3 * 4));
}

TEST(Fields, OfAnotherModelAreTurnedIntoThoseWanted) {
  Fields omega;
  omega.u = {{1, 0, 0}}, omega.p = {0}, omega.k = {2}, omega.omega = {5};
  Fields both = omega;
  give_turbulence_to(both, TurbulenceModel::k_epsilon);
  ASSERT_EQ(both.epsilon.size(), 1u);
  EXPECT_NEAR(both.epsilon[0], 0.09 * 2 * 5, 1e-12);
  both.omega.clear();
  give_turbulence_to(both, TurbulenceModel::sst);
  EXPECT_NEAR(both.omega.at(0), 5, 1e-12) << "there and back";
}

TEST(Fields, ThatWereNeverSolvedAreNoStart) {
  Fields f;
  f.k = {0, 0}, f.omega = {1, 1};
  give_turbulence_to(f, TurbulenceModel::sst);
  EXPECT_TRUE(f.k.empty());
  EXPECT_TRUE(f.omega.empty());
}

}  // namespace
}  // namespace dunefield::test
