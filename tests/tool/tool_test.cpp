// The command-line program, as a user meets it.
#include <gtest/gtest.h>

#include <sstream>

#include <nlohmann/json.hpp>

#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

using Json = nlohmann::json;

TEST(Tool, HelpNamesEveryCommandAndGivesAnExample) {
  const ProcessResult all = tool("--help");
  EXPECT_EQ(all.exit_code, 0);
  for (const char* command : {"inspect", "mend", "start", "mesh", "plan", "run", "look", "show",
                              "list", "compare", "explain", "demo"}) {
    EXPECT_NE(all.out.find(command), std::string::npos);
    EXPECT_NE(tool(std::string(command) + " --help")
                  .out.find("Example: dunefield " + std::string(command)),
              std::string::npos);
  }
  EXPECT_EQ(tool("fly").exit_code, 2);
}

TEST(Tool, TellsOfTheMachineAndHelpsShells) {
  const Json doctor = Json::parse(tool("doctor --json").out);
  EXPECT_GE(doctor.at("cores"), 1);
  EXPECT_GT(doctor.at("copy_bandwidth_bytes_s"), 1e8);
  EXPECT_EQ(doctor.at("recipes").size(), 4u);
  const TemporaryFolder folder;
  write_text(folder / "c.bash", tool("completion bash").out);
  const ProcessResult completed =
      shell("bash -c 'source " + (folder / "c.bash").string() +
            "; COMP_WORDS=(dunefield re); COMP_CWORD=1; _dunefield; echo ${COMPREPLY[@]}'");
  EXPECT_EQ(completed.out, "report\n") << completed.err;
  EXPECT_NE(tool("completion fish").out.find("-l view"), std::string::npos);
  EXPECT_EQ(tool("completion csh").exit_code, 1);
  EXPECT_EQ(tool("manual").out.rfind(".TH DUNEFIELD 1", 0), 0u);
}

TEST(Tool, BreaksLinesBetweenWordsOnANarrowTerminal) {
  const std::string inspect = "NO_COLOR=1 " + std::string(DUNEFIELD_TOOL) +
                              " inspect " DUNEFIELD_SOURCE "/demo/marram-dirty.stl";
  const auto lines_over = [](const std::string& text, std::size_t columns) {
    std::istringstream in(text);
    std::string line;
    int over = 0, found = 0;
    for (bool table = true; std::getline(in, line);) {
      table = table && !line.starts_with("size ");
      if (!table) ++found, over += line.size() > columns + 1;  // it ends with a carriage return
    }
    EXPECT_GT(found, 5);
    return over;
  };
  const ProcessResult narrow =
      shell("script -qec 'stty cols 60; " + inspect + "' /dev/null < /dev/null");
  EXPECT_EQ(lines_over(narrow.out, 60), 0) << narrow.out;
  EXPECT_GT(lines_over(shell(inspect).out, 60), 0) << "a file gets whole lines";
}

