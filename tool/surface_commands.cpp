// Commands on surfaces alone: inspect and mend.
#include "commands.hpp"

#include <fmt/format.h>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/dunefield.hpp>
#include <dunefield/look/health_picture.hpp>
#include <dunefield/mesh/mesh_findings.hpp>
#include <dunefield/record/json.hpp>

namespace dunefield::tool {
namespace {

namespace fs = std::filesystem;

/// Of a component of a unit axis, as it is printed; what rounds to nothing has no sign.
double degrees_of(double component) {
  const double angle = 57.29577951308232 * std::asin(component);
  return std::abs(angle) < 0.005 ? 0 : angle;
}

Surface read_all(const std::vector<fs::path>& files) {
  Surface s;
  for (std::size_t i = 0; i < files.size(); ++i) {
    if (std::find(files.begin(), files.begin() + static_cast<std::ptrdiff_t>(i), files[i]) !=
        files.begin() + static_cast<std::ptrdiff_t>(i))
      throw InputError("is listed twice", files[i].string(), "list it once");
    if (i == 0)
      s = read_surface(files[i]);
    else
      append(s, read_surface(files[i]));
  }
  return s;
}

struct Inspected {
  Surface surface;
  Stance stance;
  std::vector<Wheel> wheels;
  Findings findings;
  HealthReport health;
  std::vector<Cavity> cavities;
  double area = 0;
};

/// As a mesh by the recipe `scout` closes them; on or off the road makes no difference.
std::vector<Cavity> cavities_at_scout(const Surface& s) {
  Box around = bounds(s);
  MeshOptions options = mesh_recipe("scout", around, "inspect");
  options.boxes.clear();
  const double margin = 0.2 * norm(around.size());
  around.lo -= Vec3{margin, margin, margin}, around.hi += Vec3{margin, margin, margin};
  return find_cavities(s, around, options);
}

Inspected look_at(const InspectOptions& o, Console& console) {
  Inspected r;
  Surface& s = r.surface;
  if (!o.unit.empty()) length_unit(o.unit, "--unit");
  console.progress("reading");
  s = read_all({o.files.begin(), o.files.end()});
  console.progress("guessing how it stands");
  r.stance = guess_stance(s, o.unit);
  if (!o.nose.empty()) r.stance.nose = o.nose;
  if (!o.up.empty()) r.stance.up = o.up;
  if (r.stance.nose[1] == r.stance.up[1])
    throw InputError("'" + r.stance.up + "' lies along the nose", "--up",
                     "give two different axes");
  turn_upright(s, r.stance.nose, r.stance.up);
  scale(s, length_unit(r.stance.unit, "--unit"));
  r.findings = separate_wheels(s);
  r.wheels = find_wheels(s);
  r.area = frontal_area(s);
  r.health = check_health(
      s, {[&](const std::string& stage, double share) {
            console.progress(fmt::format("inspecting {:3.0f} %  {}", 100 * share, stage));
          },
          stop_requested});
  const double length = bounds(s).size().x;
  if (length > 40 || length < 0.1)
    r.findings.warn(
        fmt::format("{:.4g} m long with unit {}: is the unit right?", length, r.stance.unit));
  r.findings.append(findings_of(r.health, s));
  console.progress("looking for cavities");
  r.cavities = cavities_at_scout(s);
  report_cavities(r.cavities, r.findings);
  return r;
}

void show_parts(const Surface& s, Console& console) {
  const std::size_t n = s.part_names.size();
  std::vector<std::size_t> count(n, 0);
  std::vector<double> area(n, 0);
  std::vector<Box> box(n);
  for (std::size_t t = 0; t < s.size(); ++t) {
    const auto p = static_cast<std::size_t>(s.part_of[t]);
    ++count[p], area[p] += norm(s.area_vector(t));
    for (int k = 0; k < 3; ++k) box[p].include(s.corner(t, k));
  }
  std::vector<std::vector<std::string>> rows = {
      {"part", "triangles", "area m2", "x m", "y m", "z m"}};
  for (std::size_t p = 0; p < n; ++p) {
    if (count[p] == 0) continue;
    const Box& b = box[p];
    rows.push_back({s.part_names[p], fmt::format("{}", count[p]), fmt::format("{:.3f}", area[p]),
                    fmt::format("{:.3f} .. {:.3f}", b.lo.x, b.hi.x),
                    fmt::format("{:.3f} .. {:.3f}", b.lo.y, b.hi.y),
                    fmt::format("{:.3f} .. {:.3f}", b.lo.z, b.hi.z)});
  }
  console.table(rows);
}

std::string histogram_line(const WidthHistogram& h) {
  std::string text;
  for (std::size_t i = 0; i < WidthHistogram::limits_mm.size(); ++i)
    if (h.share[i] >= 0.0005)
      text += fmt::format("{}{:.1f} % under {:g} mm", text.empty() ? "" : ", ", 100 * h.share[i],
                          WidthHistogram::limits_mm[i]);
  if (text.empty()) return "none under 200 mm";
  return text + fmt::format("; least {:.2f} mm at ({:.3f}, {:.3f}, {:.3f}) m", 1000 * h.least,
                            h.least_place.x, h.least_place.y, h.least_place.z);
}

/// Distance between the leftmost and the rightmost wheel of the foremost and of the rearmost axle.
std::array<double, 2> tracks(const std::vector<Wheel>& wheels) {
  std::array<double, 2> out{};
  if (wheels.empty()) return out;
  double front = 1e300, rear = -1e300;
  for (const Wheel& w : wheels)
    front = std::min(front, w.centre.x), rear = std::max(rear, w.centre.x);
  for (const int end : {0, 1}) {
    double lo = 1e300, hi = -1e300;
    for (const Wheel& w : wheels)
      if (std::abs(w.centre.x - (end ? rear : front)) < 0.3 * w.radius)
        lo = std::min(lo, w.centre.y), hi = std::max(hi, w.centre.y);
    out[at(end)] = hi - lo;
  }
  return out;
}

Json histogram_json(const WidthHistogram& h) {
  Json list = Json::array();
  for (std::size_t i = 0; i < WidthHistogram::limits_mm.size(); ++i)
    list.push_back({{"under_mm", WidthHistogram::limits_mm[i]}, {"share", h.share[i]}});
  return {{"shares", list}, {"least_m", h.least}, {"least_place_m", vector_json(h.least_place)}};
}

Json parts_json(const Surface& s) {
  Json parts = Json::array();
  for (std::size_t p = 0; p < s.part_names.size(); ++p) {
    const Box b = bounds(s, static_cast<int>(p));
    if (b.empty()) continue;
    std::size_t count = 0;
    double area = 0;
    for (std::size_t t = 0; t < s.size(); ++t)
      if (s.part_of[t] == static_cast<int>(p)) ++count, area += norm(s.area_vector(t));
    parts.push_back({{"part", s.part_names[p]},
                     {"triangles", count},
                     {"area_m2", area},
                     {"from_m", vector_json(b.lo)},
                     {"to_m", vector_json(b.hi)}});
  }
  return parts;
}

Json wheels_json(const std::vector<Wheel>& list) {
  Json wheels = Json::array();
  for (const Wheel& w : list)
    wheels.push_back({{"part", w.part},
                      {"centre_m", vector_json(w.centre)},
                      {"axis", vector_json(w.axis)},
                      {"radius_m", w.radius},
                      {"width_m", w.width},
                      {"fit_error", w.fit_error}});
  return wheels;
}

Json health_json(const HealthReport& h) {
  Json loops = Json::array(), stray = Json::array();
  for (const EdgeLoop& l : h.loops)
    loops.push_back({{"edges", l.points.size()},
                     {"length_m", l.length},
                     {"size_m", l.size},
                     {"centre_m", vector_json(l.centre)},
                     {"closed", l.closed}});
  for (const StrayBit& b : h.stray_bits)
    stray.push_back({{"part", b.part},
                     {"triangles", b.triangles},
                     {"size_m", b.size},
                     {"centre_m", vector_json(b.centre)}});
  return {{"closed", h.closed},
          {"open_edges", h.open_edges},
          {"open_loops", loops},
          {"non_manifold_edges", h.non_manifold_edges},
          {"flipped_facets", h.flipped_facets},
          {"doubled_facets", h.doubled_facets},
          {"sheet_facets", h.sheet_facets},
          {"slivers", h.slivers},
          {"stray_bits", stray},
          {"crossings",
           {{"within_a_piece", h.crossings_in_a_piece},
            {"between_pieces", h.crossings_between_pieces}}},
          {"thickness", histogram_json(h.widths.thickness)},
          {"gaps", histogram_json(h.widths.gap)},
          {"asymmetry",
           {{"plane_y_m", h.across.plane},
            {"mean_m", h.across.mean},
            {"largest_m", h.across.largest},
            {"place_m", vector_json(h.across.place)}}}};
}

Json inspected_json(const Inspected& r) {
  const Surface& s = r.surface;
  const Box box = bounds(s);
  const auto track = tracks(r.wheels);
  Json j = {{"triangles", s.size()},
            {"points", s.points.size()},
            {"pieces", r.health.pieces},
            {"stance",
             {{"unit", r.stance.unit},
              {"nose", r.stance.nose},
              {"up", r.stance.up},
              {"nose_is_clear", r.stance.nose_is_clear},
              {"reasons", r.stance.reasons}}},
            {"size_m", vector_json(box.size())},
            {"from_m", vector_json(box.lo)},
            {"to_m", vector_json(box.hi)},
            {"frontal_area_m2", r.area},
            {"wheelbase_m", wheelbase_of(r.wheels)},
            {"track_front_m", track[0]},
            {"track_rear_m", track[1]}};
  j.update(health_json(r.health));
  j["parts"] = parts_json(s);
  j["wheels"] = wheels_json(r.wheels);
  j["cavities"] = to_json(r.cavities);
  j["findings"] = findings_json(r.findings);
  return j;
}

/// Lowest point of what does not turn, above the road under the wheels.
double clearance(const Surface& s, const std::vector<Wheel>& wheels) {
  double lowest = 1e300;
  for (std::size_t t = 0; t < s.size(); ++t) {
    const auto& name = s.part_names[at(s.part_of[t])];
    if (std::any_of(wheels.begin(), wheels.end(), [&](const Wheel& w) { return w.part == name; }))
      continue;
    for (int k = 0; k < 3; ++k) lowest = std::min(lowest, s.corner(t, k).z);
  }
  return lowest - bounds(s).lo.z;
}

}  // namespace

int inspect(const InspectOptions& o, Console& console) {
  const Inspected r = look_at(o, console);
  const Surface& s = r.surface;
  const Vec3 size = bounds(s).size();
  if (!o.picture.empty())
    draw_health(
        o.picture, s, r.health, r.wheels,
        fs::path(o.files.front()).filename().string() + (o.files.size() > 1 ? " and others" : ""));
  Json j = inspected_json(r);
  if (!o.picture.empty()) j["picture"] = o.picture;
  console.json(dumped(j));
  show_parts(s, console);
  console.line();
  console.line(
      fmt::format("size       {:.3f} x {:.3f} x {:.3f} m; {} triangles in {} connected pieces",
                  size.x, size.y, size.z, s.size(), r.health.pieces));
  console.line(fmt::format("stance     unit {}{}, nose towards {}{}, up {}{}", r.stance.unit,
                           o.unit.empty() ? " (guessed)" : "", r.stance.nose,
                           !o.nose.empty()          ? ""
                           : r.stance.nose_is_clear ? " (guessed)"
                                                    : " (assumed)",
                           r.stance.up, o.up.empty() ? " (guessed)" : ""));
  for (const auto& reason : r.stance.reasons) console.line("           " + reason);
  console.line(fmt::format("area       frontal {:.4f} m2", r.area));
  for (const Wheel& w : r.wheels)
    console.line(
        fmt::format("wheel      '{}': axle at ({:.3f}, {:.3f}, {:.3f}) m, radius {:.3f} m, width "
                    "{:.3f} m, camber {:+.2f} deg, toe {:+.2f} deg, fit {:.3f}",
                    w.part, w.centre.x, w.centre.y, w.centre.z, w.radius, w.width,
                    degrees_of(w.axis.z), degrees_of(w.axis.x), w.fit_error));
  if (r.wheels.empty())
    console.line(
        "wheel      none found: name the parts, or give centre, axis and radius in the campaign "
        "file");
  if (wheelbase_of(r.wheels) > 0) {
    const auto track = tracks(r.wheels);
    console.line(
        fmt::format("wheelbase  {:.3f} m; track front {:.3f} m, rear {:.3f} m; lowest part of the "
                    "body {:.3f} m above the road",
                    wheelbase_of(r.wheels), track[0], track[1], clearance(s, r.wheels)));
  }
  console.line("thickness  " + histogram_line(r.health.widths.thickness));
  console.line("gaps       " + histogram_line(r.health.widths.gap));
  console.line(fmt::format(
      "sides      differ by {:.2f} mm on average, at most {:.1f} mm, about y = {:.4f} m",
      1000 * r.health.across.mean, 1000 * r.health.across.largest, r.health.across.plane));
  console.show(r.findings);
  if (r.health.closed && r.health.flipped_facets == 0 && r.health.doubled_facets == 0)
    console.line("health     closed, facets outward, none doubled");
  if (!o.picture.empty()) console.line("written    " + o.picture);
  return exit_code::done;
}

int mend(const MendArguments& a, Console& console) {
  Surface s = read_all({a.files.begin(), a.files.end()});
  const double metres = length_unit(a.unit, "--unit");
  scale(s, metres);
  const auto length = [](const std::string& text, const char* option) {
    return text.empty() ? 0.0 : parse_quantity(text, Dimension::length, option);
  };
  MendOptions o;
  o.weld = length(a.weld, "--weld");
  o.drop_doubled = a.drop_doubled;
  o.drop_stray = length(a.drop_stray, "--drop-stray");
  o.orient = a.orient;
  o.close_loops = length(a.close, "--close");
  for (const std::string& t : a.thicken) {
    const auto sign = t.rfind('=');
    if (sign == t.npos || sign == 0)
      throw InputError("'" + t + "' names no part and thickness", "--thicken",
                       "write --thicken \"part=2 mm\"");
    o.thicken[t.substr(0, sign)] = length(t.substr(sign + 1), "--thicken");
  }
  if (!(o.weld >= 0 && o.drop_stray >= 0 && o.close_loops >= 0))
    throw InputError("a length is below zero", "mend", "check its sign");
  if (o.weld == 0 && !o.drop_doubled && o.drop_stray == 0 && !o.orient && o.close_loops == 0 &&
      o.thicken.empty())
    throw InputError("nothing to do was asked for", "mend",
                     "add --weld, --drop-doubled, --drop-stray, --orient, --close or --thicken");
  const fs::path out = a.into;
  for (const auto& f : a.files) {
    std::error_code status;
    if (fs::equivalent(out, f, status))
      throw InputError("is the original, which is never touched", out.string(),
                       "choose another name");
  }
  const Findings done = mend(s, o);
  scale(s, 1 / metres);
  write_stl_ascii(out, s);
  console.json(
      dumped({{"file", out.string()}, {"triangles", s.size()}, {"done", findings_json(done)}}));
  console.show(done);
  console.line("written    " + out.string());
  return exit_code::done;
}

}  // namespace dunefield::tool
