// Frames come back as they were kept, and what they share is on disk once.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/look/reel.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

/// A square with a value at each corner, a line, a mark.
Scene scene_at(double t) {
  Scene s;
  s.title = "square", s.frame = {{0, 0, 0}, {1, 1, 1}}, s.view = named_view("rear");
  Sheet sheet;
  sheet.name = "slice", sheet.quantity = "speed";
  for (int i = 0; i < 100; ++i)
    for (int j = 0; j < 100; ++j)
      sheet.points.push_back({0.01 * i, 0, 0.01 * j}), sheet.values.push_back(i + t);
  for (int i = 0; i + 101 < 10'000; ++i) sheet.triangles.push_back({i, i + 1, i + 101});
  auto texture = std::make_shared<PlaneTexture>();
  texture->width = 2, texture->height = 1, texture->shade = {1, static_cast<float>(t)};
  sheet.texture = texture;
  s.sheets.push_back(sheet);
  Bundle lines;
  lines.name = "smoke", lines.quantity = "speed";
  lines.strands = {{{{0, 0, 0}, {0, t, 0}}, {t, 2 * t}},
                   {{{1, 1, 1}, {1, 1, 2}, {1, 1, 3}}, {1, 2, 3}}};
  s.bundles.push_back(lines);
  s.marks.push_back({{0, 0, t}, "Cp 1", true});
  s.scales["speed"] = {Palette::dune, t, 10 + t, "speed, m/s", 4};
  return s;
}

std::uintmax_t bytes_of(const std::filesystem::path& folder, const char* ending) {
  std::uintmax_t sum = 0;
  for (const auto& f : std::filesystem::directory_iterator(folder))
    if (f.path().extension() == ending) sum += f.file_size();
  return sum;
}

TEST(Reel, GivesBackWhatWasKept) {
  const TemporaryFolder folder;
  const ReelWriter out(folder / "reel", "a slice");
  for (int i = 1; i <= 3; ++i) out.add(scene_at(i), i, 0.1 * i);
  const Reel reel(folder / "reel");
  ASSERT_EQ(reel.frames(), 3);
  EXPECT_NEAR(reel.time(2), 0.3, 1e-12);
  const Scene got = reel.scene(1), kept = scene_at(2);
  EXPECT_EQ(got.sheets.at(0).triangles, kept.sheets[0].triangles);
  EXPECT_FLOAT_EQ(static_cast<float>(got.sheets[0].values.at(777)),
                  static_cast<float>(kept.sheets[0].values[777]));
  EXPECT_EQ(got.sheets[0].texture->shade, kept.sheets[0].texture->shade);
  ASSERT_EQ(got.bundles.at(0).strands.size(), 2u);
  EXPECT_EQ(got.bundles[0].strands[0].values.at(1), 4);
  EXPECT_EQ(got.bundles[0].strands[1].points.size(), 3u);
  EXPECT_EQ(got.marks.at(0).place.z, 2);
  EXPECT_EQ(got.scales.at("speed").bands, 4);
  EXPECT_EQ(got.view.from.x, kept.view.from.x);
  EXPECT_FALSE(std::isfinite(got.view.towards.x)) << "the vehicle's middle";
  // A frame holds its values, not the square.
  EXPECT_LT(bytes_of(folder / "reel", ".frame"), bytes_of(folder / "reel", ".arrays"));
}

TEST(Reel, OfAnotherPictureIsBegunAnew) {
  const TemporaryFolder folder;
  ReelWriter(folder / "reel", "a slice").add(scene_at(1), 1, 0.1);
  ReelWriter(folder / "reel", "a slice").add(scene_at(1), 2, 0.2);
  EXPECT_EQ(Reel(folder / "reel").frames(), 2);
  ReelWriter(folder / "reel", "another").add(scene_at(1), 3, 0.3);
  EXPECT_EQ(Reel(folder / "reel").frames(), 1);
  EXPECT_EQ(reels_of(folder / "."), (std::vector<std::string>{"reel"}));
}

TEST(Reel, DamagedOrMissingFramesAreSaid) {
  const TemporaryFolder folder;
  EXPECT_THROW(Reel(folder / "none"), InputError);
  ReelWriter(folder / "reel", "a").add(scene_at(1), 1, 0.1);
  const std::string file = read_text(folder / "reel/000001.frame");
  write_text(folder / "reel/000001.frame", file.substr(0, file.size() / 2));
  EXPECT_THROW(Reel(folder / "reel").scene(0), InputError);
  ReelWriter(folder / "other", "b").add(scene_at(5), 1, 0.1);
  write_text(folder / "reel/000001.frame", file);
  std::filesystem::copy_file(folder / "other/shared.arrays", folder / "reel/shared.arrays",
                             std::filesystem::copy_options::overwrite_existing);
  EXPECT_THROW(Reel(folder / "reel").scene(0), InputError) << "it belongs to others";
}

}  // namespace
}  // namespace dunefield::test
