// A watched campaign: what it takes, what it tells, and to whom.
#include <gtest/gtest.h>

#include <atomic>
#include <thread>

#include <httplib.h>
#include <nlohmann/json.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/report/kept_tries.hpp>
#include <dunefield/report/watch_server.hpp>
#include <dunefield/report/watched_files.hpp>
#include <tests/report/ball_campaign.hpp>

namespace dunefield::test {
namespace {

using Json = nlohmann::json;

class Watched : public BallCampaign {
 protected:
  Json state() const { return Json::parse(watch_->state(-1)); }
  void begin() { watch_ = std::make_unique<Watch>(folder_ / "c.toml", WatchOptions{.recipe = ""}); }
  std::unique_ptr<Watch> watch_;
};

TEST(WatchedFiles, AreToldWhenTheyHaveChangedAndComeToRest) {
  const TemporaryFolder folder;
  const auto file = folder / "a.stl";
  write_text(file, "one");
  WatchedFiles files;
  files.watch({file});
  EXPECT_TRUE(files.changed().empty());
  write_text(file, "longer");
  EXPECT_TRUE(files.changed().empty()) << "it may still be written";
  ASSERT_EQ(files.changed().size(), 1u);
  EXPECT_TRUE(files.changed().empty()) << "told once";
  std::filesystem::remove(file);
  EXPECT_TRUE(files.changed().empty());
  EXPECT_TRUE(files.changed().empty()) << "one that is replaced is gone for a moment";
}

TEST_F(Watched, NamesWhatCanBeTriedAndRefusesTheRest) {
  longer("\"air.density\" = [\"1.2 kg/m3\", \"1.4 kg/m3\"]");
  begin();
  const Json s = state();
  EXPECT_EQ(s["variants"], Json({"as it is", "fin"}));
  EXPECT_EQ(s["keys"][0]["key"], "air.density");
  EXPECT_EQ(s["keys"][0]["to"], 1.4);
  for (const char* wrong :
       {"", "[1]", "{}", R"({"want":{"variant":"none"}})", R"({"want":{"speed":-3}})",
        R"({"want":{"speed":"fast"}})", R"({"want":{"speed":1e9}})",
        R"({"want":{"settings":{"vehicle.files":1}}})",
        R"({"want":{"settings":{"air.density":"0 mm\"\n[x]"}}})"})
    EXPECT_THROW(watch_->ask(wrong), InputError) << wrong;
  watch_->ask(R"({"want":{"variant":"fin","speed":12.5,"settings":{"air.density":1.25}}})");
  EXPECT_EQ(state()["wanted"]["variant"], "fin");
  EXPECT_EQ(state()["wanted"]["settings"]["air.density"], "1.25 kg/m3");
  EXPECT_EQ(watch_->state(1'000'000), "") << "nothing newer";
}