TEST(Tool, InspectsTheDemoVan) {
  const ProcessResult r = tool("inspect " DUNEFIELD_SOURCE "/demo/marram.stl --json");
  ASSERT_EQ(r.exit_code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_EQ(j.at("wheels").size(), 4u);
  EXPECT_EQ(j.at("open_edges"), 0);
  EXPECT_NEAR(j.at("wheelbase_m"), 3.2, 0.005);
  EXPECT_NE(tool("inspect " DUNEFIELD_SOURCE "/demo/marram.stl").out.find("wheel rear right"),
            std::string::npos);
}

TEST(Tool, InspectsADirtyScanAndMendsItIntoANewFile) {
  const TemporaryFolder folder;
  const std::string dirty = DUNEFIELD_SOURCE "/demo/marram-dirty.stl",
                    mended = (folder / "mended.stl").string();
  const ProcessResult r =
      tool("inspect " + dirty + " --json --picture " + (folder / "health.png").string());
  ASSERT_EQ(r.exit_code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_EQ(j.at("stance").at("unit"), "mm");
  EXPECT_EQ(j.at("stance").at("nose"), "+y");
  EXPECT_EQ(j.at("wheels").size(), 4u);
  EXPECT_EQ(j.at("stray_bits").size(), 12u);
  EXPECT_GT(j.at("flipped_facets"), 1000);
  EXPECT_GT(std::filesystem::file_size(folder / "health.png"), 20000u);
  const ProcessResult m =
      tool("mend " + dirty + " --unit mm --into " + mended +
           " --drop-doubled --drop-stray \"30 mm\" --orient --close \"700 mm\"");
  ASSERT_EQ(m.exit_code, 0) << m.err;
  EXPECT_NE(m.out.find("loops closed, 0 left open"), std::string::npos);
  EXPECT_TRUE(Json::parse(tool("inspect " + mended + " --json").out).at("closed"));
  EXPECT_EQ(tool("mend " + mended + " --into " + mended + " --orient").exit_code, 1)
      << "the original is never touched";
}

TEST(Tool, RunsACampaignOnceAndComparesItsVariants) {
  const TemporaryFolder folder;
  const std::string file = brick_campaign(folder);
  const Json planned = Json::parse(tool("plan " + file + " --json").out);
  ASSERT_EQ(planned.at("runs").size(), 4u);
  EXPECT_EQ(planned.at("runs")[3].at("state"), "to do");
  EXPECT_GT(planned.at("runs")[3].at("cells"), 5000);
  EXPECT_GT(planned.at("seconds"), 0);
  const ProcessResult first = tool_run(file + " --json");
  ASSERT_EQ(first.exit_code, 0) << first.err;
  const Json j = Json::parse(first.out);
  ASSERT_EQ(j.at("runs").size(), 4u);
  for (const char* name : {"record.json", "history.csv", "record.arrays", "air.vtu", "wall.vtp",
                           "pressure.png", "speed.png"})
    EXPECT_TRUE(std::filesystem::exists(folder / "c.runs" / "plain_60-kmh" / name)) << name;

  const Json b = Json::parse(read_text(folder / "c.runs" / "fin_90-kmh" / "record.json"));
  double parts = 0;
  for (const Json& p : b.at("last_state").at("parts")) parts += p.at("CD").get<double>();
  EXPECT_NEAR(parts, b.at("last_state").at("CD"), 1e-9) << "parts add to the total";
  EXPECT_NEAR(b.at("last_state").at("pressure").at("force_N")[0].get<double>() +
                  b.at("last_state").at("friction").at("force_N")[0].get<double>(),
              b.at("last_state").at("CD").get<double>() * 0.5 * 1.2 * 625 *
                  b.at("reference")["frontal_area_m2"].get<double>(),
              1e-6);
  EXPECT_LT(std::abs(b.at("checks").at("mass_balance").get<double>()), 1e-6);

  const auto written =
      std::filesystem::last_write_time(folder / "c.runs" / "plain_60-kmh" / "record.json");
  const ProcessResult again = tool_run(file);
  EXPECT_EQ(again.exit_code, 0);
  EXPECT_NE(again.out.find("already done"), std::string::npos);
  EXPECT_EQ(std::filesystem::last_write_time(folder / "c.runs" / "plain_60-kmh" / "record.json"),
            written);
  EXPECT_NE(again.out.find("verdict"), std::string::npos);
  EXPECT_NE(tool("plan " + file).out.find("nothing: all is done"), std::string::npos);

  const Json listed = Json::parse(tool("list " + file + " --variant fin --sort CD --json").out);
  ASSERT_EQ(listed.at("runs").size(), 2u);
  EXPECT_EQ(listed.at("runs")[0].at("variant"), "fin");
  EXPECT_LE(listed.at("runs")[0].at("CD"), listed.at("runs")[1].at("CD"));
  EXPECT_EQ(tool("list " + file + " --csv").out.rfind("folder,campaign,variant", 0), 0u);

  const std::string as_run = read_text(file);
  std::string other = as_run;
  other.replace(other.find("35 mm"), 5, "36 mm");
  write_text(file, other);
  for (const Json& r : Json::parse(tool("list " + file + " --json").out).at("runs"))
    EXPECT_EQ(r.at("status"), "out of date") << "of another set-up than the file's";
  const std::string old = "list " + file + " --status 'out of date' --json";
  EXPECT_EQ(Json::parse(tool(old).out).at("runs").size(), 4u);
  EXPECT_EQ(tool("look " + file).exit_code, 1);
  write_text(file, as_run);
  EXPECT_EQ(Json::parse(tool(old).out).at("runs").size(), 0u);

  const std::string runs = (folder / "c.runs").string();
  const ProcessResult compared =
      tool("compare " + runs + "/plain_60-kmh " + runs + "/fin_60-kmh --want \"less downforce\"");
  EXPECT_EQ(compared.exit_code, 0) << compared.err;
  EXPECT_NE(compared.out.find("means by part"), std::string::npos);
  const Json why =
      Json::parse(tool("explain " + runs + "/plain_60-kmh " + runs + "/fin_60-kmh --json").out);
  double by_part = 0;
  for (const Json& p : why.at("parts")) by_part += p.at("CD").get<double>();
  EXPECT_NEAR(by_part, why.at("CD"), 1e-5) << "parts add to the difference of the means";
  EXPECT_EQ(why.at("stretches").size(), 10u);
  EXPECT_NE(
      tool("compare " + runs + "/plain_60-kmh " + runs + "/fin_90-kmh").err.find("speeds differ"),
      std::string::npos);

  // Whatever was computed can be looked at, in the words of the option.
  const std::string picture = (folder / "look.png").string();
  const ProcessResult looked = tool("look " + runs + "/plain_60-kmh " + runs +
                                    "/fin_60-kmh --size 300x200 --surface \"Cp, bands = 8\" "
                                    "--smoke \"count = 6\" --view rear --into " +
                                    picture);
  ASSERT_EQ(looked.exit_code, 0) << looked.err;
  EXPECT_EQ(tool("look --range \"Cp = -1..1\" " + runs + "/fin_60-kmh --into " + picture).exit_code,
            0)
      << "an option takes one range, not the folder behind it";
  EXPECT_NE(looked.out.find("smoke"), std::string::npos) << looked.out;
  EXPECT_TRUE(std::filesystem::exists(picture));
  EXPECT_EQ(tool("look " + runs + "/fin_60-kmh --against " + runs +
                 "/plain_60-kmh --slice --size "
                 "300x200 --into " +
                 picture)
                .exit_code,
            0);
  const std::string chart = (folder / "chart.svg").string();
  ASSERT_EQ(
      tool("look " + runs + "/plain_60-kmh " + runs + "/plain_90-kmh --chart sweep --into " + chart)
          .exit_code,
      0);
  EXPECT_NE(read_text(folder / "chart.csv").find("CL front"), std::string::npos);
  for (const auto& [words, told] : {std::pair{"--slice \"y = 99 m\"", "misses the air"},
                                    {"--surface \"Cpp\"", "has no 'Cpp'"},
                                    {"--surface \"hide = bonnet\"", "has no part 'bonnet'"},
                                    {"--view frnt", "did you mean 'front'"},
                                    {"--range \"Cp = 1..-1\"", "inverted"},
                                    {"--size 0x0", "0 x 0"},
                                    {"--size big", "no size"},
                                    {"--chart pie", "no chart"},
                                    {"--film spin --into x", "no film"}}) {
    const ProcessResult refused = tool("look " + runs + "/plain_60-kmh " + words);
    EXPECT_EQ(refused.exit_code, 1) << words;
    EXPECT_NE(refused.err.find(told), std::string::npos) << refused.err;
  }
  const Json at = Json::parse(tool("show " + runs + "/plain_60-kmh --at \"75 km/h\" --json").out);
  EXPECT_GT(at.at("at_speed").at("drag_N"), at.at("drag_N"));

  // Another set-up is run anew, and the earlier result is kept.
  brick_campaign(folder, "[air]\ndensity = \"1.1 kg/m3\"\n");
  EXPECT_EQ(tool_run(file).exit_code, 0);
  EXPECT_TRUE(
      std::filesystem::exists(folder / "c.runs" / "plain_60-kmh.earlier-1" / "record.json"));
}

TEST(Tool, GoesFromASurfaceStraightToANumberAndShowsTheRecord) {
  const TemporaryFolder folder;
  brick_campaign(folder);
  const std::string surface = (folder / "brick.stl").string();
  const ProcessResult started = tool("start " + surface + " --speed \"72 km/h\" --road \"0 mm\"");
  ASSERT_EQ(started.exit_code, 0) << started.err;
  EXPECT_NE(started.out.find("unit mm (guessed)"), std::string::npos) << started.out;
  EXPECT_NE(read_text(folder / "brick.toml").find("speeds = [\"72 km/h\"]"), std::string::npos);
  EXPECT_EQ(tool("start " + surface).exit_code, 1) << "nothing is written over";
  // The same numbers with and without the file.
  std::string text = read_text(folder / "brick.toml");
  text.replace(text.find("iterations = 1000"), 17, "iterations = 3");
  text.replace(text.find("[mesh.parts]") - 1, 0, "surface_size = \"70 mm\"\n");
  write_text(folder / "brick.toml", text);
  ASSERT_EQ(tool_run((folder / "brick.toml").string()).exit_code, 0);
  const std::string run = (folder / "brick.runs" / "as-it-is_72-kmh").string();
  const ProcessResult shown = tool("show " + run);
  ASSERT_EQ(shown.exit_code, 0) << shown.err;
  for (const char* told : {"brick", "pressure", "vorticity (1/s)", "record.json", "CD"})
    EXPECT_NE(shown.out.find(told), std::string::npos) << shown.out;
  std::filesystem::remove(run + "/pressure.png");
  const Json again = Json::parse(tool("show " + run + " --again --json").out);
  EXPECT_TRUE(std::filesystem::exists(run + "/pressure.png"));
  EXPECT_EQ(again.at("iterations"), 3);
  EXPECT_FALSE(again.at("usable"));
  EXPECT_EQ(tool("show " + folder.path().string()).exit_code, 1);
  EXPECT_EQ(tool_run(surface + " --speed fast").exit_code, 1);
  EXPECT_EQ(tool_run((folder / "brick.toml").string() + " --speed \"9 m/s\"").exit_code, 1)
      << "the speed is the file's";
}

TEST(Tool, GreetsWhoeverAsksForNothing) {
  const ProcessResult r = tool("");
  EXPECT_EQ(r.exit_code, 0);
  EXPECT_NE(r.out.find("dunefield demo"), std::string::npos);
  EXPECT_LE(std::count(r.out.begin(), r.out.end(), '\n'), 12);
}

TEST(Tool, HalfAndWholeModelAgree) {
  // A body from which the air hardly separates: wakes of blunt bases and rounded tails lean to one
  // side or the other (Grandemange, Gohlke, Cadot 2013), which half a model cannot show.
  const TemporaryFolder folder;
  const std::string file = brick_campaign(folder, "");
  Surface egg = sphere("egg", {}, 1, 64);
  for (Vec3& p : egg.points) p = {500 * p.x, 200 * p.y, 220 + 170 * p.z};
  write_stl_binary(folder / "brick.stl", egg);
  std::string text = read_text(file);
  text = text.substr(0, text.find("[runs]"))
             .replace(text.find("iterations = 30"), 15, "iterations = 160") +
         "[runs]\nspeeds = [\"90 km/h\"]\n";
  for (const char* key : {"surface_size", "smallest_size"})
    text.replace(text.find("35 mm", text.find(key)), 5, "24 mm");
  const auto drag = [&](const std::string& t) {
    write_text(file, t);
    const ProcessResult r = tool_run(file + " --json");
    EXPECT_EQ(r.exit_code, 0) << r.err;
    const Json j = Json::parse(r.out).at("runs")[0];
    EXPECT_EQ(j.at("status"), "steady") << j.at("why");
    EXPECT_NEAR(j.at("side_N").get<double>() / j.at("drag_N").get<double>(), 0, 0.01);
    return j.at("drag_N").get<double>();
  };
  const double half = drag(text),
               whole = drag(text.replace(text.find("half = true"), 11, "half = false"));
  EXPECT_NEAR(half / whole, 1, 0.01);
}

/// The brick, run until somebody stops it; its state is saved all the time.
std::string endless_campaign(const TemporaryFolder& folder) {
  const std::string file = brick_campaign(folder);
  std::string text = read_text(file);
  text.replace(text.find("iterations = 30"), 15,
               "iterations = 100000\nuntil_settled = false\nsave_every = \"0.01 s\"");
  write_text(file, text);
  return file;
}

/// Shell words that run the campaign in the background (its process is then $pid) and wait, a
/// minute at most, until a file below its folder is there.
std::string running(const std::string& file, const std::filesystem::path& until) {
  return DUNEFIELD_TOOL " run " + file +
         " >/dev/null 2>&1 & pid=$!; for i in $(seq 1200); do test -e " + until.string() +
         " && break; sleep 0.05; done; ";
}

TEST(Tool, CtrlCSavesWhatThereIs) {
  const TemporaryFolder folder;
  const std::string file = endless_campaign(folder);
  const ProcessResult r = shell("{ " + running(file, folder / "c.runs/.plain_60-kmh.state") +
                                "kill -INT $pid; wait $pid; }");
  EXPECT_EQ(r.exit_code, 3) << r.err;
  EXPECT_NE(
      read_text(folder / "c.runs" / "plain_60-kmh" / "record.json").find("stopped on request"),
      std::string::npos);
}

TEST(Tool, KilledAtAnyMomentARunGoesOnFromWhatWasSaved) {
  const TemporaryFolder folder;
  const std::string file = endless_campaign(folder);
  shell("{ " + running(file, folder / "c.runs/.plain_60-kmh.state") +
        "kill -KILL $pid; wait $pid; }");
  EXPECT_FALSE(std::filesystem::exists(folder / "c.runs" / "plain_60-kmh" / "record.json"));
  std::string text = read_text(file);
  text.replace(text.find("iterations = 100000"), 19, "iterations = 3");
  write_text(file, text);
  const ProcessResult r = tool_run(file);
  EXPECT_EQ(r.exit_code, 0) << r.err;
  EXPECT_NE(r.out.find("goes on from the state saved at iteration"), std::string::npos) << r.out;
  EXPECT_EQ(tool_run(file + " --time-limit soon").exit_code, 1);
}

TEST(Tool, ARunThatGoesOnCanBeLookedAtFromElsewhere) {
  const TemporaryFolder folder;
  const std::string file = endless_campaign(folder);
  EXPECT_EQ(tool("look " + file).exit_code, 1) << "nothing runs yet";
  const ProcessResult r =
      shell("{ " + running(file, folder / "c.runs/.plain_60-kmh.state") + DUNEFIELD_TOOL " look " +
            file + " --json; code=$?; kill -INT $pid; wait $pid; exit $code; }");
  ASSERT_EQ(r.exit_code, 0) << r.err;
  const Json run = Json::parse(r.out).at("runs").at(0);
  EXPECT_EQ(run.at("variant"), "plain");
  EXPECT_GT(run.at("iterations"), 0);
  for (const char* name :
       {"history.png", "pressure.png", "speed.png", "build-up.png", "build-up.csv", "record.json"})
    EXPECT_TRUE(std::filesystem::exists(folder / "c.runs" / "plain_60-kmh.look" / name)) << name;
  EXPECT_EQ(tool("look " + file + " --slice").exit_code, 0) << "it was stopped, with all saved";
}

TEST(Tool, MeshesAndSaysHowGoodTheMeshIs) {
  const TemporaryFolder folder;
  const ProcessResult r = tool("mesh " + brick_campaign(folder) + " --json");
  ASSERT_EQ(r.exit_code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_GT(j.at("cells"), 5000);
  const Json& q = j.at("quality");
  EXPECT_LT(q.at("worst_closure"), 1e-10);
  EXPECT_EQ(q.at("negative_pyramids"), 0);
  EXPECT_EQ(q.at("regions"), 1);
  EXPECT_TRUE(q.at("good"));
  EXPECT_EQ(j.at("layers").at("cells"), 0);

  // Without those lines the recipe's layers and refinement stand.
  std::string text = read_text(folder / "c.toml");
  text.erase(text.find("smallest_size"), text.find("[flow]") - text.find("smallest_size"));
  write_text(folder / "c.toml", text);
  const Json layered = Json::parse(tool("mesh " + (folder / "c.toml").string() + " --json").out);
  EXPECT_GT(layered.at("layers").at("cells"), 2000);
  EXPECT_GT(layered.at("layers").at("share_with_all"), 0.8);
  EXPECT_GT(layered.at("cells"), j.at("cells"));
  EXPECT_TRUE(std::filesystem::exists(j.at("file").get<std::string>()));
}

class ToolWithMesh : public testing::TestWithParam<const char*> {};

TEST_P(ToolWithMesh, FromAFileIsRunInsteadOfMeshing) {
  const TemporaryFolder folder;
  const std::string file = brick_campaign(folder), name = std::string("c.runs/mesh.") + GetParam();
  const ProcessResult meshed =
      tool("mesh " + file + (name.ends_with("cgns") ? " --cgns" : "") + " --json");
  ASSERT_EQ(meshed.exit_code, 0) << meshed.err;
  const Json m = Json::parse(meshed.out);
  ASSERT_TRUE(std::filesystem::exists(folder / name));
  std::string text = read_text(folder / "c.toml");
  text.erase(text.find(", \"90 km/h\""), 11);
  text.replace(text.find("[flow]"), 6,
               "[flow]\nstart = \"stream\"");  // not from the variant before
  write_text(folder / "c.toml",
             text + "[[variant]]\nname = \"from file\"\nmesh = \"" + name + "\"\n");
  const ProcessResult r = tool_run(file + " --json");
  ASSERT_EQ(r.exit_code, 0) << r.err;
  const Json runs = Json::parse(r.out).at("runs");
  ASSERT_EQ(runs.size(), 3u);
  EXPECT_EQ(runs[2].at("variant"), "from file");
  EXPECT_EQ(runs[2].at("cells"), m.at("cells"));
  EXPECT_EQ(runs[2].at("CD"), runs[0].at("CD")) << "the same mesh, to the last bit";

  // A file that does not fit ends only its own variant.
  write_text(folder / name, "nothing");
  const ProcessResult bad = tool_run(file);
  EXPECT_EQ(bad.exit_code, 1) << bad.err;
  EXPECT_NE(bad.err.find("cannot be read as"), std::string::npos) << bad.err;
  EXPECT_NE(bad.out.find("plain"), std::string::npos);
}
INSTANTIATE_TEST_SUITE_P(Formats, ToolWithMesh, testing::Values("cgns", "vtu"));

#ifdef DUNEFIELD_MPI
TEST(Tool, ThreadsAndProcessesGiveTheSameBits) {
  const TemporaryFolder a, b;
  const ProcessResult threads = tool_run(brick_campaign(a) + " --ranks 2");
  ASSERT_EQ(threads.exit_code, 0) << threads.err;
  const ProcessResult processes =
      shell("mpiexec --allow-run-as-root --oversubscribe -n 2 " DUNEFIELD_TOOL " run " +
            brick_campaign(b));
  ASSERT_EQ(processes.exit_code, 0) << processes.err;
  for (const char* run : {"plain_60-kmh", "fin_90-kmh"})
    EXPECT_EQ(read_text(a / "c.runs" / run / "history.csv"),
              read_text(b / "c.runs" / run / "history.csv"));
}
#endif

}  // namespace
}  // namespace dunefield::test
