// Films: round the vehicle, through the air, along the smoke, and of what a flow in time has kept.
#include <cmath>
#include <numbers>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/slug.hpp>
#include <dunefield/look/film.hpp>
#include <dunefield/look/reel.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/look/scene_sheet.hpp>

namespace dunefield {

void film_of(const std::vector<std::shared_ptr<const FlowView>>& views, const PictureRequest& r,
             const std::string& text, const std::filesystem::path& file, const Progress& progress) {
  Words w(text, "film");
  FilmOptions o;
  const bool turn = w.flag("turn"), beads = w.flag("beads"), sweep = w.flag("sweep");
  if (turn + beads + sweep != 1)
    w.fail("'" + text + "' names no film, or more than one", "use turn, sweep, beads, or time");
  o.frames = w.count("frames", o.frames, 1, 100'000);
  o.frames_per_second = w.number("rate", o.frames_per_second);
  if (!(o.frames_per_second > 0)) w.fail("the rate is not above zero", "write rate = 24");
  const Sweep places = sweep_of(w, views.front()->record(), o.frames);
  w.finish();
  const auto scenes_of = [&](const PictureRequest& request) {
    std::vector<Scene> scenes;
    for (const auto& view : views) scenes.push_back(picture_of(view, request).scene());
    share_out(scenes);
    return scenes;
  };
  std::vector<Scene> fixed = scenes_of(r);
  for (Scene& s : fixed) s.fitted_height = false;
  write_film(
      file, o,
      [&](int i) {
        if (turn) {
          const double angle = 2 * std::numbers::pi * i / o.frames;
          std::vector<Scene> turned = fixed;
          for (Scene& s : turned) {
            const Vec3 v = s.view.from;
            s.view.from = {v.x * std::cos(angle) - v.y * std::sin(angle),
                           v.x * std::sin(angle) + v.y * std::cos(angle), v.z};
          }
          return on_one_sheet(turned, r.dark, progress);
        }
        PictureRequest now = sweep ? places.at(r, i) : r;
        if (beads) {
          // A bead has come to the place of the next one when the film begins again.
          if (now.smoke.empty()) now.smoke = {""};
          for (std::string& s : now.smoke)
            s += fmt::format("{}beads, phase = {:.6f}", s.empty() ? "" : ", ",
                             std::fmod(4.0 * i / o.frames, 1.0));
        }
        std::vector<Scene> scenes = scenes_of(now);
        for (std::size_t k = 0; k < scenes.size(); ++k)
          scenes[k].frame = fixed[k].frame, scenes[k].scales = fixed[k].scales,
          scenes[k].fitted_height = false;
        return on_one_sheet(scenes, r.dark, progress);
      },
      progress);
}

bool is_film_in_time(const std::string& words) { return Words(words, "film").flag("time"); }

namespace {

/// What the request asks for, on a scene that was made before.
void apply(const PictureRequest& r, Scene& s) {
  s.fitted_height = false;
  if (!r.view.empty() || r.perspective) {
    const Vec3 towards = s.view.towards;
    if (!s.flat) s.view = view_of(r), s.view.towards = towards;
  }
  if (!r.towards.empty()) s.view.towards = view_of(r).towards;
  if (r.zoom != 1) s.view.zoom = r.zoom;
  if (r.width >= 0) s.width = r.width, s.height = r.height;
  if (r.dark) s.dark = true;
  for (const std::string& text : r.range) {
    const Range range = range_of(text);
    const auto found = s.scales.find(range.quantity);
    if (found == s.scales.end())
      throw InputError("the kept picture does not show '" + range.quantity + "'", "range",
                       "name one of its quantities");
    ColourScale& scale = found->second;
    scale.least = range.least, scale.most = range.most;
    const bool about_zero = std::abs(range.least + range.most) < 1e-9 * range.most;
    scale.palette = about_zero ? Palette::balance : Palette::dune;
  }
}

}  // namespace

void film_in_time(const std::filesystem::path& reels, const PictureRequest& r,
                  const std::string& text, const std::filesystem::path& file,
                  const Progress& progress) {
  Words w(text, "film");
  w.flag("time");
  const std::vector<std::string> names = reels_of(reels);
  const std::string name = slug(w.text("picture", names.empty() ? "" : names.front()), "picture");
  const double rate = w.number("rate", 24);
  if (!(rate > 0)) w.fail("the rate is not above zero", "write rate = 24");
  w.finish();
  if (!r.nothing())
    throw InputError("a film in time shows what was kept", "film",
                     "leave surface, slice, smoke, volume and cores away");
  if (names.empty())
    throw InputError("this run has kept no pictures over time", reels.parent_path().string(),
                     "give its campaign [time] picture_every and a [[picture]]; then run it again");
  if (std::find(names.begin(), names.end(), name) == names.end())
    throw InputError("no picture '" + name + "' was kept", reels.parent_path().string(),
                     fmt::format("use picture = {}", fmt::join(names, ", or ")));
  write_reel_film(
      Reel(reels / name), file, rate, [&](Scene& s) { apply(r, s); }, progress);
}

}  // namespace dunefield
