// What a run leaves behind, and what is recognised as done.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/campaign/search_runner.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/run/saved_state.hpp>
#include <tests/campaign/run_folder.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

TEST_F(RunFolder, HoldsHistoryBalanceAndSetUp) {
  ASSERT_EQ(run().runs.size(), 1u);
  const std::string history = read_text(result("history.csv"));
  EXPECT_EQ(std::count(history.begin(), history.end(), '\n'), 13);
  EXPECT_EQ(history.rfind("iteration,momentum_residual,mass_imbalance,CD,CL", 0), 0u);
  const auto record = nlohmann::json::parse(read_text(result("record.json")));
  EXPECT_EQ(record["run"]["speed_m_s"], 10);
  EXPECT_EQ(record["setup"]["flow"]["options"]["turbulence"], "sst");
  EXPECT_EQ(record["setup"]["mesh"]["options"]["plinth_cells"], 0.7);
  const auto balance = nlohmann::json::parse(read_text(result("record.json")));
  EXPECT_EQ(balance["status"], "not converged");
  EXPECT_EQ(balance["why"], "12 iterations are too few to judge");
  EXPECT_GT(balance["coefficients"]["CD"]["mean"], 0.1);
  EXPECT_NEAR(balance["power_W"].get<double>(), balance["forces_N"]["drag"].get<double>() * 10,
              1e-9);
  const auto& wake = balance["checks"]["wake_plane"];
  EXPECT_GT(wake["x_m"], 0.3);
  EXPECT_NEAR(wake["drag_N"].get<double>() / wake["drag_from_tunnel_momentum_N"].get<double>(), 1,
              0.5)
      << "after 12 iterations";
  // Blockage is told, and not in the result.
  const auto& blockage = balance["blockage"];
  EXPECT_NEAR(blockage["share"].get<double>(), 0.03, 1e-3);
  EXPECT_NEAR(blockage["CD_in_free_air"].get<double>() * std::pow(1 + 0.03 / 4, 2),
              balance["coefficients"]["CD"]["mean"].get<double>(), 1e-3);
}

TEST_F(RunFolder, AVariantFarFromTheBaselineEndsSooner) {
  write_stl_ascii(folder_ / "disc.stl",
                  cylinder("disc", {-0.025, 0, 0.7}, {0.025, 0, 0.7}, 0.45, 48));
  write_stl_ascii(folder_ / "small.stl",
                  cylinder("small", {-0.025, 0, 0.7}, {0.025, 0, 0.7}, 0.3, 48));
  replace("iterations = 12\n", "iterations = 500\naccuracy = 0.003\nlift_accuracy = 1\n");
  replace("files = [\"ball.stl\"]", "files = [\"disc.stl\"]");
  write_text(folder_ / "c.toml", read_text(folder_ / "c.toml") +
                                     "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = "
                                     "\"small\"\nremove = [\"disc\"]\nadd = [\"small.stl\"]\n");
  const Figures alone = run().runs.at(1);
  replace("accuracy = 0.003\n", "accuracy = 0.003\ndifference_accuracy = 0.2\n");
  std::filesystem::remove_all(folder_ / "runs");
  const CampaignResult beside = run();
  ASSERT_EQ(beside.runs.size(), 2u);
  EXPECT_TRUE(beside.runs[0].settled()) << "the baseline is known by itself";
  EXPECT_EQ(beside.runs[1].status, RunStatus::fluctuating) << beside.runs[1].why;
  EXPECT_LT(beside.runs[1].iterations, alone.iterations);
  EXPECT_GT(beside.runs[1].cd.half_interval, 0.003 * beside.runs[1].cd.mean);
  EXPECT_LT(beside.runs[1].cd.half_interval,
            0.2 * std::abs(beside.runs[1].cd.mean - beside.runs[0].cd.mean));
  EXPECT_EQ(left_to_do(folder_ / "runs/small_36-kmh",
                       prepare(read_campaign(folder_ / "c.toml")).run({1, 10, 0, 0})),
            ToDo::nothing)
      << "done, though the baseline's drag is not asked for again";
}

