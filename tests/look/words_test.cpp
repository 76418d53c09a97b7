// What is asked for in words, and the files it becomes: films and scenes.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/look/film.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/look/scene_files.hpp>
#include <dunefield/look/words.hpp>
#include <tests/look/made_up_record.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

const Record& ball() { return half_ball(); }
std::shared_ptr<const FlowView> view() { return view_of_half_ball(); }

TEST(Words, SayWhatIsWantedAndRefuseWhatIsNotKnown) {
  const SliceLook s = slice_look(
      "x = 1.5 m, total Cp, bands = 8, arrows, from = (0 m, -1 m, 0), to = (2 m, 1 m, 2 m)",
      &ball());
  EXPECT_EQ(s.plane.point.x, 1.5);
  EXPECT_EQ(s.plane.normal.x, 1);
  EXPECT_EQ(s.quantity, "total Cp");
  EXPECT_EQ(s.bands, 8);
  EXPECT_EQ(slice_look("y = 0, lines", &ball()).lines, 10) << "steps without a number";
  const Scene banded = Picture(ball()).slice(slice_look("y = 0, bands", &ball())).scene();
  EXPECT_EQ(banded.scales.at("speed ratio").bands, 7) << "round steps";
  SliceLook beside = slice_look("z = 0.2 m, from = (-1 m, -1 m, 0), to = (1 m, 1 m, 0)", &ball());
  EXPECT_NO_THROW(Picture(ball()).slice(beside)) << "how high its rectangle is said to be";
  EXPECT_TRUE(s.arrows);
  EXPECT_EQ(s.region.hi.x, 2);
  EXPECT_EQ(slice_look("= 1 - total_Cp", &ball()).quantity, "= 1 - total_Cp");
  const auto refusal = [](const auto& work) -> std::string {
    try {
      work();
    } catch (const InputError& e) {
      return e.what();
    }
    return "";
  };
  EXPECT_NE(refusal([] { slice_look("y = 0, bnads = 8", &ball()); }).find("did you mean 'bands'"),
            std::string::npos);
  EXPECT_NE(refusal([] { slice_look("y = 5", &ball()); }).find("unit"), std::string::npos);
  EXPECT_NE(refusal([] { slice_look("y = 0, z = 1 m", &ball()); }).find("more than one plane"),
            std::string::npos);
  EXPECT_NE(refusal([] { slice_look("Cp, speed", &ball()); }).find("second quantity"),
            std::string::npos);
  EXPECT_NE(refusal([] { surface_look("opacity = 3"); }).find("0 to 1"), std::string::npos);
  EXPECT_NE(refusal([] { smoke_look("from = (0, 0, 0)", view().get()); }).find("one end"),
            std::string::npos);
  EXPECT_NE(refusal([] {
              PictureRequest r;
              r.range = {"Cp = 1..-1"};
              check_request(r);
            }).find("inverted"),
            std::string::npos);
  EXPECT_EQ(nearest_word("rera", {"front", "rear", "left"}), "rear");
}

TEST(Words, EveryKindHasAPictureWithoutAnyMore) {
  for (const char* kind : {"surface", "slice", "smoke"}) {
    PictureRequest r;
    r.width = 200, r.height = 150;
    (std::string(kind) == "surface" ? r.surface
     : std::string(kind) == "slice" ? r.slice
                                    : r.smoke)
        .push_back("");
    EXPECT_EQ(look_at({view()}, r).image.width, 200) << kind;
  }
  PictureRequest none;
  none.width = 200, none.height = 150;
  const Looked both = look_at({view(), view()}, none);
  EXPECT_EQ(both.image.width, 408) << "two side by side";
  EXPECT_EQ(both.smoke.size(), 1u);
  PictureRequest forms = none;
  forms.smoke = {"ribbons, count = 4", "beads, count = 4", "arrows, plain, count = 4",
                 "stagnation, count = 8", "lines, circle = (-1.5 m, 0, 1 m), radius = 0.7 m"};
  forms.slice = {"x = 1 m, texture, lines = 5, outlines",
                 "z = 1 m, even arrows, unfilled, lines = 4"};
  forms.surface = {"oil flow, tufts, stagnation, separation, lines = 4"};
  EXPECT_EQ(look_at({view()}, forms).smoke.size(), 5u);
  PictureRequest series = none;
  series.slice = {"Cp"}, series.series = "x, from = 0.7 m, to = 1.5 m, steps = 3";
  EXPECT_EQ(look_at({view()}, series).image.width, 408);
}

