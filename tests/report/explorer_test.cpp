// Records that a page looks at: what it is told, and what it may ask for.
#include <gtest/gtest.h>

#include <httplib.h>
#include <nlohmann/json.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/report/explore_server.hpp>
#include <tests/report/ball_campaign.hpp>

namespace dunefield::test {
namespace {

using Json = nlohmann::json;

/// The JSON at the front of a pack.
Json head_of(const std::string& bytes) {
  std::size_t length = 0;
  for (std::size_t i = 0; i < 4; ++i)
    length |= static_cast<std::size_t>(static_cast<unsigned char>(bytes[i])) << (8 * i);
  EXPECT_LE(4 + length, bytes.size());
  const Json head = Json::parse(bytes.substr(4, length));
  std::size_t end = 4 + length;
  for (const Json& array : head.at("arrays")) end += array.at("length").get<std::size_t>();
  EXPECT_EQ(end, bytes.size()) << "the arrays' bytes follow";
  return head;
}

/// The campaign's runs, made once for all tests.
struct Ran : BallCampaign {
  Ran() {
    std::string text = text_;
    text.replace(text.find(", \"20 m/s\""), 10, "");
    write(text);
    CampaignWatcher silent;
    run_campaign(setup(), folder_ / "runs", {2, nullptr}, silent);
  }
  void TestBody() override {}
  std::filesystem::path folder(const std::string& name) const { return folder_ / "runs" / name; }
};

class Exploring : public testing::Test {
 protected:
  static const Ran& ran() {
    static const Ran all;
    return all;
  }
  Json look(const Json& asked) const { return head_of(explorer_->look(asked.dump())); }
  const std::unique_ptr<Explorer> explorer_ =
      std::make_unique<Explorer>(std::vector<std::filesystem::path>{ran().folder("as-it-is_36-kmh"),
                                                                    ran().folder("fin_36-kmh")});
};

TEST_F(Exploring, TellsRunsQuantitiesAndPlaces) {
  const Json told = Json::parse(explorer_->runs());
  EXPECT_EQ(told.at("title"), "Ball & fin");
  ASSERT_EQ(told.at("runs").size(), 2u);
  EXPECT_EQ(told["runs"][1]["name"], "fin at 36 km/h");
  EXPECT_NEAR(told["runs"][0]["vehicle"]["to"][2].get<double>(), 1.0, 0.02);
  bool shear = false;
  for (const Json& q : told["runs"][0]["quantities"])
    shear = shear || (q["name"] == "wall shear" && q["on_wall"] == true);
  EXPECT_TRUE(shear);
  const Json all = head_of(explorer_->vehicles());
  EXPECT_EQ(all.at("runs").size(), 2u);
  EXPECT_GE(all.at("items").size(), 3u) << "a ball, and a ball with a fin";
}

TEST_F(Exploring, ShowsWhatTheWordsOfPicturesAskFor) {
  const Json slice = look({{"run", 0}, {"kind", "slice"}, {"words", "y = 0.1 m, total Cp"}});
  EXPECT_EQ(slice["items"][0]["kind"], "slice");
  EXPECT_TRUE(slice["items"][0]["values"].contains("total Cp"));
  const Json smoke = look(
      {{"run", 1}, {"kind", "smoke"}, {"words", "at = (-0.6 m, 0, 1.1 m), lines, speed ratio"}});
  EXPECT_EQ(smoke["items"][0]["lines"], true);
  const Json surface = look({{"run", 0}, {"kind", "surface"}, {"words", "y+"}});
  EXPECT_EQ(surface["items"][0]["kind"], "vehicle");
  const Json change = look({{"run", 1}, {"kind", "slice"}, {"words", "y = 0, Cp"}, {"against", 0}});
  EXPECT_NE(change["scales"].dump().find("change of"), std::string::npos);
  const Json chart =
      Json::parse(explorer_->chart(R"({"runs": [0, 1], "words": "section, y = 0"})"));
  EXPECT_GE(chart["panels"][0]["lines"].size(), 2u);
}

TEST_F(Exploring, RefusesWhatIsWrong) {
  for (const char* wrong : {"", "[]", "{", "{}", R"({"run": 2, "kind": "slice", "words": "y = 0"})",
                            R"({"run": -1, "kind": "slice", "words": "y = 0"})",
                            R"({"run": 0, "kind": "film", "words": "turn"})",
                            R"({"run": 0, "kind": "slice", "words": "y = 90 m"})",
                            R"({"run": 0, "kind": "slice", "words": "y = 0, nonsense"})",
                            R"({"run": 0, "kind": "slice", "words": 7})",
                            R"x({"run": 0, "kind": "smoke", "words": "at = (0, 0, 0.7 m)"})x",
                            R"({"run": 0, "kind": "surface", "words": "Cp", "against": 9})"})
    EXPECT_THROW(explorer_->look(wrong), InputError) << wrong;
  EXPECT_THROW(explorer_->chart(R"({"runs": [], "words": "history"})"), InputError);
  EXPECT_THROW(explorer_->chart(R"({"runs": [0], "words": "pie"})"), InputError);
  EXPECT_THROW(Explorer({}), InputError);
  EXPECT_THROW(Explorer({ran().folder("none")}), InputError);
}

TEST_F(Exploring, IsServedToThoseWhoKnowTheAddress) {
  const ExploreServer server(*explorer_, 0);
  const std::string address = server.address(), host = address.substr(0, address.find('/', 8)),
                    below = address.substr(host.size());
  httplib::Client client(host);
  EXPECT_EQ(client.Get(below)->status, 200);
  EXPECT_EQ(client.Get("/runs")->status, 404);
  EXPECT_EQ(client.Get(below + "runs", {{"Host", "elsewhere.example"}})->status, 403);
  EXPECT_EQ(client.Post(below + "look", "{}", "text/plain")->status, 400);
  EXPECT_EQ(client.Post(below + "look", std::string(100'000, ' '), "text/plain")->status, 413);
  EXPECT_EQ(client.Get(below + "runs", {{"Origin", "http://elsewhere.example"}})->status, 403);
  EXPECT_EQ(client.Get(below + "runs", {{"Sec-Fetch-Site", "cross-site"}})->status, 403);
  EXPECT_EQ(client.Get(below + "runs", {{"Sec-Fetch-Site", "same-origin"}})->status, 200);
  const auto endless = [](std::size_t, httplib::DataSink& sink) {
    return sink.write("0123456789", 10);  // in chunks, without an end
  };
  EXPECT_FALSE(client.Post(below + "look", endless, "text/plain"));
  const auto answer = client.Post(
      below + "look", R"({"run": 0, "kind": "slice", "words": "x = 0.5 m"})", "text/plain");
  ASSERT_EQ(answer->status, 200);
  EXPECT_EQ(head_of(answer->body)["items"][0]["kind"], "slice");
}

}  // namespace
}  // namespace dunefield::test