TEST_F(RunFolder, HoldsWhatPlanesRead) {
  write_text(folder_ / "c.toml",
             read_text(folder_ / "c.toml") +
                 "[[plane]]\nname = \"behind, all\"\ncentre = [\"1 m\", \"0 m\", \"0 m\"]\n"
                 "[[plane]]\nname = \"window\"\ncentre = [\"1 m\", \"0 m\", \"0.5 m\"]\nwidth = "
                 "\"0.5 m\"\nheight = \"0.4 m\"\n");
  run();
  const std::string planes = read_text(result("planes.csv"));
  EXPECT_EQ(std::count(planes.begin(), planes.end(), '\n'), 3);
  EXPECT_NE(planes.find("\"behind, all\","), std::string::npos) << planes;
  EXPECT_NE(planes.find("window,0.2,"), std::string::npos) << planes;
}

TEST_F(RunFolder, HoldsWhatTapsAndRakesRead) {
  const std::string text = read_text(folder_ / "c.toml");
  write_text(folder_ / "c.toml",
             text +
                 "[[tap]]\nname = \"nose, left\"\nat = [\"-0.3 m\", \"0 m\", \"0.7 m\"]\n"
                 "[[rake]]\nname = \"wake\"\nfrom = [\"1 m\", \"0 m\", \"0.2 m\"]\nto = [\"1 m\", "
                 "\"0 m\", \"1.2 m\"]\npoints = 5\n");
  run();
  const std::string taps = read_text(result("taps.csv")), rakes = read_text(result("rakes.csv"));
  EXPECT_EQ(std::count(taps.begin(), taps.end(), '\n'), 2);
  EXPECT_NE(taps.find("\"nose, left\",\"ball"), std::string::npos) << taps;
  EXPECT_EQ(std::count(rakes.begin(), rakes.end(), '\n'), 6);
  // Another tap: what is measured has changed, the flow goes on from where it was.
  write_text(folder_ / "c.toml",
             text + "[[tap]]\nname = \"tail\"\nat = [\"0.3 m\", \"0 m\", \"0.7 m\"]\n");
  run();
  EXPECT_NE(read_text(result("taps.csv")).find("tail"), std::string::npos);
  EXPECT_FALSE(std::filesystem::exists(result("rakes.csv")));
  for (const char* wrong :
       {"[[tap]]\nname = \"t\"\n", "[[tap]]\nat = [\"0 m\", \"0 m\", \"1 m\"]\n",
        "[[rake]]\nname = \"r\"\nfrom = [\"0 m\", \"0 m\", \"1 m\"]\n"}) {
    write_text(folder_ / "c.toml", text + wrong);
    EXPECT_THROW(read_campaign(folder_ / "c.toml"), InputError) << wrong;
  }
}

TEST_F(RunFolder, AnInterruptedOrDamagedRunIsDoneAgain) {
  EXPECT_TRUE(run(5).stopped);
  EXPECT_EQ(read_figures(folder_ / "runs/as-it-is_36-kmh").iterations, 5);
  EXPECT_EQ(run().runs.at(0).iterations, 12) << "what was stopped is not taken as done";
  write_text(result("record.json"), "");
  EXPECT_EQ(run().runs.at(0).iterations, 12) << "nor what is damaged";
}

TEST_F(RunFolder, WhatIsReadOtherwiseIsMadeAgainFromTheRecord) {
  run();
  const std::string history = read_text(result("history.csv")),
                    arrays = read_text(result("record.arrays"));
  const std::string text = read_text(folder_ / "c.toml");
  write_text(folder_ / "c.toml",
             text + "[[tap]]\nname = \"tail\"\nat = [\"0.3 m\", \"0 m\", \"0.7 m\"]\n");
  ASSERT_EQ(run().runs.size(), 1u);
  EXPECT_TRUE(kept_.rows.empty()) << "not an iteration";
  EXPECT_EQ(kept_.meshes, 0);
  EXPECT_NE(read_text(result("taps.csv")).find("tail"), std::string::npos);
  EXPECT_EQ(read_text(result("history.csv")), history);
  EXPECT_EQ(read_text(result("record.arrays")), arrays);
  run();
  EXPECT_TRUE(kept_.rows.empty()) << "and then it is done";
  // Rakes of 4 x 5 and of 5 x 4 points look alike, but are not.
  const auto rake = [&](int points, int rows) {
    write_text(folder_ / "c.toml",
               text +
                   "[[rake]]\nname = \"r\"\nfrom = [\"1 m\", \"0 m\", \"0.2 m\"]\nto = [\"1 m\", "
                   "\"0 m\", \"1 m\"]\nfar_side = [\"1 m\", \"0.5 m\", \"0.2 m\"]\npoints = " +
                   std::to_string(points) + "\nrows = " + std::to_string(rows) + "\n");
    run();
    EXPECT_TRUE(kept_.rows.empty());
    return read_text(result("rakes.csv"));
  };
  EXPECT_NE(rake(4, 5), rake(5, 4));
}