TEST(Words, APlaceIsTheMiddleOfWhatIsSeen) {
  PictureRequest r;
  r.towards = "(1.3 m, 80 cm, 0.3 m)";
  EXPECT_NEAR(norm(view_of(r).towards - Vec3{1.3, 0.8, 0.3}), 0, 1e-12);
  EXPECT_NEAR(norm(picture_of(view(), r).scene().view.towards - Vec3{1.3, 0.8, 0.3}), 0, 1e-12);
  PictureRequest slice = r;  // alone it is seen squarely, but as near as is asked for
  slice.slice = {"y = 0, Cp"}, slice.zoom = 4;
  const Scene flat = picture_of(view(), slice).scene();
  EXPECT_TRUE(flat.flat);
  EXPECT_EQ(flat.view.zoom, 4);
  EXPECT_EQ(flat.view.towards.x, 1.3);
  for (const char* bad : {"1.3 m", "(1.3 m, 0.8 m)", "(1.3, 0.8, 0.3)", "(1 m, 0, 0), 2"}) {
    r.towards = bad;
    EXPECT_THROW(check_request(r), InputError) << bad;
  }
  const PictureRequest wanted = request_from(
      {"wheel", {{"surface", "Cp"}, {"towards", "(1.3 m, 0.8 m, 0.3 m)"}, {"zoom", "6"}}});
  EXPECT_EQ(view_of(wanted).zoom, 6);
  EXPECT_EQ(view_of(wanted).towards.x, 1.3);
}

TEST(Films, AreFramesInAFolderOrSayWhatIsMissing) {
  const TemporaryFolder folder;
  PictureRequest r;
  r.surface = {""}, r.width = 120, r.height = 90;
  film_of({view()}, r, "turn, frames = 3", folder / "turn");
  EXPECT_TRUE(std::filesystem::exists(folder / "turn" / "frame-0003.png"));
  film_of({view()}, r, "sweep, x, from = 0.8 m, to = 1.5 m, frames = 2", folder / "sweep");
  EXPECT_NE(read_text(folder / "sweep" / "frame-0001.png"),
            read_text(folder / "sweep" / "frame-0002.png"));
  EXPECT_THROW(film_of({view()}, r, "spin", folder / "x"), InputError);
  EXPECT_THROW(film_of({view()}, r, "turn, frames = 2", folder / "x.gif"), InputError);
  if (film_encoder_found()) {
    film_of({view()}, r, "beads, frames = 2", folder / "b.webm");
    EXPECT_GT(std::filesystem::file_size(folder / "b.webm"), 100u);
  } else {
    EXPECT_THROW(film_of({view()}, r, "turn, frames = 2", folder / "t.mp4"), InputError);
  }
}

TEST(SceneFiles, HoldWhatIsShown) {
  const TemporaryFolder folder;
  PictureRequest r;
  r.surface = {"Cp"}, r.smoke = {"count = 9"};
  const Scene scene = picture_of(view(), r).scene();
  const auto files = write_scene_vtp(folder / "data", scene);
  ASSERT_EQ(files.size(), scene.sheets.size() + scene.bundles.size());
  EXPECT_NE(read_text(files[0]).find("NumberOfPolys=\"" +
                                     std::to_string(scene.sheets[0].triangles.size())),
            std::string::npos);
  write_scene_gltf(folder / "s.glb", scene);
  const std::string glb = read_text(folder / "s.glb");
  ASSERT_EQ(glb.substr(0, 4), "glTF");
  std::uint32_t total = 0, length = 0;
  std::memcpy(&total, glb.data() + 8, 4), std::memcpy(&length, glb.data() + 12, 4);
  EXPECT_EQ(total, glb.size());
  const auto json = nlohmann::json::parse(glb.substr(20, length));
  EXPECT_EQ(json["meshes"].size(), 2u);
  EXPECT_EQ(json["asset"]["version"], "2.0");
  EXPECT_EQ(json["accessors"][0]["count"], scene.sheets[0].points.size());
}

}  // namespace
}  // namespace dunefield::test
