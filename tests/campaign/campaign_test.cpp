// Campaign files, good and bad, and what is made of them.
#include <gtest/gtest.h>

#include <demo/garage.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/comparison.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class CampaignFile : public testing::Test {
 protected:
  CampaignFile() {
    write_stl_binary(folder_ / "brick.stl",
                     rounded_box("brick", Box{{-500, -200, 50}, {500, 200, 350}}, 30));
  }
  std::filesystem::path file(const std::string& text) {
    write_text(folder_ / "c.toml", text);
    return folder_ / "c.toml";
  }
  /// The message of what reading and preparing throws.
  std::string refusal(const std::string& text) {
    try {
      prepare(read_campaign(file(text)));
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  TemporaryFolder folder_;
  const std::string vehicle_ = "[vehicle]\nfiles = [\"brick.stl\"]\nunit = \"mm\"\n";
  const std::string runs_ = "[runs]\nspeeds = [\"90 km/h\"]\n";
};

TEST_F(CampaignFile, ShortestOneHasSensibleDefaults) {
  const CampaignSetup s = prepare(read_campaign(file(vehicle_ + runs_)));
  EXPECT_EQ(s.campaign.name, "c");
  EXPECT_EQ(s.variants.size(), 1u);
  EXPECT_DOUBLE_EQ(s.campaign.speeds.at(0), 25);
  EXPECT_NEAR(s.frame().reference_area, 0.12, 0.002);
  EXPECT_NEAR(bounds(s.variants[0].vehicle.surface).lo.z, 0.05, 1e-9)
      << "without wheels it keeps its clearance";
  EXPECT_LE(s.variants[0].blockage(), 0.015);
  EXPECT_FALSE(describe(s).empty());
}

TEST_F(CampaignFile, AFinerRecipeAsksForMeansKnownBetter) {
  const auto accuracy = [&](const std::string& more) {
    return prepare(read_campaign(file(vehicle_ + more + runs_))).variants[0].accuracy();
  };
  const AccuracyWanted scout = accuracy(""), standard = accuracy("[mesh]\nrecipe = \"standard\"\n");
  EXPECT_DOUBLE_EQ(scout.drag, 0.005);
  EXPECT_DOUBLE_EQ(standard.drag, 0.003);
  EXPECT_LT(standard.lift, scout.lift);
  EXPECT_DOUBLE_EQ(accuracy("[flow]\naccuracy = 0.002\n").drag, 0.002)
      << "what the file says goes first";
  EXPECT_DOUBLE_EQ(accuracy("[flow]\naccuracy = 0.01\n").lift, 0.02) << "twice that of drag";
  EXPECT_DOUBLE_EQ(accuracy("[flow]\naccuracy = 0.01\nlift_accuracy = 0.005\n").lift, 0.005);
  EXPECT_DOUBLE_EQ(accuracy("[flow]\ndifference_accuracy = 0.2\n").of_difference, 0.2);
  EXPECT_THROW(accuracy("[flow]\ndifference_accuracy = 1.5\n"), InputError);
}

TEST_F(CampaignFile, VehicleIsTurnedNoseToTheStream) {
  const CampaignSetup s = prepare(read_campaign(file(vehicle_ + "nose = \"+y\"\n" + runs_)));
  EXPECT_NEAR(bounds(s.variants[0].vehicle.surface).size().x, 0.4, 1e-6);
  EXPECT_NEAR(bounds(s.variants[0].vehicle.surface).size().y, 1.0, 1e-6);
  EXPECT_GT(signed_volume(s.variants[0].vehicle.surface), 0) << "turned, not mirrored";
}

TEST_F(CampaignFile, MistakesAreNamedWithLineAndAdvice) {
  const std::pair<std::string, std::string> cases[] = {
      {vehicle_ + "colour = 3\n" + runs_,
       "c.toml:4: unknown key 'colour' in [vehicle]; known here"},
      {vehicle_ + "[runs]\nspeeds = [\"90 kg\"]\n", "wrong unit"},
      {vehicle_ + "[runs]\nspeeds = [\"-90 km/h\"]\n", "above zero"},
      {vehicle_ + "[runs]\nspeeds = [90]\n", "not text in quotes; write [\"1.2 m/s\", ...]"},
      {vehicle_ + "[runs]\n", "names no speed"},
      {"[runs]\nspeeds = [\"90 km/h\"]\n", "'vehicle' is missing"},
      {"[vehicle]\nfiles = [\"brick.stl\"]\n" + runs_, "is 1000 m long; give the unit"},
      {"[vehicle]\nfiles = [\"none.stl\"]\n" + runs_, "no such file"},
      {"[vehicle]\nfiles = [\"no.stl\", \"none.stl\"]\n" + runs_,
       "none.stl: there are no such files"},
      {vehicle_ + "unit = \"m\"\n" + runs_, "c.toml:4"},
      {vehicle_ + runs_ + "[flow]\niterations = 0\n", "at least 1"},
      {vehicle_ + runs_ + "[flow]\nturbulence = \"les\"\n",
       "use one of sst, k-omega, k-epsilon, realizable-k-epsilon, spalart-allmaras, laminar"},
      {vehicle_ + runs_ + "[mesh]\nrecipe = \"finest\"\n",
       "use one of sketch, scout, standard, fine"},
      {vehicle_ + runs_ + "[certainty]\nlattices = 0\n", "at least 1"},
      {vehicle_ + runs_ + "[certainty]\nlattices = 1.5\n", "no whole number"},
      {vehicle_ + runs_ + "[flow]\naccuracy = 0\n", "at least"},
      {vehicle_ + runs_ + "[mesh.parts]\nwing = \"2 mm\"\n", "no variant has"},
      {vehicle_ + runs_ + "[tunnel]\nwidth = 0.1\n", "outside the tunnel"},
      {vehicle_ + runs_ + "[air]\ndensity = \"0 kg/m3\"\n", "above zero"},
      {vehicle_ + runs_ + "[wheels]\nparts = [\"front\"]\n", "no part named 'front'"},
      {vehicle_ + runs_ + "[[variant]]\nname = \"a\"\n[[variant]]\nname = \"a\"\n", "stands twice"},
      {vehicle_ + runs_ + "[[variant]]\nname = \"a\"\nremove = [\"door\"]\n", "does not exist"},
      {vehicle_ + "nose = \"+z\"\n" + runs_, "along the nose"},
      {"[vehicle\n", "c.toml:1"},
  };
  for (const auto& [text, expected] : cases)
    EXPECT_NE(refusal(text).find(expected), std::string::npos) << text << "\n" << refusal(text);
}

TEST_F(CampaignFile, SlantsThatSteadyModelsMissAreWarnedOf) {
  std::vector<std::vector<Vec3>> rings;
  for (const double y : {-200.0, 200.0})
    rings.push_back({{-500, y, 50}, {500, y, 50}, {500, y, 250}, {300, y, 350}, {-500, y, 350}});
  write_stl_binary(folder_ / "slant.stl", loft("block", rings));
  const CampaignSetup setup = prepare(read_campaign(
      file(vehicle_ + runs_ + "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = \"cut\"\n" +
           "remove = [\"brick\"]\nadd = [\"slant.stl\"]\n")));
  const auto warns = [](const Finding& f) {
    return f.level == Finding::Level::warning && f.text.find("variant 'cut'") == 0 &&
           f.text.find("slants by about 27 degrees") != std::string::npos;
  };
  EXPECT_EQ(std::count_if(setup.findings.begin(), setup.findings.end(), warns), 1);
}

TEST_F(CampaignFile, ManySpeedsAreToldByTheirRange) {
  std::string speeds = "[runs]\nspeeds = [";
  for (int i = 0; i < 20; ++i) speeds += "\"" + std::to_string(40 + 5 * i) + " km/h\", ";
  const std::vector<std::string> words =
      describe(prepare(read_campaign(file(vehicle_ + speeds + "]\n"))));
  EXPECT_NE(words.back().find("20 speeds from 40 to 135 km/h"), std::string::npos) << words.back();
}

TEST_F(CampaignFile, UnlikelySettingsAreWarnedOf) {
  const auto warned = [&](const std::string& more, const std::string& expected) {
    for (const Finding& f : prepare(read_campaign(file(vehicle_ + runs_ + more))).findings)
      if (f.level == Finding::Level::warning && f.text.find(expected) != std::string::npos)
        return true;
    return false;
  };
  EXPECT_TRUE(warned("[tunnel]\nblockage = 0.05\n", "blockage"));
  EXPECT_TRUE(warned("[tunnel]\nroad_speed = \"80 km/h\"\n", "road moves at"));
  EXPECT_TRUE(warned("[tunnel]\nroad = \"fixed\"\n", "road is fixed"));
  EXPECT_TRUE(warned("[reference]\nfrontal_area = \"1 m2\"\n", "far from the frontal area"));
  EXPECT_TRUE(warned("[air]\nkinematic_viscosity = \"15 m2/s\"\n", "not that of air"));
  EXPECT_TRUE(warned("[air]\ndensity = \"1000 kg/m3\"\n", "not that of air"));
  EXPECT_FALSE(warned("", "blockage"));
  EXPECT_FALSE(warned("", "not that of air"));
  write_stl_binary(folder_ / "wedge.stl", [] {
    Surface s = rounded_box("cab", Box{{-500, -200, 0}, {-200, 200, 400}}, 0);
    append(s, rounded_box("bed", Box{{-250, -200, 0}, {500, 200, 150}}, 0));
    return s;
  }());
  write_text(folder_ / "w.toml", "[vehicle]\nfiles = [\"wedge.stl\"]\nunit = \"mm\"\n" + runs_);
  bool behind = false;
  for (const Finding& f : prepare(read_campaign(folder_ / "w.toml")).findings)
    behind = behind || f.text.find("direction of the nose") != std::string::npos;
  EXPECT_TRUE(behind);
}

TEST_F(CampaignFile, ALiftedVehicleIsPutOnItsTyresUnlessItsRoadIsGiven) {
  const auto van = garage::write_demo("marram", folder_ / "van");
  std::string text = read_text(van);
  Surface s = read_stl(folder_ / "van" / "marram.stl");
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.part_names[at(s.part_of[t])].starts_with("wheel"))
      for (const int p : s.triangles[t]) s.points[at(p)].z += 1e-9;
  EXPECT_NO_THROW(prepare(read_campaign(van)));
  translate(s, {0, 0, 0.05});
  write_stl_ascii(folder_ / "van" / "marram.stl", s);
  EXPECT_NEAR(prepare(read_campaign(van)).variants[0].vehicle.wheels[0].centre.z, 0.335, 1e-3);
  text.replace(text.find("[wheels]"), 0, "road = \"0 mm\"\n");
  write_text(van, text);
  EXPECT_THROW(prepare(read_campaign(van)), InputError) << "the tread would miss the road's speed";
}