TEST_F(RunFolder, AVariantStartsFromTheOneBefore) {
  write_stl_ascii(folder_ / "ball.stl", sphere("ball", {0, 0, 0.7}, 0.3, 32));
  write_text(folder_ / "c.toml", read_text(folder_ / "c.toml") +
                                     "[[variant]]\nname = \"as it is\"\n"
                                     "[[variant]]\nname = \"moved\"\n[[variant.change]]\npart = "
                                     "\"ball\"\nmove = [\"5 mm\", \"0 m\", \"0 m\"]\n");
  const CampaignResult both = run();
  ASSERT_EQ(both.runs.size(), 2u) << (kept_.failures.empty() ? "" : kept_.failures.front());
  const auto told = [&](const char* text) {
    return read_text(folder_ / "runs/moved_36-kmh/record.json").find(text) != std::string::npos;
  };
  EXPECT_TRUE(told("starts from the result of 'as it is' at 36 km/h"));
  // The same bits if the campaign was interrupted between the two.
  const std::string history = read_text(folder_ / "runs/moved_36-kmh/history.csv");
  std::filesystem::remove_all(folder_ / "runs/moved_36-kmh");
  run();
  EXPECT_EQ(read_text(folder_ / "runs/moved_36-kmh/history.csv"), history);
  // And if it was stopped halfway: it goes on from its own state then, and does not say otherwise.
  std::filesystem::remove_all(folder_ / "runs/moved_36-kmh");
  EXPECT_TRUE(run(5).stopped);
  run();
  EXPECT_EQ(read_text(folder_ / "runs/moved_36-kmh/history.csv"), history);
  EXPECT_TRUE(told("goes on from the state saved at iteration 5"));
  EXPECT_FALSE(told("starts from the result"));
  // And from the result of another campaign, on a finer mesh.
  std::string finer = read_text(folder_ / "c.toml");
  finer.replace(finer.find("[flow]"), 6, "[flow]\nstart = \"runs/moved_36-kmh\"")
      .replace(finer.find("surface_size"), 0, "cells_per_turn = 40\n");
  write_text(folder_ / "finer.toml", finer);
  const CampaignSetup other = prepare(read_campaign(folder_ / "finer.toml"));
  Kept nobody;
  ASSERT_EQ(run_campaign(other, folder_ / "finer", {}, nobody).runs.size(), 2u);
  EXPECT_NE(read_text(folder_ / "finer/as-it-is_36-kmh/record.json")
                .find("starts from the result of 'moved' at 36 km/h"),
            std::string::npos);
  std::filesystem::rename(folder_ / "runs/moved_36-kmh", folder_ / "runs/gone");
  EXPECT_THROW(read_campaign(folder_ / "finer.toml"), InputError);
  // From the stream, where that is wanted.
  std::string text = read_text(folder_ / "c.toml");
  write_text(folder_ / "c.toml",
             text.replace(text.find("[flow]"), 6, "[flow]\nstart = \"stream\""));
  run();
  EXPECT_FALSE(told("starts from"));
  EXPECT_NE(read_text(folder_ / "runs/moved_36-kmh/history.csv"), history);
}

TEST_F(RunFolder, ADifferentVehicleUnderTheSameNameIsRunAnew) {
  const double before = run().runs.at(0).drag;
  write_stl_ascii(folder_ / "ball.stl", sphere("ball", {0, 0, 0.7}, 0.25, 32));
  EXPECT_LT(run().runs.at(0).drag, 0.9 * before);
}

