#include <dunefield/look/picture_request.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/look/charts.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/look/scene_sheet.hpp>
#include <dunefield/look/words.hpp>
#include <dunefield/mesh/tunnel.hpp>

namespace dunefield {
namespace {

/// The one word that is left is the quantity.
std::string quantity_left(Words& w, const std::string& otherwise) {
  std::string named = w.text("quantity", "");
  for (const std::string& other : w.others()) {
    if (!named.empty())
      w.fail("'" + other + "' is not known here, or is a second quantity besides '" + named + "'",
             "name one quantity, and check the other words in docs/guide/pictures.md");
    named = other;
  }
  return named.empty() ? otherwise : named;
}

/// "bands" or "bands = 12".
int steps(Words& w, const char* word, int usual) {
  return w.flag(word) ? usual : w.count(word, 0, 0, 200);
}

Plane plane_of(Words& w, const Plane& otherwise) {
  Plane plane = otherwise;
  int given = 0;
  for (int axis = 0; axis < 3; ++axis) {
    const std::string key(1, "xyz"[axis]);
    if (!w.has(key)) continue;
    plane = {};
    plane.normal = {}, plane.normal[axis] = 1;
    plane.point[axis] = w.quantity(key, Dimension::length, 0);
    ++given;
  }
  if (const auto through = w.place("through")) plane.point = *through, ++given;
  if (const auto normal = w.direction("normal")) plane.normal = *normal;
  if (given > 1) w.fail("more than one plane is named", "give x, y or z, or through and normal");
  return plane;
}

std::vector<Vec3> seeds_of(Words& w, const FlowView* view) {
  const int count = w.count("count", 0, 0, 100'000);
  const auto from = w.place("from"), to = w.place("to"), side = w.place("far_side"),
             at = w.place("at"), centre = w.place("circle");
  const std::string part = w.text("part", "");
  const bool vortex = w.flag("vortex"), stagnation = w.flag("stagnation");
  const int ways =
      vortex + stagnation + from.has_value() + at.has_value() + centre.has_value() + !part.empty();
  if (ways > 1) w.fail("seeds are named in two ways", "give from and to, or at, circle or part");
  if (from.has_value() != to.has_value())
    w.fail("one end of the line is missing", "give from and to");
  if (vortex) return view ? seeds_round_vortex(*view, count ? count : 24) : std::vector<Vec3>();
  if (stagnation)
    return view ? seeds_at_stagnation(*view, count ? count : 40) : std::vector<Vec3>();
  if (at) return {*at};
  if (centre) {
    const double radius = w.quantity("radius", Dimension::length, 0);
    if (!(radius > 0)) w.fail("the circle has no radius", "write radius = 0.3 m");
    return circle_of_seeds(*centre, w.direction("normal").value_or(Vec3{1, 0, 0}), radius,
                           count ? count : 32);
  }
  if (!part.empty())
    return view ? seeds_on_part(*view, part, count ? count : 60) : std::vector<Vec3>();
  if (!from) return view ? nose_rake(view->record(), count ? count : 54) : std::vector<Vec3>();
  if (!side) return line_of_seeds(*from, *to, count ? count : 30);
  const int rows = w.count("rows", 8, 1, 10'000);
  std::vector<Vec3> seeds;
  for (const Vec3& start : line_of_seeds(*from, *side, rows))
    for (const Vec3& p : line_of_seeds(start, start + (*to - *from), count ? count : 12))
      seeds.push_back(p);
  return seeds;
}

}  // namespace

View view_of(const PictureRequest& r) {
  View view;
  if (r.view.starts_with('(')) {
    Words w("view = " + r.view, "view");
    view.from = *w.direction("view");
  } else if (!r.view.empty()) {
    const auto& names = view_names();
    if (std::find(names.begin(), names.end(), r.view) == names.end())
      throw InputError("there is no view '" + r.view + "'", "view",
                       "did you mean '" + nearest_word(r.view, names) +
                           "'? A direction like (-1, "
                           "-0.5, 0.4) will do, too");
    view = named_view(r.view);
  }
  if (!(r.zoom > 0)) throw InputError("the zoom must be above zero", "zoom", "write 2 for nearer");
  view.perspective = r.perspective, view.zoom = r.zoom;
  if (!r.towards.empty()) {
    Words w("towards = " + r.towards, "towards");
    view.towards = *w.place("towards");
    w.finish();
  }
  return view;
}

Range range_of(const std::string& text) {
  const std::size_t equals = text.rfind('=');
  if (equals == std::string::npos || equals == 0)
    throw InputError("'" + text + "' is no range", "range", "write \"Cp = -1..1\"");
  std::string quantity = text.substr(0, equals);
  quantity.erase(quantity.find_last_not_of(' ') + 1);
  Words w("range" + text.substr(equals), "range of " + quantity);
  const auto [least, most] = *w.range("range");
  return {quantity, least, most};
}

SurfaceLook surface_look(const std::string& text) {
  Words w(text, "surface");
  SurfaceLook s;
  s.only = w.list("only"), s.hidden = w.list("hide"), s.translucent = w.list("translucent");
  s.opacity = w.number("opacity", s.opacity);
  if (!(s.opacity >= 0 && s.opacity <= 1))
    w.fail("the opacity is not from 0 to 1", "write opacity = 0.4");
  s.bands = steps(w, "bands", round_steps), s.lines = steps(w, "lines", 10);
  s.oil_flow = w.flag("oil flow"), s.tufts = w.flag("tufts");
  s.turning_lines = w.flag("separation"), s.stagnation = w.flag("stagnation");
  const bool plain = w.flag("plain");
  s.quantity = plain ? "" : quantity_left(w, s.quantity);
  w.finish();
  return s;
}

SliceLook slice_look(const std::string& text, const Record* record) {
  Words w(text, "slice");
  SliceLook s;
  s.plane = plane_of(w, s.plane);
  s.filled = !w.flag("unfilled");
  s.bands = steps(w, "bands", round_steps), s.lines = steps(w, "lines", 10);
  s.even_arrows = w.flag("even arrows"), s.arrows = w.flag("arrows") || s.even_arrows;
  s.texture = w.flag("texture"), s.outlines = w.flag("outlines"), s.as_cells = w.flag("cells");
  const auto from = w.place("from"), to = w.place("to");
  if (from.has_value() != to.has_value())
    w.fail("one corner of the region is missing", "give from and to");
  if (from) s.region.include(*from), s.region.include(*to);
  if (w.flag("whole tunnel") && record) s.region = record->tunnel;
  s.quantity = quantity_left(w, s.quantity);
  w.finish();
  return s;
}

SmokeLook smoke_look(const std::string& text, const FlowView* view) {
  Words w(text, "smoke");
  SmokeLook s;
  s.name = w.text("name", s.name);
  s.seeds = seeds_of(w, view);
  if (w.flag("lines")) s.form = SmokeLook::Form::lines;
  if (w.flag("ribbons")) s.form = SmokeLook::Form::ribbons;
  if (w.flag("arrows")) s.form = SmokeLook::Form::arrows;
  if (w.flag("beads")) s.form = SmokeLook::Form::beads;
  w.flag("tubes"), w.flag("rake");
  if (w.flag("backward")) s.how.direction = Direction::backward;
  if (w.flag("both ways")) s.how.direction = Direction::both;
  s.how.length = w.quantity("length", Dimension::length, 0);
  s.radius = w.quantity("thickness", Dimension::length, 0) / 2;
  s.phase = w.number("phase", 0);
  const bool plain = w.flag("plain");
  s.quantity = plain ? "" : quantity_left(w, s.quantity);
  w.finish();
  return s;
}

VolumeLook volume_look(const std::string& text) {
  Words w(text, "volume");
  VolumeLook v;
  v.level = w.number("level", v.level);
  v.coloured_by = w.text("colour", "");
  v.opacity = w.number("opacity", v.opacity);
  if (!(v.opacity > 0 && v.opacity <= 1))
    w.fail("the opacity is not from 0 to 1", "write opacity = 0.4");
  v.quantity = quantity_left(w, v.quantity);
  w.finish();
  return v;
}

VortexOptions cores_look(const std::string& text) {
  Words w(text, "cores");
  VortexOptions o;
  o.weakest = w.number("weakest", o.weakest), o.shortest = w.number("shortest", o.shortest);
  o.most = w.count("most", o.most, 1, 1000);
  w.finish();
  return o;
}

void check_request(const PictureRequest& r) {
  for (const std::string& s : r.surface) surface_look(s);
  for (const std::string& s : r.volume) volume_look(s);
  for (const std::string& s : r.cores) cores_look(s);
  for (const std::string& s : r.slice) slice_look(s, nullptr);
  for (const std::string& s : r.smoke) smoke_look(s, nullptr);
  for (const std::string& s : r.range) range_of(s);
  if (!r.chart.empty()) check_chart(r.chart);
  view_of(r);
}

Picture picture_of(std::shared_ptr<const FlowView> view, const PictureRequest& r) {
  Picture p(view);
  p.view(view_of(r)).dark(r.dark);
  if (r.width >= 0) p.size(r.width, r.height);
  for (const std::string& s : r.surface) p.surface(surface_look(s));
  if (r.nothing()) {
    p.surface();
    p.smoke(SmokeLook{});
  }
  for (const std::string& s : r.slice) p.slice(slice_look(s, &view->record()));
  for (const std::string& s : r.smoke) p.smoke(smoke_look(s, view.get()));
  for (const std::string& s : r.volume) p.volume(volume_look(s));
  for (const std::string& s : r.cores) p.cores(cores_look(s));
  for (const std::string& s : r.range) {
    const Range range = range_of(s);
    p.range(range.quantity, range.least, range.most);
  }
  return p;
}

Looked look_at(const std::vector<std::shared_ptr<const FlowView>>& views, const PictureRequest& r,
               const Progress& progress) {
  Looked looked;
  std::vector<Scene> scenes;
  const auto add = [&](const std::shared_ptr<const FlowView>& view, const PictureRequest& request) {
    progress.check();
    const Picture p = picture_of(view, request);
    if (scenes.empty()) looked.smoke = p.smoke_reports();
    scenes.push_back(p.scene());
  };
  for (const auto& view : views) {
    if (r.series.empty()) {
      add(view, r);
      continue;
    }
    Words w(r.series, "series");
    const Sweep sweep = sweep_of(w, view->record(), 6);
    w.finish();
    for (int i = 0; i < sweep.steps; ++i) add(view, sweep.at(r, i));
  }
  share_out(scenes);
  looked.image = on_one_sheet(scenes, r.dark, progress);
  return looked;
}

PictureRequest request_from(const WantedPicture& wanted) {
  PictureRequest r;
  r.name = wanted.name;
  for (const auto& [key, text] : wanted.words) {
    if (key == "surface") r.surface.push_back(text);
    if (key == "slice") r.slice.push_back(text);
    if (key == "smoke") r.smoke.push_back(text);
    if (key == "volume") r.volume.push_back(text);
    if (key == "cores") r.cores.push_back(text);
    if (key == "range") r.range.push_back(text);
    if (key == "view") r.view = text;
    if (key == "towards") r.towards = text;
    if (key == "zoom") r.zoom = Words("zoom = " + text, "zoom").number("zoom", 1);
    if (key == "chart") r.chart = text;
    if (key == "series") r.series = text;
    if (key == "paper") r.dark = text == "dark";
  }
  check_request(r);
  return r;
}

std::vector<std::string> draw_wanted(const std::filesystem::path& folder, const Record& record,
                                     const std::vector<WantedPicture>& wanted) {
  std::vector<std::string> troubles;
  if (wanted.empty()) return troubles;
  const std::vector<std::shared_ptr<const FlowView>> views = {std::make_shared<FlowView>(record)};
  for (const WantedPicture& one : wanted) {
    const PictureRequest r = request_from(one);
    const std::filesystem::path file = folder / (r.name + ".png");
    std::error_code ignored;
    std::filesystem::remove(file, ignored);  // what is not drawn must not show an earlier state
    try {
      if (!r.chart.empty())
        draw_chart(file, chart_of(views, r.chart));
      else
        save_png(file, look_at(views, r).image);
    } catch (const InputError& e) {
      troubles.push_back("the picture '" + one.name + "' is not drawn: " + e.what());
    }
  }
  return troubles;
}

}  // namespace dunefield