TEST(Examples, TheSpheroidHoversAndItsWakeIsMeasured) {
  const CampaignSetup setup = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/spheroid.toml"));
  EXPECT_NEAR(setup.frame().reference_area, 3.14159 * 0.25 * 0.25, 5e-4);
  EXPECT_NEAR(bounds(setup.variants[0].vehicle.surface).lo.z, 2.75, 0.01);
  ASSERT_EQ(setup.campaign.readings.planes.size(), 1u);
  EXPECT_EQ(setup.campaign.readings.planes[0].normal.x, 1);
}

TEST(Examples, TheBluffBodyIsMadeOfShapesAlone) {
  const CampaignSetup setup = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/bluff-body.toml"));
  ASSERT_EQ(setup.variants.size(), 4u);
  EXPECT_NEAR(setup.frame().reference_area, 0.115, 0.001) << "with stilts, as published";
  EXPECT_NEAR(bounds(setup.variants[0].vehicle.surface).size().x, 1.044, 1e-9);
  for (const RunSetup& v : setup.variants) {
    EXPECT_EQ(v.vehicle.surface.part_names.size(), 3u) << v.vehicle.name;
    EXPECT_TRUE(v.vehicle.wheels.empty());
    const double cells = predict_cells(v.vehicle.surface, v.tunnel_box(), v.mesh_options());
    EXPECT_GT(cells, 100'000);
    EXPECT_LT(cells, 400'000) << "a scout run takes minutes";
  }
}

TEST(Examples, FastAirHasItsMachNumbersAndTemperature) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/fast-air.toml"));
  ASSERT_EQ(s.campaign.speeds.size(), 2u);
  EXPECT_NEAR(s.campaign.speeds[1], 0.5 * 340.3, 0.1);
  const RunConditions& c = s.variants[0].conditions;
  ASSERT_TRUE(c.fast);
  EXPECT_NEAR(c.fast->temperature, 288.15, 1e-9);
  EXPECT_NEAR(c.air.density, 1.225, 1e-3) << "of temperature and pressure";
  EXPECT_NEAR(c.air.kinematic_viscosity, 1.46e-5, 1e-7);
}

TEST(Examples, TheColumnRunsInTimeAndItsSlotBlows) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/in-time.toml"));
  ASSERT_EQ(s.variants.size(), 2u);
  EXPECT_TRUE(s.variants[0].openings.empty());
  ASSERT_EQ(s.variants[1].openings.size(), 1u);
  EXPECT_NEAR(s.variants[1].meshed_flow(s.variants[1].openings[0]), -0.2 / 1.2, 1e-12);
  EXPECT_NEAR(s.variants[0].time_step(), 4e-3, 1e-12);
}