TEST_F(RunFolder, AVehicleThatCannotBeMeshedDoesNotEndTheOthers) {
  // The second variant fills the inflow.
  write_stl_ascii(folder_ / "block.stl", rounded_box("block", Box{{-9, -9, -9}, {9, 9, 9}}, 0));
  const std::string text = read_text(folder_ / "c.toml");
  write_text(folder_ / "c.toml",
             text + "[[variant]]\nname = \"first\"\n[[variant]]\nname = \"third\"\n");
  CampaignSetup setup = prepare(read_campaign(folder_ / "c.toml"));
  RunSetup bad = setup.variants.front();
  bad.vehicle.name = "second";
  append(bad.vehicle.surface, read_stl(folder_ / "block.stl"));
  setup.variants.insert(setup.variants.begin() + 1, bad);
  const CampaignResult r = run_campaign(setup, folder_ / "runs", {1, nullptr}, kept_);
  EXPECT_EQ(r.failures, 1);
  EXPECT_EQ(kept_.failures.size(), 1u);
  ASSERT_EQ(r.runs.size(), 2u);
  EXPECT_EQ(r.runs[1].run.variant, "third");
}

TEST_F(RunFolder, NothingIsLeftHalfWrittenWhereItCannotBeWritten) {
  write_text(folder_ / "runs", "a file where the folder should be");
  EXPECT_THROW(run(), OutputError);
  EXPECT_EQ(read_text(folder_ / "runs"), "a file where the folder should be");
}

TEST_F(RunFolder, AStoppedRunGoesOnToTheSameBits) {
  ASSERT_EQ(run().runs.size(), 1u);
  const std::string history = read_text(result("history.csv")),
                    fields = read_text(result("record.arrays"));
  std::filesystem::remove_all(folder_ / "runs");
  EXPECT_TRUE(run(5).stopped);
  EXPECT_TRUE(std::filesystem::exists(folder_ / "runs/.as-it-is_36-kmh.state"));
  ASSERT_EQ(run().runs.size(), 1u);
  EXPECT_EQ(kept_.rows.size(), 7u) << "only what was missing";
  EXPECT_EQ(kept_.meshes, 0) << "on the mesh that is there";
  EXPECT_EQ(read_text(result("history.csv")), history);
  EXPECT_EQ(read_text(result("record.arrays")), fields);
}

TEST_F(RunFolder, OtherLimitsGoOnWhereTheEarlierRunEnded) {
  ASSERT_EQ(run().runs.size(), 1u);
  replace("iterations = 12", "iterations = 15");
  ASSERT_EQ(run().runs.size(), 1u);
  EXPECT_EQ(kept_.rows, (std::vector<int>{13, 14, 15}));
  EXPECT_EQ(kept_.meshes, 0);
  replace("iterations = 15", "iterations = 15\naccuracy = 0.02");
  EXPECT_EQ(run().runs.at(0).iterations, 15);
  EXPECT_TRUE(kept_.rows.empty()) << "judged again, with nothing to go on for";
  // Other schemes start from the field, with a history of their own.
  replace("iterations = 15", "iterations = 4\ncourant = 5");
  EXPECT_EQ(run().runs.at(0).iterations, 4);
  EXPECT_NE(read_text(result("record.json")).find("starts from the field saved at iteration 15"),
            std::string::npos);
}

TEST_F(RunFolder, EachVariantIsRunOnTheSameLattices) {
  replace("[runs]", "[certainty]\nlattices = 2\n[runs]");
  write_text(folder_ / "c.toml",
             read_text(folder_ / "c.toml") +
                 "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = "
                 "\"raised\"\nride = { front = \"20 mm\", rear = \"20 mm\" }\n");
  const std::vector<Figures> runs = run().runs;
  ASSERT_EQ(runs.size(), 4u);
  EXPECT_EQ(kept_.meshes, 4);
  EXPECT_EQ(runs[0].run.lattice, 0);
  EXPECT_EQ(runs[3].run.lattice, 1);
  EXPECT_EQ(runs[3].run.variant, "raised");
  EXPECT_NE(runs[0].run.hashes.mesh, runs[2].run.hashes.mesh) << "the octree stands elsewhere";
  EXPECT_EQ(read_figures(folder_ / "runs/raised_36-kmh_lattice-2").run.lattice, 1);
  EXPECT_EQ(run().runs.size(), 4u);
  EXPECT_TRUE(kept_.rows.empty()) << "all is done";
}

