// Pictures that a campaign asks for: those that cannot be drawn, and those kept over time.
#include <dunefield/base/error.hpp>
#include <dunefield/campaign/reel_keeper.hpp>
#include <dunefield/look/reel.hpp>
#include <tests/campaign/run_folder.hpp>

namespace dunefield::test {
namespace {

TEST_F(RunFolder, APictureThatCannotBeDrawnLosesNothingElse) {
  write_text(folder_ / "c.toml", read_text(folder_ / "c.toml") +
                                     "[[picture]]\nname = \"far\"\nslice = \"x = 900 m\"\n"
                                     "[[picture]]\nname = \"near\"\nslice = \"x = 1 m\"\n");
  EXPECT_EQ(run().runs.size(), 1u);
  ASSERT_EQ(kept_.warnings.size(), 1u);
  EXPECT_NE(kept_.warnings[0].find("'far' is not drawn: "), std::string::npos);
  EXPECT_FALSE(std::filesystem::exists(result("far.png")));
  EXPECT_TRUE(std::filesystem::exists(result("near.png")));
}

TEST_F(RunFolder, AFlowInTimeKeepsThePicturesItIsAskedForAsAFilm) {
  replace("iterations = 12", "iterations = 3");
  write_text(folder_ / "c.toml",
             read_text(folder_ / "c.toml") +
                 "[time]\nstep = \"10 ms\"\nduration = \"60 ms\"\npicture_every = \"20 ms\"\n"
                 "[[picture]]\nname = \"wake\"\nslice = \"y = 0\"\n");
  run(5);  // three steady iterations and two steps
  const auto going_on = reels_folder(folder_ / "runs/as-it-is_36-kmh");
  EXPECT_NE(going_on, result("reels"));
  EXPECT_EQ(Reel(going_on / "wake").frames(), 1);
  ASSERT_EQ(run().runs.size(), 1u);
  const auto reels = reels_folder(folder_ / "runs/as-it-is_36-kmh");
  EXPECT_EQ(reels, result("reels"));
  EXPECT_EQ(Reel(reels / "wake").frames(), 3);
  for (int frame = 0; frame < 3; ++frame)
    EXPECT_NEAR(Reel(reels / "wake").time(frame), 0.02 * (frame + 1), 1e-9);
  PictureRequest r;
  r.range = {"speed ratio = 0..1"};
  film_in_time(reels, r, "time", folder_ / "film");
  EXPECT_TRUE(std::filesystem::exists(folder_ / "film/frame-0003.png"));
  EXPECT_THROW(film_in_time(reels, r, "time, picture = wkae", folder_ / "x"), InputError);
  r.range = {"Cp = 0..1"};
  EXPECT_THROW(film_in_time(reels, r, "time", folder_ / "x"), InputError) << "it is not shown";
  EXPECT_THROW(film_in_time(folder_ / "runs", {}, "time", folder_ / "x"), InputError);
  // Longer: the frames of before stay.
  replace("duration = \"60 ms\"", "duration = \"100 ms\"");
  ASSERT_EQ(run().runs.size(), 1u);
  EXPECT_EQ(Reel(reels / "wake").frames(), 5);
  // A flow in time is read as it goes: what is asked afterwards has no series.
  write_text(folder_ / "c.toml",
             read_text(folder_ / "c.toml") +
                 "[[tap]]\nname = \"base\"\nat = [\"0.3 m\", \"0 m\", \"0.7 m\"]\n");
  ASSERT_EQ(run().runs.size(), 1u);
  ASSERT_EQ(kept_.warnings.size(), 1u);
  EXPECT_NE(kept_.warnings[0].find("no series in time of tap 'base'"), std::string::npos);
  EXPECT_EQ(Reel(reels / "wake").frames(), 5);
  // Another picture begins anew; none at all is a mistake.
  replace("[[picture]]\nname = \"wake\"\nslice = \"y = 0\"\n", "");
  EXPECT_THROW(prepare(read_campaign(folder_ / "c.toml")), InputError);
}

}  // namespace
}  // namespace dunefield::test
