#include <dunefield/geometry/vehicle.hpp>

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/geometry/stance.hpp>

namespace dunefield {
namespace {

/// Of the vehicle's height: a body nearer to z = 0 than that stands on the road as it is, tyres may
/// reach as far under it by their own flat if they can still roll.
constexpr double on_the_road = 0.03;
/// Of the vehicle's height: a clearance of tyres that is none.
constexpr double rounding = 0.001;
/// Of the longest side: a body without wheels may hang that high over the road of its file; a
/// larger distance is that of an origin somewhere else.
constexpr double highest_clearance = 3;

/// Finds, cuts out or takes the named wheels; wheels hidden in larger parts become parts.
std::vector<Wheel> wheels_of(const VehicleOptions& o, Surface& s, const Vec3& shift,
                             const std::string& where, Findings& findings) {
  std::vector<Wheel> wheels;
  for (const GivenWheel& g : o.given_wheels) {
    Wheel w = g.wheel;
    w.centre = w.centre * o.scale + shift, w.radius *= o.scale, w.width *= o.scale;
    cut_out_wheel(s, w, g.from_part, where + " (wheel)");
    wheels.push_back(w);
  }
  for (const auto& name : o.wheel_parts)
    wheels.push_back(named_wheel(s, name, where + " (wheels.parts)"));
  if (!o.find_wheels) return wheels;
  findings.append(separate_wheels(s));
  for (const Wheel& w : find_wheels(s)) {
    const auto same = [&](const Wheel& known) { return known.part == w.part; };
    if (std::none_of(wheels.begin(), wheels.end(), same)) wheels.push_back(w);
  }
  return wheels;
}

std::vector<Wheel> wheels_when_shifted(const Surface& upright, const VehicleOptions& o,
                                       const Vec3& shift) {
  Surface placed = upright;
  translate(placed, shift);
  Findings unsaid;  // each variant says it again
  return wheels_of(o, placed, shift, "wheels", unsaid);
}

/// Upward shift onto the road of the file that the user names.
double onto_given_road(const Box& box, double road, Findings& findings) {
  const Vec3 size = box.size();
  const double under = road - box.lo.z;
  if (under >= size.z)
    throw InputError(fmt::format("the whole vehicle lies below the road at {:.4g} m", road),
                     "vehicle.road",
                     fmt::format("it reaches from {:.4g} to {:.4g} m", box.lo.z, box.hi.z));
  if (under > on_the_road * size.z)
    findings.warn(fmt::format(
        "the vehicle reaches {:.3f} m below its road: what lies there is left out", under));
  if (-under > highest_clearance * std::max({size.x, size.y, size.z}))
    findings.warn(fmt::format("the vehicle hangs {:.3f} m above its road", -under));
  return -road;
}

/// Whether tyres that reach a little under the road of the file can roll on it all the same.
bool rolls(const Surface& upright, const VehicleOptions& o) {
  const auto wheels = wheels_when_shifted(upright, o, {});
  return std::all_of(wheels.begin(), wheels.end(), meets_road);
}

/// Upward shift onto the road.
double onto_road(const Surface& upright, const VehicleOptions& o, Findings& findings) {
  const Box box = bounds(upright);
  if (o.road) return onto_given_road(box, *o.road * o.scale, findings);
  const Vec3 size = box.size();
  const double lowest = box.lo.z;
  if (std::abs(lowest) <= rounding * size.z) return 0;
  if (lowest < 0 && lowest >= -on_the_road * size.z && rolls(upright, o)) return 0;
  const bool clear = lowest > 0 && lowest <= highest_clearance * std::max({size.x, size.y, size.z});
  if (clear && wheels_when_shifted(upright, o, {0, 0, -lowest}).empty()) {
    if (lowest <= on_the_road * size.z) return 0;
    findings.note(fmt::format(
        "the vehicle has no wheels and stays {:.3f} m above the road, which is z = 0 of its file",
        lowest));
    return 0;
  }
  findings.warn(fmt::format(
      "the vehicle was moved by {:+.3f} m in height so that its lowest point stands on the road; "
      "its road height in the file, if known, says it better",
      -lowest));
  return -lowest;
}

/// Shift sideways onto the centre plane, about which moments are taken: of the middle between the
/// outermost wheels, where there is a track, of the whole where there is none or where it is to be
/// cut there. What sticks out on one side alone is no reason to move a vehicle that is not cut.
double onto_centre_plane(const Box& box, const std::vector<Wheel>& wheels, bool cut,
                         Findings& findings) {
  constexpr double off_when_cut = 1e-3, off_track = 0.02, off_bounds = 0.1;  // of the width
  double lo = 1e300, hi = -1e300;
  for (const Wheel& w : wheels) lo = std::min(lo, w.centre.y), hi = std::max(hi, w.centre.y);
  const double width = box.size().y;
  const bool track = !cut && hi - lo > 0.5 * width;
  const double middle = track ? 0.5 * (lo + hi) : box.centre().y;
  if (std::abs(middle) < (cut ? off_when_cut : track ? off_track : off_bounds) * width) return 0;
  findings.warn(
      fmt::format("the vehicle was moved by {:+.3f} m sideways so that {} lies on the centre plane",
                  -middle, track ? "the middle of its track" : "its middle"));
  return -middle;
}

}  // namespace

Surface upright(Surface s, const VehicleOptions& o) {
  if (s.size() == 0) return s;
  scale(s, o.unit * o.scale);
  turn_upright(s, o.nose, o.up);
  return s;
}

Surface read_upright(const std::vector<std::filesystem::path>& files, const VehicleOptions& o) {
  Surface all;
  for (const auto& file : files) {
    Surface one = read_surface(file, o.curves);
    if (!says_its_unit(file)) scale(one, o.unit);
    append(all, one);
  }
  turn_upright(all, o.nose, o.up);
  scale(all, o.scale);
  return all;
}

Vec3 placement(const Surface& upright, const VehicleOptions& o, Findings& findings) {
  const Box box = bounds(upright);
  Vec3 shift{0, 0, onto_road(upright, o, findings)};
  const std::vector<Wheel> wheels = wheels_when_shifted(upright, o, shift);
  if (wheelbase_of(wheels) > 0) {
    double lo = 1e300, hi = -1e300;
    for (const Wheel& w : wheels) lo = std::min(lo, w.centre.x), hi = std::max(hi, w.centre.x);
    shift.x = -0.5 * (lo + hi);
  } else {
    shift.x = -box.centre().x;
    findings.note(
        "fewer than two axles are known: the origin is the middle of the vehicle's length");
  }
  if (std::abs(shift.x) < 1e-6 * box.size().z) shift.x = 0;
  shift.y = onto_centre_plane(box, wheels, o.centred, findings);
  return shift;
}

Vehicle placed_vehicle(std::string name, Surface upright, const Vec3& shift,
                       const VehicleOptions& o, const std::string& where) {
  Vehicle v;
  v.name = std::move(name), v.surface = std::move(upright), v.scale = o.scale;
  translate(v.surface, shift);
  v.wheels = wheels_of(o, v.surface, shift, where, v.findings);
  return v;
}

const VehicleGroup& group_of(const std::vector<VehicleGroup>& all, const std::string& part) {
  const auto own = std::find_if(all.begin() + 1, all.end(),
                                [&](const VehicleGroup& g) { return part.starts_with(g.prefix); });
  return own == all.end() ? all.front() : *own;
}

Vehicle read_vehicle(const std::filesystem::path& file, const VehicleOptions& options) {
  return read_vehicle(std::vector{file}, options);
}

Vehicle read_vehicle(const std::vector<std::filesystem::path>& files, const VehicleOptions& o) {
  Surface upright = read_upright(files, o);
  Findings findings;
  const Vec3 shift = placement(upright, o, findings);
  Vehicle v = placed_vehicle(files.front().stem().string(), std::move(upright), shift, o,
                             files[0].string());
  findings.append(v.findings);
  v.findings = std::move(findings);
  v.frontal_area = frontal_area(v.surface);
  return v;
}

void report_turning(const std::vector<Wheel>& wheels, double road, Findings& findings) {
  std::vector<std::pair<std::string, std::string>> alike;  // the way of turning, and the parts
  for (const Wheel& w : wheels) {
    const Vec3 spin = w.spin(road);
    const std::string way = fmt::format(
        "axle {:.3f} m above the road, {:.1f} rad/s; at the road the tread moves rearward at "
        "{:.2f} m/s",
        w.loaded_radius(), norm(spin), tread_speed(w, spin));
    const auto same =
        std::find_if(alike.begin(), alike.end(), [&](const auto& a) { return a.first == way; });
    if (same == alike.end())
      alike.push_back({way, fmt::format("'{}'", w.part)});
    else
      same->second += fmt::format(", '{}'", w.part);
  }
  for (const auto& [way, parts] : alike) findings.note(fmt::format("turning: {}: {}", parts, way));
}

}  // namespace dunefield
