#include <dunefield/campaign/first_guess.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <dunefield/geometry/health/symmetry.hpp>
#include <dunefield/geometry/stance.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

void check_that_it_is_a_vehicle(const Surface& s, const std::string& where) {
  constexpr std::size_t fewest = 4;  // facets of a closed body
  if (s.size() < fewest)
    throw InputError(fmt::format("holds {} facets: that is no vehicle", s.size()), where,
                     "check what was exported");
  const Vec3 size = bounds(s).size();
  const double longest = std::max({size.x, size.y, size.z}),
               shortest = std::min({size.x, size.y, size.z});
  constexpr double flattest = 1e-4;  // of the longest side: a drawing, no body
  if (!(shortest > flattest * longest))
    throw InputError(
        fmt::format("is flat ({:.4g} x {:.4g} x {:.4g} in its numbers): that is no vehicle", size.x,
                    size.y, size.z),
        where, "check what was exported");
}

std::string guessed(bool given) { return given ? "" : " (guessed)"; }

/// TOML text in quotes.
std::string quoted(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

std::string speeds_text(const std::vector<double>& speeds) {
  std::string out;
  for (const double v : speeds)
    out += (out.empty() ? "" : ", ") + quoted(fmt::format("{:.6g} km/h", 3.6 * v));
  return out;
}

}  // namespace

FirstGuess first_guess(const std::vector<fs::path>& files, const GuessOptions& o) {
  FirstGuess g;
  g.said = o;
  const std::string where = files.front().string();
  Surface s;
  for (const fs::path& f : files) append(s, read_surface(f, curves_for(o.recipe)));
  check_that_it_is_a_vehicle(s, where);
  if (std::all_of(files.begin(), files.end(), says_its_unit)) g.said.unit = "m";
  const Stance stance = guess_stance(s, g.said.unit.value_or(""));
  g.unit = stance.unit;
  Campaign& c = g.campaign;
  c.file = files.front(), c.name = files.front().stem().string(), c.surfaces = files;
  c.placing.unit = length_unit(g.unit, "unit");
  c.placing.nose = o.nose.value_or(stance.nose), c.placing.up = o.up.value_or(stance.up);
  if (c.placing.nose[1] == c.placing.up[1])
    throw InputError("'" + c.placing.up + "' lies along the nose", "up", "give two different axes");
  c.placing.road = o.road;
  c.recipe = recipe(o.recipe);
  c.speeds = o.speeds;
  Campaign::Variant as_it_is;
  as_it_is.name = "as it is";
  c.variants = {as_it_is};

  turn_upright(s, c.placing.nose, c.placing.up);
  scale(s, c.placing.unit);
  const Vec3 size = bounds(s).size();
  const Asymmetry sides = asymmetry(s, RayScene(s), 1);
  constexpr double alike = 2e-3;  // of the width
  c.tunnel.half = o.half.value_or(sides.largest <= alike * size.y);
  c.placing.centred = c.tunnel.half;
  g.in_words = {fmt::format("size       {:.3f} x {:.3f} x {:.3f} m with unit {}{}", size.x, size.y,
                            size.z, g.unit, guessed(g.said.unit.has_value())),
                fmt::format("stance     nose towards {}{}, up {}{} in the file", c.placing.nose,
                            o.nose                 ? ""
                            : stance.nose_is_clear ? " (guessed)"
                                                   : " (a mere assumption: check it)",
                            c.placing.up, guessed(o.up.has_value()))};
  for (const auto& reason : stance.reasons) g.in_words.push_back("           " + reason);
  g.in_words.push_back(fmt::format("sides      differ by {:.1f} mm at most: {} is computed",
                                   1000 * sides.largest,
                                   c.tunnel.half ? "one half" : "the whole vehicle"));
  return g;
}

std::string campaign_text(const FirstGuess& g, const fs::path& folder) {
  const Campaign& c = g.campaign;
  const fs::path here = folder.empty() ? fs::current_path() : fs::absolute(folder);
  std::string files;
  for (const fs::path& f : c.surfaces) {
    std::error_code status;
    const fs::path from = fs::relative(fs::absolute(f), here, status);
    files += (files.empty() ? "" : ", ") + quoted((from.empty() ? fs::absolute(f) : from).string());
  }
  const auto mark = [](const std::optional<std::string>& said) { return said ? "" : "guessed: "; };
  const std::string road =
      c.placing.road ? fmt::format("road = \"{:.6g} mm\"     # height of the road in the file\n",
                                   1000 * *c.placing.road)
                     : "#road = \"0 mm\"        # height of the road in the file, if the guess "
                       "is wrong\n";
  return fmt::format(
      R"(# Written by `dunefield start`. Guesses are marked; remove a # to use a line.
name = {}

[vehicle]
files = [{}]
unit = "{}"            # {}length unit of the files (m, mm, cm, in, ft)
nose = "{}"           # {}direction of the nose in the files
up = "{}"             # {}direction of the roof
{}#cavities = "open"    # compute the air in cabin and boot behind narrow gaps

[wheels]
find = true           # wheels are bodies of revolution on the road
#parts = ["wheel"]    # or name the parts that turn

[tunnel]
half = {}          # half model, mirrored: half the time; both sides must be alike
road = "rolling"      # or "fixed"

[mesh]
recipe = "{}"      # sketch (no verdicts), scout (minutes), standard, fine
#[mesh.parts]
#mirror = "8 mm"      # smaller cells on a part

[flow]
iterations = 1000     # at most; a run stops once its means are known

[runs]
speeds = [{}]
#yaw = "5 deg"        # air from the left; needs half = false

[[variant]]
name = "as it is"

#[[variant]]
#name = "with a spoiler"
#add = ["spoiler.stl"]
)",
      quoted(c.name), files, g.unit, mark(g.said.unit), c.placing.nose, mark(g.said.nose),
      c.placing.up, mark(g.said.up), road, c.tunnel.half ? "true " : "false", c.recipe.name,
      speeds_text(c.speeds));
}

}  // namespace dunefield
