// Shapes without CAD, what variants do to their parts, placement, wheels in numbers.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/loops.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

constexpr double degree = 3.14159265358979 / 180;

/// A brick on four wheels, in millimetres, with a lid that can be lost.
class Changes : public testing::Test {
 protected:
  Changes() {
    Surface s = rounded_box("body", Box{{-1000, -400, 150}, {1000, 400, 800}}, 50);
    for (const double x : {-600.0, 600.0})
      for (const double y : {-300.0, 300.0})
        append(s, cylinder("wheel " + std::to_string(int(x)) + std::to_string(int(y)),
                           {x, y - 60, 148}, {x, y + 60, 148}, 150, 64));
    append(s, rounded_box("fin", Box{{700, -10, 780}, {900, 10, 950}}, 0));
    write_stl_ascii(folder_ / "brick.stl", s);
    write_stl_ascii(folder_ / "other.stl",
                    rounded_box("whatever", Box{{700, -30, 780}, {900, 30, 900}}, 0));
  }
  CampaignSetup setup(const std::string& more, const std::string& vehicle = "",
                      const std::string& runs = "speeds = [\"90 km/h\"]\n") {
    write_text(folder_ / "c.toml", "[vehicle]\nfiles = [\"brick.stl\"]\nunit = \"mm\"\n" + vehicle +
                                       "[runs]\n" + runs + more);
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  std::string refusal(const std::string& more, const std::string& vehicle = "",
                      const std::string& runs = "speeds = [\"90 km/h\"]\n") {
    try {
      setup(more, vehicle, runs);
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  }
  /// The part of that name in the only variant.
  Surface part(const CampaignSetup& s, const std::string& name) {
    const Surface& v = s.variants.at(0).vehicle.surface;
    std::vector<bool> keep;
    for (const auto& n : v.part_names) keep.push_back(n == name);
    return select_parts(v, keep);
  }
  TemporaryFolder folder_;
  const std::string variant_ = "[[variant]]\nname = \"a\"\n";
};

TEST_F(Changes, PartsAreMovedTurnedScaledMirroredAndReplaced) {
  const auto change = [&](const std::string& what) {
    return part(setup(variant_ + "[[variant.change]]\npart = \"fin\"\n" + what), "fin");
  };
  EXPECT_NEAR(bounds(change("move = [\"-100 mm\", \"0 m\", \"0 m\"]\n")).lo.x, 0.6, 1e-9);
  const Surface turned = change("turn = \"90 deg\"\naxis = [0, 0, 1]\n");
  EXPECT_NEAR(bounds(turned).size().y, 0.2, 1e-9);
  EXPECT_NEAR(bounds(change("scale = 2\n")).size().x, 0.4, 1e-9);
  EXPECT_NEAR(bounds(change("move = [\"0 m\", \"0.2 m\", \"0 m\"]\n[[variant.change]]\npart = "
                            "\"fin\"\nmirror = \"copy\"\n"))
                  .lo.y,
              -0.21, 1e-9);
  EXPECT_NEAR(bounds(change("replace = \"other.stl\"\n")).size().y, 0.06, 1e-9);
  EXPECT_NE(refusal(variant_ + "[[variant.change]]\npart = \"tail\"\nscale = 2\n")
                .find("no part named 'tail'"),
            std::string::npos);
  EXPECT_NE(refusal(variant_ + "[[variant.change]]\npart = \"fin\"\nscale = 2\nmirror = \"copy\"\n")
                .find("2 changes at once"),
            std::string::npos);
}

TEST_F(Changes, ShapesAreStretchedTaperedBentTwistedAndDrawnByPoints) {
  const auto change = [&](const std::string& what) {
    return part(setup(variant_ + "[[variant.change]]\npart = \"body\"\n" + what), "body");
  };
  EXPECT_NEAR(bounds(change("stretch = \"100 mm\"\n")).hi.x, 1.1, 1e-9);
  EXPECT_NEAR(bounds(change("stretch = \"100 mm\"\nalong = \"-x\"\n")).lo.x, -1.1, 1e-9);
  EXPECT_NEAR(bounds(change("taper = 1.2\n")).size().y, 0.96, 0.01);
  EXPECT_GT(bounds(change("bend = \"-5 deg\"\n")).hi.z, 0.9);
  EXPECT_GT(bounds(change("twist = \"5 deg\"\n")).hi.z, 0.81);
  const std::string upper_rear =
      "box = [[\"-1 m\", \"-1 m\", \"0 m\"], [\"1 m\", \"1 m\", \"0.8 m\"]]\npoints = [3, 2, 2]\n";
  std::string moved;
  for (const char* point : {"[2, 0, 1]", "[2, 1, 1]"})
    moved += std::string("[[variant.change.control]]\npoint = ") + point +
             "\nmove = [\"0 m\", \"0 m\", \"0.1 m\"]\n";
  EXPECT_NEAR(bounds(change(upper_rear + moved)).hi.z, 0.9, 0.01);
  EXPECT_NE(refusal(variant_ + "[[variant.change]]\n" + upper_rear +
                    "[[variant.change.control]]\npoint = [3, 0, 1]\nmove = [\"0 m\", \"0 m\", "
                    "\"0.1 m\"]\n"),
            "");
}

TEST_F(Changes, OpeningsAreOpenedAndClosed) {
  const CampaignSetup open = setup(variant_ +
                                   "[[variant.change]]\nopen = [[\"-1.1 m\", \"-0.3 m\", \"0.3 "
                                   "m\"], [\"-0.95 m\", \"0.3 m\", \"0.6 m\"]]\n");
  EXPECT_FALSE(open_loops(open.variants[0].vehicle.surface).empty());
  const CampaignSetup closed = setup(
      variant_ +
      "[[variant.change]]\nopen = [[\"-1.1 m\", \"-0.3 m\", \"0.3 m\"], [\"-0.95 m\", \"0.3 m\", "
      "\"0.6 m\"]]\n"
      "[[variant.change]]\nclose = [\"-1 m\", \"0 m\", \"0.5 m\"]\nname = \"grille cover\"\n");
  EXPECT_TRUE(open_loops(closed.variants[0].vehicle.surface).empty());
  EXPECT_GE(closed.variants[0].vehicle.surface.find_part("grille cover"), 0);
}

TEST_F(Changes, ShapesOfEveryKindAreClosedAndHaveTheirVolume) {
  const std::string shapes =
      "[[shape]]\nname = \"plate\"\nkind = \"plate\"\nline = [[\"0 m\", \"0 m\", \"1 m\"], [\"1 "
      "m\", \"0 m\", \"1 m\"], [\"1.5 m\", \"0 m\", \"1.5 m\"]]\nextrusion = [\"0 m\", \"0.5 m\", "
      "\"0 m\"]\nthickness = \"10 mm\"\n"
      "[[shape]]\nname = \"box\"\nkind = \"box\"\nfrom = [\"0 m\", \"0 m\", \"1 m\"]\nto = [\"1 "
      "m\", \"0.1 m\", \"1.1 m\"]\nboth_sides = true\n"
      "[[shape]]\nname = \"cylinder\"\nkind = \"cylinder\"\nfrom = [\"0 m\", \"0 m\", \"1 m\"]\nto "
      "= [\"1 m\", \"0 m\", \"1 m\"]\nradius = \"0.1 m\"\n"
      "[[shape]]\nname = \"loft\"\nkind = \"loft\"\n[[shape.section]]\npoints = [[\"0 m\", \"0 "
      "m\", \"1 m\"], [\"0 m\", \"1 m\", \"1 m\"], [\"0 m\", \"0 m\", \"2 m\"]]\n"
      "[[shape.section]]\npoints = [[\"1 m\", \"0 m\", \"1 m\"], [\"1 m\", \"1 m\", \"1 m\"], [\"1 "
      "m\", \"0 m\", \"2 m\"]]\n"
      "[[shape]]\nname = \"revolution\"\nkind = \"revolution\"\ncentre = [\"0 m\", \"0 m\", \"1 "
      "m\"]\naround = 200\n[[shape.profile]]\nalong = \"0 m\"\nradius = \"0 "
      "m\"\n[[shape.profile]]\nalong = \"1 m\"\nradius = \"0.3 m\"\n"
      "[[shape]]\nname = \"rider\"\nkind = \"capsules\"\n[[shape.capsule]]\nfrom = [\"0 m\", \"0 "
      "m\", \"1 m\"]\nto = [\"1 m\", \"0 m\", \"1 m\"]\nradius = \"0.2 m\"\n"
      "[[shape]]\nname = \"wing\"\nkind = \"wing\"\nsection = \"0012\"\nleading_edge = [\"0 m\", "
      "\"0 m\", \"1 m\"]\nspan = \"1 m\"\nchord = \"0.5 m\"\n";
  const double pi = 3.14159265358979;
  const std::pair<std::string, double> volumes[] = {{"plate", 0.5 * 0.01 * (1 + std::sqrt(0.5))},
                                                    {"box", 0.02},
                                                    {"cylinder", pi * 0.01},
                                                    {"loft", 0.5},
                                                    {"revolution", pi * 0.03},
                                                    {"rider", pi * 0.04 + 4.0 / 3 * pi * 0.008},
                                                    {"wing", 0.0822 * 0.25}};
  for (const auto& [name, expected] : volumes) {
    const Surface s = part(setup(variant_ + "shapes = [\"" + name + "\"]\n" + shapes), name);
    EXPECT_TRUE(open_loops(s).empty()) << name;
    EXPECT_NEAR(signed_volume(s) / expected, 1, 0.03) << name;
  }
  EXPECT_NE(refusal(variant_ + "shapes = [\"none\"]\n").find("which no [[shape]] describes"),
            std::string::npos);
}

TEST_F(Changes, WingsTakeFileSectionsAndRefuseCrossingOnes) {
  write_text(folder_ / "good.dat",
             "wedge\n1 0.001\n0.5 0.06\n0.2 0.05\n0 0\n0.2 -0.05\n0.5 -0.06\n1 -0.001\n");
  write_text(folder_ / "bad.dat",
             "knot\n1 0.001\n0.5 0.06\n0.2 -0.05\n0 0\n0.2 0.05\n0.5 -0.06\n1 -0.001\n");
  const auto wing = [&](const std::string& file) {
    return variant_ +
           "shapes = [\"w\"]\n[[shape]]\nname = \"w\"\nkind = \"wing\"\nsection_file = \"" + file +
           "\"\nleading_edge = [\"1.1 m\", \"0 m\", \"1 m\"]\nspan = \"1 m\"\nchord = \"0.4 "
           "m\"\nincidence = \"10 deg\"\nend_plates = { length = \"0.5 m\", height = \"0.3 m\", "
           "above = \"0.1 m\" }\n";
  };
  const Surface s = part(setup(wing("good.dat")), "w");
  EXPECT_NEAR(bounds(s).size().y, 1.005, 1e-6);
  EXPECT_NE(refusal(wing("bad.dat")).find("sides of the section cross"), std::string::npos);
  EXPECT_NE(refusal(wing("none.dat")).find("no such file"), std::string::npos);
}

TEST_F(Changes, RideHeightMovesTheBodyAndNotTheWheels) {
  const CampaignSetup plain = setup(""),
                      low = setup("[ride]\nfront = \"-20 mm\"\nrear = \"10 mm\"\n");
  ASSERT_EQ(low.variants[0].vehicle.wheels.size(), 4u);
  for (std::size_t i = 0; i < 4; ++i)
    EXPECT_LT(
        norm(low.variants[0].vehicle.wheels[i].centre - plain.variants[0].vehicle.wheels[i].centre),
        1e-12);
  EXPECT_NEAR(bounds(part(low, "wheel -600-300")).lo.z, bounds(part(plain, "wheel -600-300")).lo.z,
              1e-12);
  const Box before = bounds(part(plain, "body")), after = bounds(part(low, "body"));
  EXPECT_NEAR(before.lo.z - after.lo.z, 0.020 + 0.4 * 0.03 / 1.2, 0.004)
      << "the nose goes down beyond the axle";
  EXPECT_NE(refusal("[wheels]\nfind = false\n[ride]\npitch = \"1 deg\"\n").find("two axles"),
            std::string::npos);
}

TEST_F(Changes, ScaledModelsGetTheSpeedOfTheirReynoldsNumber) {
  const CampaignSetup s = setup("", "scale = 0.5\n", "reynolds = [1e6]\n");
  ASSERT_EQ(s.campaign.speeds.size(), 1u);
  EXPECT_NEAR(s.frame().reference_length, 0.6, 1e-6);
  EXPECT_NEAR(s.campaign.speeds[0], 1e6 * s.campaign.conditions.air.kinematic_viscosity / 0.6,
              1e-9);
}

TEST_F(Changes, ARoadThatMissesTheSpeedOfAReynoldsNumberIsWarnedOf) {
  const auto warned = [&](const std::string& road_speed) {
    for (const Finding& f : setup("[tunnel]\nroad_speed = \"" + road_speed + "\"\n",
                                  "scale = 0.5\n", "reynolds = [1e6]\n")
                                .findings)
      if (f.text.find("road moves at") != std::string::npos) return true;
    return false;
  };
  EXPECT_TRUE(warned("20 m/s"));
  EXPECT_FALSE(warned("25 m/s"));
}

TEST_F(Changes, WheelsMergedIntoTheBodyAreAskedForAndTakenInNumbers) {
  Surface s = rounded_box("all", Box{{-1000, -400, 60}, {1000, 400, 800}}, 50);
  append(s, cylinder("all", {-600, 300, 148}, {-600, 380, 148}, 150, 48));
  // welded to the body
  s.triangles.push_back({0, 1, static_cast<int>(s.points.size()) - 1}), s.part_of.push_back(0);
  write_stl_ascii(folder_ / "brick.stl", s);
  const CampaignSetup asked = setup("");
  EXPECT_TRUE(asked.variants[0].vehicle.wheels.empty());
  bool said = false;
  for (const Finding& f : asked.findings)
    said = said || f.text.find("no wheels were found") != std::string::npos;
  EXPECT_TRUE(said);
  const std::string wheel =
      "[[wheel]]\nname = \"front right\"\ncentre = [\"-600 mm\", \"340 mm\", \"148 mm\"]\nradius = "
      "\"150 mm\"\nwidth = \"81 mm\"\n";
  const CampaignSetup given = setup(wheel);
  ASSERT_EQ(given.variants[0].vehicle.wheels.size(), 1u);
  EXPECT_GT(bounds(part(given, "front right")).size().x, 0.29);
  EXPECT_NE(refusal("[[wheel]]\nname = \"w\"\ncentre = [\"5 m\", \"0 m\", \"148 mm\"]\nradius = "
                    "\"150 mm\"\nwidth = \"80 mm\"\n")
                .find("no facets lie in the cylinder"),
            std::string::npos);
  EXPECT_NE(refusal("[wheels]\nparts = [\"all\", \"all\"]\n").find("twice"), std::string::npos);
}

TEST_F(Changes, LayersTakeOneHeightAndRefuseContradictions) {
  const CampaignSetup total = setup("[mesh.layers]\ncount = 4\ntotal = \"20 mm\"\ngrowth = 1.5\n");
  EXPECT_NEAR(total.variants[0].mesh_options().layers.first_height *
                  total.variants[0].mesh_options().layers.sum(4),
              0.020, 1e-12);
  EXPECT_NEAR(total.variants[0].mesh_options().layers.first_height,
              0.020 / (1 + 1.5 + 2.25 + 3.375), 1e-12);
  const double coarse = setup("[mesh.layers]\ncount = 4\ny_plus = 60\n")
                            .variants[0]
                            .mesh_options()
                            .layers.first_height;
  const double fine = setup("[mesh.layers]\ncount = 4\ny_plus = 30\n")
                          .variants[0]
                          .mesh_options()
                          .layers.first_height;
  EXPECT_NEAR(coarse / fine, 2, 1e-9);
  EXPECT_GT(fine, 0.0005);
  EXPECT_LT(fine, 0.002) << "about a millimetre at 90 km/h";
  EXPECT_NE(refusal("[mesh.layers]\ncount = 0\ny_plus = 30\n").find("a height is given"),
            std::string::npos);
  const LayerOptions recipe = setup("[mesh.layers]\ncount = 4\n").variants[0].mesh_options().layers;
  EXPECT_EQ(recipe.count, 4);
  EXPECT_GT(recipe.total_leaves, 0) << "the recipe says how thick they are";
  EXPECT_EQ(setup("[mesh.layers]\ncount = 0\n").variants[0].mesh_options().layers.count, 0);
  EXPECT_NE(refusal("[mesh.layers]\ncount = 4\ny_plus = 30\ntotal = \"20 mm\"\n")
                .find("just one of them"),
            std::string::npos);
  EXPECT_NE(refusal("[mesh.layers]\ncount = 4\ny_plus = 30\ngrowth = 5\n").find("over 2"),
            std::string::npos);
}

TEST_F(Changes, MeshSizesAreTheRecipesUnlessTheFileSaysOtherwise) {
  const MeshOptions recipe = setup("").variants[0].mesh_options();
  EXPECT_NEAR(recipe.smallest_size, 0.5 * recipe.surface_size, 1e-12) << "scout refines once";
  EXPECT_EQ(recipe.layers.count, 5);
  EXPECT_GT(recipe.cells_per_turn, 0);
  const MeshOptions given =
      setup(
          "[mesh]\nsurface_size = \"50 mm\"\nsmallest_size = \"10 mm\"\nedge_size = \"20 "
          "mm\"\ncells_per_turn = 30\ngap_cells = 5\nthin_cells = 2\n")
          .variants[0]
          .mesh_options();
  EXPECT_NEAR(given.surface_size, 0.05, 1e-12);
  EXPECT_NEAR(given.smallest_size, 0.01, 1e-12);
  EXPECT_EQ(recipe.slot_halvings, 1);
  EXPECT_EQ(given.slot_halvings, 0) << "a smallest size that is given is the smallest";
  EXPECT_NEAR(given.edge_size, 0.02, 1e-12);
  EXPECT_EQ(given.cells_per_turn, 30);
  EXPECT_EQ(given.gap_cells, 5);
  EXPECT_EQ(given.thin_cells, 2);
  EXPECT_NEAR(setup("[mesh]\nsurface_size = \"50 mm\"\n").variants[0].mesh_options().edge_size,
              0.025, 1e-12)
      << "the others follow in the same ratio";
}

TEST_F(Changes, ATargetCountPicksTheSizes) {
  for (const double target : {60'000.0, 200'000.0}) {
    const CampaignSetup s =
        setup("[mesh]\ncells = " + std::to_string(static_cast<int>(target)) + "\n");
    EXPECT_NEAR(predict_cells(s.variants[0].vehicle.surface, s.variants[0].tunnel_box(),
                              s.variants[0].mesh_options()) /
                    target,
                1, 0.1);
  }
  EXPECT_NE(refusal("[mesh]\ncells = 100000\nsurface_size = \"20 mm\"\n").find("contradict"),
            std::string::npos);
  EXPECT_NE(refusal("[mesh]\ncells = 5\n").find("under 1000"), std::string::npos);
}

TEST_F(Changes, YawMakesTheSidesInflowAndOutflowAndIsRefusedForHalves) {
  const CampaignSetup s = setup("", "", "speeds = [\"90 km/h\"]\nyaw = \"10 deg\"\n");
  const std::vector<Boundary> boundaries = {{"left wall", BoundaryKind::side},
                                            {"right wall", BoundaryKind::side},
                                            {"road", BoundaryKind::road}};
  const FlowCase c = flow_case(s.run({0, 25}), boundaries);
  EXPECT_EQ(c.conditions[0].kind, ConditionKind::stream);
  EXPECT_EQ(c.conditions[1].kind, ConditionKind::outflow);
  EXPECT_NEAR(c.conditions[2].velocity.y, 25 * std::sin(10 * degree), 1e-9);
  EXPECT_NE(refusal("[tunnel]\nhalf = true\n", "", "speeds = [\"90 km/h\"]\nyaw = \"10 deg\"\n")
                .find("half model has no side wind"),
            std::string::npos);
}

}  // namespace
}  // namespace dunefield::test