TEST_F(Watched, TriesFollowTheFilesAndAreComparedWithWhatIsKept) {
  longer();
  begin();
  std::atomic<bool> over = false;
  std::thread work([&] {
    Progress p;
    p.cancelled = [&] { return over.load(); };
    watch_->work(p);
  });
  const auto tries = [&](std::size_t count) {
    for (int i = 0; i < 300 && state()["tries"].size() < count; ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
    return state()["tries"];
  };
  EXPECT_TRUE(tries(1)[0]["is_reference"].get<bool>());
  write_stl_ascii(folder_ / "ball.stl", sphere("ball <b>", {0, 0, 0.7}, 0.36, 24));
  ASSERT_EQ(tries(2).size(), 2u);
  const Json now = state();
  const auto cd = [&](int i) { return now["tries"][i]["figures"][0]["CD"]["mean"].get<double>(); };
  EXPECT_NEAR(now["change"]["share_of_CD"].get<double>(), cd(1) / cd(0) - 1, 1e-6);
  EXPECT_GT(cd(1), 1.2 * cd(0)) << "44 % more area on the same reference";
  EXPECT_GE(now["view"].get<int>(), 2);
  const Json shown = Json::parse(watch_->explorer().runs())["runs"];
  ASSERT_EQ(shown.size(), 2u) << "the present one and the one that is kept";
  EXPECT_EQ(shown[1]["name"].get<std::string>().substr(0, 5), "kept:");
  EXPECT_FALSE(watch_->explorer().vehicles().empty());
  over = true;
  work.join();
}

TEST(WatchBoard, ShowsTheSketchsChangeUntilTheFinerRunsCanBeCompared) {
  const auto figures = [](const std::string& recipe, double cd) {
    Figures f;
    f.run.variant = "as it is", f.run.recipe = recipe, f.run.speed = 25;
    f.status = RunStatus::steady;
    f.reference = {25, 1.2, 2, 3};
    f.cd.mean = cd, f.cd.half_interval = 0.001;
    return f;
  };
  auto kept = std::make_shared<Try>(), present = std::make_shared<Try>();
  kept->number = 1, present->number = 2;
  kept->figures = {{"sketch", figures("sketch", 0.4)}};
  present->figures = {{"sketch", figures("sketch", 0.3)}};
  WatchBoard board;
  board.tries({kept, present}, present, kept);
  board.present(figures("scout", 0.2));
  const auto change = [&] { return Json::parse(board.state(-1))["change"]; };
  EXPECT_EQ(change()["recipe"], "sketch");
  EXPECT_NEAR(change()["share_of_CD"].get<double>(), -0.25, 1e-9);
  kept->figures["scout"] = figures("scout", 0.25);
  board.tries({kept, present}, present, kept);
  EXPECT_EQ(change()["recipe"], "scout");
  EXPECT_NEAR(change()["share_of_CD"].get<double>(), -0.2, 1e-9);
}

TEST_F(Watched, ServesThisMachineAndWhoKnowsTheToken) {
  begin();
  const WatchServer server(*watch_, "a <title>", 0);
  const std::string& address = server.address();
  const std::size_t slash = address.find('/', 8);
  const std::string host = address.substr(0, slash), token = address.substr(slash);
  httplib::Client client(host);
  const auto page = client.Get(token);
  ASSERT_TRUE(page);
  EXPECT_EQ(page->status, 200);
  EXPECT_NE(page->body.find("a &lt;title&gt;"), std::string::npos);
  EXPECT_NE(page->body.find("connect-src 'self'"), std::string::npos);
  EXPECT_EQ(client.Get(token + "state?after=-1")->status, 200);
  EXPECT_EQ(client.Get(token + "state?after=999999")->status, 204);
  EXPECT_EQ(client.Get("/")->status, 404);
  EXPECT_EQ(client.Get("/0123/state")->status, 404);
  EXPECT_EQ(client.Get(token + "../../etc/passwd")->status, 404);
  EXPECT_EQ(client.Get(token, {{"Host", "elsewhere.example"}})->status, 403);
  EXPECT_EQ(client.Post(token + "ask", "{}", "application/json")->status, 400);
  EXPECT_EQ(client.Post(token + "ask", std::string(100'000, ' '), "text/plain")->status, 413);
  const int port = std::stoi(host.substr(host.rfind(':') + 1));
  EXPECT_THROW(WatchServer(*watch_, "another", port), InputError) << "the port is taken";
}

TEST(KeptTries, AreCopiedAndToldAsTheCampaignFileHasThem) {
  const TemporaryFolder folder;
  write_text(folder / "tail.stl", "new");
  auto first = std::make_shared<Try>(), second = std::make_shared<Try>();
  first->number = 1, second->number = 2;
  first->content[folder / "tail.stl"] = "before";
  second->wanted = {"tail", 25, {{"air.density", "10 mm"}}};
  second->content[folder / "tail.stl"] = hash_of_file(folder / "tail.stl");
  second->read_from[folder / "tail.stl"] = folder / "tail.stl";
  second->kept = true;
  keep_copies(*second, folder / "watch");
  EXPECT_EQ(read_text(second->copies.at(folder / "tail.stl")), "new");
  const std::string text = kept_as_variants({first, second});
  for (const char* told :
       {"combination", "air.density", "10 mm", "tail, kept 2", "kept-2/tail.stl"})
    EXPECT_NE(text.find(told), std::string::npos) << text;
}

TEST(KeptTries, AreTheShapesThatWereTried) {
  const TemporaryFolder folder;
  Try one;
  for (const char* side : {"left", "right"}) {
    const std::filesystem::path file = folder / side / "cover.stl";
    std::filesystem::create_directories(file.parent_path());
    write_text(file, side);
    one.content[file] = hash_of_file(file), one.read_from[file] = file;
  }
  keep_copies(one, folder / "watch");
  for (const auto& [file, copy] : one.copies)
    EXPECT_EQ(read_text(copy), file.parent_path().filename()) << "of one name, from two folders";
  write_text(folder / "left" / "cover.stl", "drawn anew");
  EXPECT_THROW(keep_copies(one, folder / "watch"), InputError) << "not what was tried";
}

}  // namespace
}  // namespace dunefield::test