TEST(Examples, TheProfileIsTurnedInOneFrame) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/aerofoil.toml"));
  ASSERT_EQ(s.matrix().size(), 4u);
  for (const MatrixRun& r : s.matrix()) {
    const RunSetup run = s.run(r);
    EXPECT_NEAR(run.reference().frontal_area, 1, 1e-3);
    EXPECT_EQ(run.tunnel_box().lo.x, s.variants[0].tunnel_box().lo.x);
  }
}

TEST(Examples, TheWingComesNearerToTheRoad) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/wing-near-road.toml"));
  double before = 1;
  for (const MatrixRun& r : s.matrix()) {
    const double clearance = bounds(s.run(r).vehicle.surface).lo.z;
    EXPECT_LT(clearance, before);
    before = clearance;
  }
  EXPECT_NEAR(before, 0.03, 1e-9);
}

TEST(Examples, TheWingInFreeAirIsReferredToItsOwnArea) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/wing.toml"));
  const RunSetup& wing = s.variants.front();
  EXPECT_NEAR(wing.reference().frontal_area, 6, 1e-9);
  EXPECT_NEAR(bounds(wing.vehicle.surface).size().y, 6, 1e-6);
  EXPECT_GT(wing.mesh_options().leading_halvings, 0);
}

TEST(Examples, TwoVansShareATunnelThatHoldsTheWidestGap) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/two-vans.toml"));
  EXPECT_EQ(s.matrix().size(), 4u) << "one alone has no gap";
  EXPECT_GT(s.frame().bounds.size().x, 2 * 5 + 10);
  const RunSetup& both = s.variants[0];
  EXPECT_NEAR(predict_cells(both.vehicle.surface, both.tunnel_box(), both.mesh_options()), 160'000,
              32'000)
      << "sketched as finely as one of them alone";
}

TEST(Examples, EachVariantMayBringAVehicleOfItsOwn) {
  const CampaignSetup s = prepare(read_campaign(DUNEFIELD_SOURCE "/examples/bodies.toml"));
  ASSERT_EQ(s.variants.size(), 3u);
  for (const RunSetup& v : s.variants) {
    EXPECT_NEAR(v.vehicle.frontal_area, 1, 0.01) << v.vehicle.name;
    EXPECT_NEAR(bounds(v.vehicle.surface).lo.z, 4.5, 1e-3) << v.vehicle.name;
    EXPECT_EQ(v.mesh_options().surface_size, s.variants.front().mesh_options().surface_size);
  }
}

TEST(Examples, AVehicleNeedsFilesOrShapes) {
  try {
    const TemporaryFolder folder;
    write_text(folder / "c.toml", "[vehicle]\nnose = \"-x\"\n[runs]\nspeeds = [\"10 m/s\"]\n");
    read_campaign(folder / "c.toml");
    FAIL() << "nothing to compute";
  } catch (const InputError& e) {
    EXPECT_NE(std::string(e.what()).find("names no surface file"), std::string::npos) << e.what();
  }
}

}  // namespace
}  // namespace dunefield::test
