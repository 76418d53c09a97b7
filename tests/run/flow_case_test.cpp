// The conditions that a set-up puts on the boundaries of its mesh, and the set-up in words.
#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <tests/run/small_run.hpp>

namespace dunefield::test {
namespace {

const std::vector<Boundary> boundaries = {{"inflow", BoundaryKind::inflow},
                                          {"outflow", BoundaryKind::outflow},
                                          {"left wall", BoundaryKind::side},
                                          {"right wall", BoundaryKind::side},
                                          {"road", BoundaryKind::road},
                                          {"roof", BoundaryKind::roof},
                                          {"centre", BoundaryKind::centre_plane},
                                          {"wheel", BoundaryKind::part},
                                          {"body", BoundaryKind::part}};
enum : std::size_t { inflow, outflow, left, right, road, roof, centre, wheel, body };

RunSetup with_wheel() {
  RunSetup s = small_setup();
  s.tunnel.half = false;
  s.vehicle.wheels.push_back({"wheel", {-0.3, 0.2, 0.1}, {0, 1, 0}, 0.1, 0.05, 0});
  return s;
}

std::vector<BoundaryCondition> conditions(const RunSetup& s) {
  return flow_case(s, boundaries).conditions;
}

TEST(FlowCase, TheStreamComesFromAheadOverARoadThatMovesWithIt) {
  const auto c = conditions(with_wheel());
  EXPECT_EQ(c[inflow].kind, ConditionKind::stream);
  EXPECT_EQ(c[inflow].velocity.x, 20);
  EXPECT_EQ(c[outflow].kind, ConditionKind::outflow);
  for (const std::size_t i : {left, right, roof, centre})
    EXPECT_EQ(c[i].kind, ConditionKind::slip) << boundaries[i].name;
  EXPECT_EQ(c[road].kind, ConditionKind::wall);
  EXPECT_EQ(c[road].velocity.x, 20);
}

TEST(FlowCase, WheelsTurnWithTheRoadAndTheBodyStands) {
  RunSetup s = with_wheel();
  const auto c = conditions(s);
  EXPECT_NEAR(norm(c[wheel].spin), 20 / 0.1, 1e-9);
  EXPECT_NEAR(c[wheel].velocity_at({-0.3, 0.2, 0}).x, 20, 1e-9) << "the tread follows the road";
  EXPECT_EQ(norm(c[body].spin), 0);
  s.conditions.wheels_turn = false;
  EXPECT_EQ(norm(conditions(s)[wheel].spin), 0);
  s.conditions.wheels_turn = true, s.conditions.rolling_road = false;
  EXPECT_EQ(norm(conditions(s)[wheel].spin), 0) << "on a road that is fixed";
  EXPECT_EQ(conditions(s)[road].velocity.x, 0);
}

TEST(FlowCase, ARoadSpeedOfItsOwnIsTheRoadsAndTheWheels) {
  RunSetup s = with_wheel();
  s.conditions.road_speed = 15;
  const auto c = conditions(s);
  EXPECT_EQ(c[inflow].velocity.x, 20);
  EXPECT_EQ(c[road].velocity.x, 15);
  EXPECT_NEAR(norm(c[wheel].spin), 150, 1e-9);
}

TEST(FlowCase, AtYawTheWindwardSideIsAnInflow) {
  RunSetup s = with_wheel();
  s.conditions.yaw = 0.1;
  auto c = conditions(s);
  EXPECT_EQ(c[left].kind, ConditionKind::stream) << "air from the left";
  EXPECT_EQ(c[right].kind, ConditionKind::outflow);
  EXPECT_NEAR(c[inflow].velocity.y, 20 * std::sin(0.1), 1e-12);
  EXPECT_NEAR(c[road].velocity.y, 20 * std::sin(0.1), 1e-12) << "the vehicle is turned";
  s.conditions.crosswind = true;
  c = conditions(s);
  EXPECT_EQ(c[road].velocity.y, 0) << "the road still comes from ahead";
  EXPECT_NEAR(c[road].velocity.x, 20 * std::cos(0.1), 1e-12);
  s.conditions.yaw = -0.1;
  EXPECT_EQ(conditions(s)[right].kind, ConditionKind::stream);
}

TEST(FlowCase, RoughPartsAndARoughRoadAreRough) {
  RunSetup s = with_wheel();
  s.conditions.roughness = {{"body", 1e-3}, {"road", 2e-3}};
  const auto c = conditions(s);
  EXPECT_EQ(c[body].roughness, 1e-3);
  EXPECT_EQ(c[road].roughness, 2e-3);
  EXPECT_EQ(c[wheel].roughness, 0);
  EXPECT_EQ(c[roof].roughness, 0);
}

/// True if a line of the set-up in words has the text.
bool told(const RunSetup& s, const std::string& text) {
  for (const std::string& line : s.in_words())
    if (line.find(text) != std::string::npos) return true;
  return false;
}

TEST(InWords, WheelsTurnOnlyWithARoadThatMoves) {
  RunSetup s = with_wheel();
  EXPECT_TRUE(told(s, "wheels     1 turning with the road"));
  s.conditions.wheels_turn = false;
  EXPECT_TRUE(told(s, "wheels     1 standing still"));
  s.conditions.wheels_turn = true, s.conditions.rolling_road = false;
  EXPECT_TRUE(told(s, "wheels     1 standing still")) << "the road is fixed";
  s.conditions.rolling_road = true, s.conditions.road_speed = 0;
  EXPECT_TRUE(told(s, "wheels     1 standing still")) << "the road has no speed";
  s.conditions.road_speed = 15;
  EXPECT_TRUE(told(s, "turning"));
  s.vehicle.wheels.clear();
  EXPECT_TRUE(told(s, "wheels     none"));
  EXPECT_FALSE(told(s, "turning"));
}

TEST(InWords, AVehicleInTheAirIsToldWithItsRoad) {
  RunSetup s = small_setup();
  EXPECT_TRUE(told(s, "wheels     none"));
  EXPECT_TRUE(told(s, "one half computed and mirrored"));
  s.tunnel.half = false;
  EXPECT_FALSE(told(s, "one half"));
}

TEST(InWords, TellWhatTheUserMustSee) {
  RunSetup s = with_wheel();
  EXPECT_TRUE(told(s, "1.000 m long"));
  EXPECT_TRUE(told(s, "computed frontal area"));
  EXPECT_TRUE(told(s, "rolling with the stream"));
  EXPECT_TRUE(told(s, "1 turning with the road"));
  EXPECT_TRUE(told(s, "recipe scout"));
  EXPECT_TRUE(told(s, "k-omega SST"));
  EXPECT_FALSE(told(s, "yaw"));
  EXPECT_FALSE(told(s, "mirrored"));
  s.tunnel.half = true;
  EXPECT_TRUE(told(s, "mirrored"));
  s.conditions.yaw = 0.0872664626;
  EXPECT_TRUE(told(s, "+5.00 deg, air from the left"));
  s.conditions.roughness["road"] = 1e-3;
  EXPECT_TRUE(told(s, "1 mm of sand on 'road'"));
  s.conditions.rolling_road = false;
  EXPECT_TRUE(told(s, "road       fixed"));
  s.recipe.layers.count = 0;
  EXPECT_FALSE(told(s, "layers"));
  s.mesh_file = "from-elsewhere.vtu";
  EXPECT_TRUE(told(s, "from-elsewhere.vtu"));
}

}  // namespace
}  // namespace dunefield::test