TEST_F(RunFolder, PicturesAreDrawnAfterTheRunAndAgainWithoutOne) {
  const std::string text = read_text(folder_ / "c.toml");
  write_text(folder_ / "c.toml", text +
                                     "[[picture]]\nname = \"wake\"\nslice = \"x = 1 m, total "
                                     "Cp\"\n[[picture]]\nname = \"line\"\nchart = \"section, y "
                                     "= 0\"\n");
  run();
  EXPECT_FALSE(kept_.rows.empty());
  EXPECT_TRUE(std::filesystem::exists(result("wake.png")));
  EXPECT_TRUE(std::filesystem::exists(result("line.png")));
  write_text(folder_ / "c.toml", text +
                                     "[[picture]]\nname = \"nose\"\nsurface = [\"Cp, bands = "
                                     "8\"]\nview = \"front\"\npaper = \"dark\"\n");
  run();
  EXPECT_TRUE(kept_.rows.empty()) << "drawn from the record";
  EXPECT_TRUE(std::filesystem::exists(result("nose.png")));
  for (const char* wrong :
       {"[[picture]]\nsurface = \"Cp\"\n", "[[picture]]\nname = \"../x\"\n",
        "[[picture]]\nname = \"speed\"\n", "[[picture]]\nname = \"a\"\nview = \"frnt\"\n",
        "[[picture]]\nname = \"a\"\nsurface = \"bnads = 3\"\n",
        "[[picture]]\nname = \"a\"\nchart = \"pie\"\n",
        "[[picture]]\nname = \"a\"\npaper = \"blue\"\n"}) {
    write_text(folder_ / "c.toml", text + wrong);
    EXPECT_THROW(read_campaign(folder_ / "c.toml"), InputError) << wrong;
  }
}

TEST_F(RunFolder, SettingsAreRunsOfTheirOwn) {
  replace("speeds = [\"10 m/s\"]",
          "speeds = [\"10 m/s\"]\n[runs.sweep]\n\"air.density\" = [\"1.2 kg/m3\", \"1.0 kg/m3\"]");
  const CampaignResult result = run();
  ASSERT_EQ(result.runs.size(), 2u);
  EXPECT_EQ(kept_.meshes, 1) << "the mesh is the same";
  EXPECT_EQ(result.runs[1].run.settings, (Settings{{"air.density", "1.0 kg/m3"}}));
  EXPECT_EQ(read_figures(folder_ / "runs/as-it-is_36-kmh_air-density-1p0-kg-m3").run.settings,
            result.runs[1].run.settings);
  EXPECT_EQ(run().runs.size(), 2u);
  EXPECT_TRUE(kept_.rows.empty()) << "all is done";
}

TEST_F(RunFolder, ASearchMakesRunsOfTheCampaignAndGoesOn) {
  const std::string text = read_text(folder_ / "c.toml");
  const std::string search =
      "[search]\nleast = \"CD\"\nruns = 3\n[search.keys]\n\"tunnel.ahead\" = [2, 3]\n";
  write_text(folder_ / "c.toml", text + search);
  const CampaignSetup setup = prepare(read_campaign(folder_ / "c.toml"));
  Kept kept;
  const SearchResult found = run_search(setup, folder_ / "runs", {2, nullptr}, kept);
  ASSERT_EQ(found.runs.size(), 3u);
  ASSERT_TRUE(found.best);
  EXPECT_NE(found.why.find("3 runs"), std::string::npos);
  EXPECT_EQ(found.runs[0].settings, (Settings{{"tunnel.ahead", "2.5"}})) << "the middle first";
  Kept again;
  const SearchResult same = run_search(setup, folder_ / "runs", {2, nullptr}, again);
  EXPECT_TRUE(again.rows.empty()) << "none is made twice";
  EXPECT_EQ(same.best->run, found.best->run);
  for (const char* wrong :
       {"[search]\nleast = \"CD\"\n", "[search]\n[search.keys]\n\"tunnel.ahead\" = [2, 3]\n",
        "[search]\nleast = \"CD\"\n[search.keys]\n\"tunnel.ahead\" = [3, 2]\n",
        "[search]\nleast = \"CD\"\n[search.keys]\n\"tunnel.ahead\" = [3]\n",
        "[search]\nleast = \"CD\"\n[search.keys]\n\"ride.front\" = [\"1 mm\", \"2 cm\"]\n",
        "[search]\nleast = \"CX\"\n[search.keys]\n\"tunnel.ahead\" = [2, 3]\n",
        "[search]\nleast = \"CD\"\nvariant = \"b\"\n[search.keys]\n\"tunnel.ahead\" = [2, 3]\n"}) {
    write_text(folder_ / "c.toml", text + wrong);
    EXPECT_THROW(read_campaign(folder_ / "c.toml"), InputError) << wrong;
  }
  write_text(folder_ / "c.toml", text);
  EXPECT_THROW(
      run_search(prepare(read_campaign(folder_ / "c.toml")), folder_ / "r", {2, nullptr}, kept),
      InputError);
}

