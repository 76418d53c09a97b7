// Scenes on their way to a page.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <dunefield/look/lightened_sheet.hpp>
#include <dunefield/look/scene_pack.hpp>

namespace dunefield::test {
namespace {

using Json = nlohmann::json;

/// A square of n x n quads, bent like a saddle, both sides of y = 0.
Sheet saddle(int n) {
  Sheet s;
  s.name = "saddle <b>", s.quantity = "height";
  for (int j = 0; j <= n; ++j)
    for (int i = 0; i <= n; ++i) {
      const double x = 2.0 * i / n - 1, y = 2.0 * j / n - 1;
      s.points.push_back({x, y, 0.2 * (x * x - y * y)});
      s.values.push_back(s.points.back().z);
    }
  for (int j = 0; j < n; ++j)
    for (int i = 0; i < n; ++i) {
      const int a = j * (n + 1) + i, b = a + n + 1;
      s.triangles.push_back({a, a + 1, b}), s.triangles.push_back({a + 1, b + 1, b});
    }
  return s;
}

Scene scene_of(const Sheet& sheet) {
  Scene scene;
  scene.sheets = {sheet};
  scene.frame = {{-1, -1, -0.2}, {1, 1, 0.2}};
  scene.scales[sheet.quantity] = {Palette::dune, -0.2, 0.2, sheet.quantity + ", m"};
  return scene;
}

TEST(ScenePack, SheetsThatDifferInValuesAloneAreOne) {
  ScenePack pack;
  pack.begin({"a run", "v", "25 m/s", false});
  Sheet other = saddle(8);
  other.quantity = "slope";
  pack.add(scene_of(saddle(8)), "vehicle");
  pack.add(scene_of(other), "vehicle");
  pack.begin({"another", "v", "25 m/s", false});
  pack.add(scene_of(saddle(8)), "vehicle");
  const Json j = Json::parse(pack.json());
  ASSERT_EQ(j["items"].size(), 2u) << "one a run";
  EXPECT_EQ(j["items"][0]["values"].size(), 2u);
  EXPECT_EQ(j["items"][0]["points"], j["items"][1]["points"]) << "what is shared is there once";
  EXPECT_EQ(j["arrays"].size(), 3u) << "places, corners, and the values of both, which are alike";
  EXPECT_EQ(j["scales"]["slope"]["title"], "slope, m");
}

TEST(ScenePack, AppendedRunsAreAsIfAddedInTurn) {
  const auto add_run = [](ScenePack& pack, const std::string& name, int n, const char* quantity) {
    pack.begin({name, "v", "25 m/s", name == "half"});
    Sheet sheet = saddle(n);
    sheet.quantity = quantity;
    pack.add(scene_of(saddle(8)), "vehicle");
    pack.add(scene_of(sheet), "slice");
    pack.note("of " + name);
  };
  ScenePack all, one, other;
  add_run(all, "first", 40, "slope"), add_run(all, "half", 8, "bend"),
      add_run(all, "last", 40, "z");
  add_run(one, "first", 40, "slope");
  add_run(other, "half", 8, "bend"), add_run(other, "last", 40, "z");
  ScenePack joined;
  joined.append(std::move(one)), joined.append(std::move(other)), joined.append(ScenePack());
  EXPECT_EQ(joined.json(), all.json());
  EXPECT_EQ(joined.size(), all.size());
}

TEST(ScenePack, OfHalfModelsOneSideIsSent) {
  ScenePack pack;
  pack.begin({"half", "v", "", true});
  pack.add(scene_of(saddle(10)), "vehicle");
  const Json j = Json::parse(pack.json());
  EXPECT_TRUE(j["items"][0]["mirrored"].get<bool>());
  EXPECT_EQ(j["arrays"][j["items"][0]["corners"].get<std::size_t>()]["count"], 3 * 100);
}

TEST(ScenePack, LargeSheetsHaveALighterSelf) {
  ScenePack pack;
  pack.begin({"a run", "v", "", false});
  pack.add(scene_of(saddle(60)), "vehicle");
  const Json item = Json::parse(pack.json())["items"][0];
  ASSERT_TRUE(item.contains("light"));
}

TEST(LightenedSheet, KeepsItsShapeAndItsValues) {
  const Sheet whole = saddle(60), light = lightened(whole, 600);
  EXPECT_LE(light.triangles.size(), 600u);
  EXPECT_GT(light.triangles.size(), 300u);
  ASSERT_EQ(light.points.size(), light.values.size());
  for (std::size_t i = 0; i < light.points.size(); ++i) {
    EXPECT_EQ(light.points[i].z, light.values[i]) << "points are some of the sheet's own";
    EXPECT_LE(std::abs(light.points[i].x), 1);
  }
  EXPECT_EQ(lightened(saddle(4), 600).triangles.size(), 32u) << "few are left alone";
}

}  // namespace
}  // namespace dunefield::test
