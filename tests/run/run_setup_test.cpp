// A run without a campaign file: its set-up, what is refused, and what it depends on.
#include <gtest/gtest.h>

#include <algorithm>
#include <functional>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/run/hashes.hpp>
#include <tests/run/small_run.hpp>

namespace dunefield::test {
namespace {

std::string refusal(const std::function<void(RunSetup&)>& spoil) {
  RunSetup s = small_setup();
  spoil(s);
  try {
    s.check();
  } catch (const InputError& e) {
    return e.what();
  }
  return "";
}

TEST(RunSetup, TellsEveryFaultAtOnceALineEach) {
  const std::string all = refusal([](RunSetup& s) {
    s.conditions.speed = 0;
    s.conditions.yaw = 0.1;
    s.conditions.air.density = -1;
    s.recipe.part_size["wing"] = 0.01;
    s.limits.iterations = 0;
    s.limits.drag_accuracy = 0;
  });
  for (const char* fault :
       {"the speed is not above zero", "half model has no side wind", "density and viscosity",
        "part 'wing'", "fewer than one iteration", "accuracy is not above zero"})
    EXPECT_NE(all.find(fault), std::string::npos) << fault << "\n" << all;
  EXPECT_EQ(std::count(all.begin(), all.end(), '\n'), 5) << all;
  EXPECT_TRUE(refusal([](RunSetup&) {}).empty());
}

TEST(RunSetup, RefusesWhatCannotBeRun) {
  EXPECT_NE(refusal([](RunSetup& s) { s.vehicle.surface = {}; }).find("no facets"),
            std::string::npos);
  EXPECT_NE(refusal([](RunSetup& s) { s.recipe.name = "finest"; }).find("is no recipe"),
            std::string::npos);
  EXPECT_NE(refusal([](RunSetup& s) { s.tunnel.width = 0.1; }).find("outside the tunnel"),
            std::string::npos);
  EXPECT_NE(refusal([](RunSetup& s) { scale(s.vehicle.surface, 1000); }).find("give the unit"),
            std::string::npos);
  EXPECT_NE(refusal([](RunSetup& s) {
              s.vehicle.wheels.push_back({"fin", {0.4, 0, 0.4}, {0, 1, 0}, 0.1, 0.04, 0});
            }).find("tread would miss"),
            std::string::npos);
  EXPECT_THROW(recipe("finest"), InputError);
}

TEST(RunSetup, AnUnlikelyOneIsWarnedOf) {
  RunSetup s = small_setup();
  s.conditions.road_speed = 25;
  bool said = false;
  for (const Finding& f : s.check())
    said = said || f.text.find("road moves at") != std::string::npos;
  EXPECT_TRUE(said);
  EXPECT_FALSE(s.in_words().empty());
}

TEST(RunSetup, AWantedNumberOfCellsGivesTheSizesOnce) {
  RunSetup s = small_setup();
  s.recipe.surface_size.reset(), s.recipe.smallest_size.reset();
  s.recipe.target_cells = 80'000;
  s.check();
  EXPECT_FALSE(s.recipe.target_cells.has_value());
  ASSERT_TRUE(s.recipe.surface_size.has_value());
  EXPECT_NEAR(predict_cells(s.vehicle.surface, s.tunnel_box(), s.mesh_options()) / 80'000, 1, 0.1);
}

enum class Changes { nothing, readings, flow, mesh };

/// What a change of the set-up has to make again.
Changes changes(const std::function<void(RunSetup&)>& change) {
  RunSetup s = small_setup();
  const RunHashes before = hashes_of(s);
  change(s);
  const RunHashes after = hashes_of(s);
  if (after.mesh != before.mesh) return Changes::mesh;
  if (after.flow != before.flow) return Changes::flow;
  return after.readings != before.readings ? Changes::readings : Changes::nothing;
}

TEST(Hashes, ATapOrRakeIsReadAgainAndNothingElse) {
  EXPECT_EQ(changes([](RunSetup& s) {
              s.readings.taps.push_back({"t", {0, 0, 1}});
            }),
            Changes::readings);
  EXPECT_EQ(changes([](RunSetup& s) {
              s.readings.planes.push_back({"p", {1, 0, 0}, {1, 0, 0}});
            }),
            Changes::readings);
}

TEST(Hashes, LimitsCountInNone) {
  EXPECT_EQ(changes([](RunSetup& s) { s.limits.iterations = 99; }), Changes::nothing);
  EXPECT_EQ(changes([](RunSetup& s) { s.limits.drag_accuracy = 0.1; }), Changes::nothing);
  RunSetup a = small_setup(), b = a;
  b.limits.lift_accuracy = 0.1;
  EXPECT_NE(limits_json(a), limits_json(b));
  RunSetup c = a, d = a;
  c.limits.difference_accuracy = d.limits.difference_accuracy = 0.2;
  EXPECT_NE(limits_json(a), limits_json(c));
  d.limits.baseline_drag = 0.3;
  EXPECT_EQ(limits_json(c), limits_json(d)) << "what it turns out to be asks for nothing new";
}

TEST(Hashes, ConditionsAndModelsRunTheFlowAgain) {
  EXPECT_EQ(changes([](RunSetup& s) { s.conditions.speed = 21; }), Changes::flow);
  EXPECT_EQ(changes([](RunSetup& s) { s.conditions.wheels_turn = false; }), Changes::flow);
  EXPECT_EQ(changes([](RunSetup& s) { s.conditions.roughness["fin"] = 1e-3; }), Changes::flow);
  EXPECT_EQ(changes([](RunSetup& s) { s.flow.momentum_sweeps = 6; }), Changes::flow);
  EXPECT_EQ(changes([](RunSetup& s) { s.flow.turbulence = TurbulenceModel::laminar; }),
            Changes::flow);
}

TEST(Hashes, ShapeTunnelAndEverySettingOfTheMeshMeshAgain) {
  EXPECT_EQ(changes([](RunSetup& s) { s.vehicle.surface.points[0].x += 1e-9; }), Changes::mesh);
  EXPECT_EQ(changes([](RunSetup& s) { s.vehicle.surface.part_names[0] = "other"; }), Changes::mesh);
  EXPECT_EQ(changes([](RunSetup& s) { s.tunnel.behind = 4; }), Changes::mesh);
  EXPECT_EQ(changes([](RunSetup& s) { s.recipe.lattice_shift.x = 0.5; }), Changes::mesh);
  EXPECT_EQ(changes([](RunSetup& s) { s.recipe.layers.growth = 1.5; }), Changes::mesh);
  EXPECT_EQ(changes([](RunSetup& s) {
              s.recipe.boxes.push_back({"b", Box{}, 0.01});
            }),
            Changes::mesh);
}

}  // namespace
}  // namespace dunefield::test