TEST_F(RunFolder, FoldersOfRunsCannotCollide) {
  write_text(folder_ / "c.toml",
             read_text(folder_ / "c.toml") +
                 "[[variant]]\nname = \"as it is\"\n[[variant]]\nname = \"As it is!\"\n"
                 "[[variant]]\nname = \"翼\"\n[[variant]]\nname = \"../../<b>&\\n\"\n");
  const CampaignSetup setup = prepare(read_campaign(folder_ / "c.toml"));
  std::vector<std::string> names;
  for (const MatrixRun& r : setup.matrix()) names.push_back(run_name(setup, r));
  EXPECT_EQ(names, (std::vector<std::string>{"as-it-is_36-kmh", "as-it-is-2_36-kmh",
                                             "variant_36-kmh", "b_36-kmh"}));
  EXPECT_NE(run_name(setup, {0, 10}), run_name(setup, {0, 10.00001}))
      << "speeds that agree to four digits";
  CampaignSetup turned = setup;
  turned.campaign.conditions.yaw = -0.1;
  EXPECT_NE(run_name(setup, {0, 10}), run_name(turned, {0, 10}));
  replace("\"10 m/s\"", "\"10 m/s\", \"36 km/h\"");
  EXPECT_THROW(read_campaign(folder_ / "c.toml"), InputError) << "the same speed twice";
}

TEST_F(RunFolder, OfADamagedStateTheOneBeforeIsUsed) {
  // Stopped after the second of two saved states.
  replace("iterations", "save_every = \"0.001 s\"\niterations");
  EXPECT_TRUE(run(8).stopped);
  const auto state = folder_ / "runs/.as-it-is_36-kmh.state";
  ASSERT_TRUE(std::filesystem::exists(state));
  const auto before = read_saved_state(state_before(state));
  ASSERT_TRUE(before.has_value());
  write_text(state, read_text(state).substr(0, 5000));
  const CampaignResult r = run();
  ASSERT_EQ(r.runs.size(), 1u);
  ASSERT_FALSE(kept_.rows.empty());
  EXPECT_EQ(kept_.rows.front(), before->iteration + 1);
  EXPECT_NE(read_text(result("record.json")).find("is left aside"), std::string::npos);
  EXPECT_FALSE(std::filesystem::exists(state_before(state)));
}

TEST_F(RunFolder, ADamagedStateIsRefused) {
  ASSERT_EQ(run().runs.size(), 1u);
  const auto state = result("state.bin");
  ASSERT_TRUE(read_saved_state(state).has_value());
  EXPECT_FALSE(read_saved_state(folder_ / "none.bin").has_value());
  std::string bytes = read_text(state);
  write_text(folder_ / "short.bin", bytes.substr(0, bytes.size() / 2));
  EXPECT_THROW(read_saved_state(folder_ / "short.bin"), InputError);
  bytes[bytes.size() / 3] = static_cast<char>(bytes[bytes.size() / 3] ^ 1);
  write_text(folder_ / "altered.bin", bytes);
  EXPECT_THROW(read_saved_state(folder_ / "altered.bin"), InputError);
  write_text(folder_ / "other.bin", "something else altogether");
  EXPECT_THROW(read_saved_state(folder_ / "other.bin"), InputError);
  write_text(folder_ / "earlier.bin", "dunefield state 1\nand more");
  try {
    read_saved_state(folder_ / "earlier.bin");
    FAIL() << "its layout is another";
  } catch (const InputError& e) {
    EXPECT_NE(std::string(e.what()).find("of another version"), std::string::npos) << e.what();
  }
}

}  // namespace
}  // namespace dunefield::test
