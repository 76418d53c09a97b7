#include <dunefield/run/set_up_checks.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/health/symmetry.hpp>
#include <dunefield/geometry/rear_view.hpp>

namespace dunefield {
namespace {

constexpr double blockage_warning = 0.02;  // of the tunnel's section: 1 to 2 % of CD by continuity
constexpr double longest = 500, shortest = 0.01;  // m; what is beyond comes of a wrong unit
constexpr double likely_longest = 40, likely_shortest = 0.5;     // m
constexpr double fastest = 100;                                  // m/s: Mach 0.3
constexpr double widest_yaw = 0.8;                               // rad
constexpr double thin_air = 0.3, thick_air = 2;                  // kg/m3
constexpr double least_viscosity = 5e-6, most_viscosity = 5e-5;  // m2/s

/// How high the surface reaches between two sections.
double highest(const Surface& s, double from, double to) {
  double z = -1e300;
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; k < 3; ++k) {
      const Vec3 &a = s.corner(t, k), &b = s.corner(t, (k + 1) % 3);
      if (a.x >= from && a.x <= to) z = std::max(z, a.z);
      for (const double x : {from, to})
        if ((a.x < x) != (b.x < x)) z = std::max(z, a.z + (b.z - a.z) * (x - a.x) / (b.x - a.x));
    }
  return z;
}

class Checks {
 public:
  Checks(const RunSetup& setup, Findings& findings) : s_(setup), findings_(findings) {}

  std::vector<std::string> faults_of_speed() {
    conditions(), limits(), openings();
    return faults_;
  }
  std::vector<std::string> faults() {
    shape();
    if (!faults_.empty()) return faults_;  // nothing else makes sense
    conditions();
    air();
    limits();
    tunnel();
    wheels();
    names(), openings();
    sides();
    tail();
    try_out([&] { s_.mesh_options(); });
    return faults_;
  }

 private:
  void fault(const std::string& what, const std::string& key, const std::string& advice) {
    const std::string place = key.empty() ? s_.where : s_.where + " (" + key + ")";
    faults_.push_back(InputError(what, place, advice).what());
  }
  template <class Work>
  void try_out(const Work& work) {
    try {
      work();
    } catch (const InputError& e) {
      faults_.push_back(e.what());
    }
  }

  void shape() {
    const Surface& v = s_.vehicle.surface;
    if (v.size() == 0) return fault("the vehicle has no facets", "vehicle", "check its files");
    const Box box = bounds(v);
    const Vec3 size = box.size();
    const double length = size.x / s_.vehicle.scale;
    if (length > longest || length < shortest)
      fault(fmt::format("the vehicle is {:.4g} m long", length), "vehicle.unit",
            "give the unit of the files' numbers: m, mm, cm, in or ft");
    else if (!s_.tunnel.section && (length > likely_longest || length < likely_shortest))
      findings_.warn(
          fmt::format("the vehicle is {:.4g} m long: is the unit of the files right?", length));
    if (!(s_.vehicle.frontal_area > 0))
      fault("the vehicle has no frontal area above the road", "", "check unit, nose and height");
    if (s_.tunnel.section) return;  // profiles have no nose that could be told from a tail
    if (size.x < size.y)
      findings_.warn("the vehicle is wider than long: does the nose point where the set-up says?");
    // A vehicle's nose is lower than its tail, as a rule: not a two-wheeler's.
    if (size.z > 0.6 * size.x && size.y < 0.45 * size.x) return;
    constexpr double end = 0.12;  // of the length
    if (highest(v, box.lo.x, box.lo.x + end * size.x) >
        highest(v, box.hi.x - end * size.x, box.hi.x) + 0.25 * size.z)
      findings_.warn(
          "the end taken as the nose is taller than the tail: check the direction of the nose");
  }

  void conditions() {
    const RunConditions& c = s_.conditions;
    if (!(c.speed > 0) || !std::isfinite(c.speed))
      fault("the speed is not above zero", "speed", "give one, like 90 km/h");
    else if (c.speed > fastest && !c.fast)
      findings_.warn(fmt::format(
          "{:.0f} m/s is over Mach 0.3: the air would be compressed, which is not computed "
          "([flow] compressible = true does)",
          c.speed));
    if (c.fast)
      fast_air();
    else if (!c.wall_temperature.empty() || !c.wall_heat.empty())
      fault(
          "walls are given a temperature or a heat flux, but air of constant density takes no heat",
          c.wall_heat.empty() ? "wall_temperature" : "wall_heat",
          "write [flow] compressible = true, or leave them out");
    if (std::abs(c.yaw) > widest_yaw) fault("the yaw is over 45 degrees", "yaw", "check its unit");
    if (c.yaw != 0 && s_.tunnel.section)
      fault("a section has no side wind", "yaw", "leave the yaw out");
    if (c.yaw != 0 && s_.tunnel.half)
      fault("the yaw is not zero, but a half model has no side wind", "yaw",
            "set tunnel.half = false");
    if (c.road_speed && c.rolling_road && std::abs(*c.road_speed / c.speed - 1) > 1e-6)
      findings_.warn(fmt::format("the road moves at {:.2f} m/s but the stream at {:.2f} m/s",
                                 *c.road_speed, c.speed));
    if (!c.belts.empty() && c.yaw != 0)
      fault("belts lie along the tunnel, but the vehicle is turned in it", "belt",
            "set the yaw to zero, or road = \"rolling\"");
    for (const Belt& b : c.belts)
      if (!b.under_wheels && (b.centre.x - b.length / 2 < s_.tunnel_box().lo.x ||
                              b.centre.x + b.length / 2 > s_.tunnel_box().hi.x))
        fault(fmt::format("a belt of {:.3g} m reaches beyond the tunnel", b.length), "belt",
              "make it shorter, or the tunnel longer");
    if (!c.rolling_road && s_.tunnel.road)
      findings_.warn("drag and lift differ from those on the road: the tunnel's road is fixed");
    if (!c.wheels_turn && !s_.tunnel.section) findings_.warn("the wheels stand still");
  }

  void fast_air() {
    const RunConditions& c = s_.conditions;
    constexpr double most = 0.75;  // beyond it shocks decide, which the scheme smears
    const double mach = c.speed / c.fast->speed_of_sound(c.fast->temperature);
    if (!std::isfinite(mach))
      fault(fmt::format("air at rest does not become as fast as {:.0f} m/s", c.speed), "speed",
            "choose a lower speed");
    else if (mach > most)
      fault(fmt::format("{:.0f} m/s are Mach {:.2f}: beyond {} is not meant for", c.speed, mach,
                        most),
            "speed", "choose a lower speed");
    if (s_.time) fault("a flow in time keeps the air's density", "time", "leave one of them out");
    if (!traits_of(s_.flow.turbulence).fast_air)
      fault(fmt::format("fast air does not go with \"{}\"", traits_of(s_.flow.turbulence).word),
            "flow.turbulence", "choose one of " + turbulence_words([](const TurbulenceTraits& t) {
                                 return t.fast_air;
                               }));
    for (const auto& [part, kelvin] : c.wall_temperature)
      if (s_.vehicle.surface.find_part(part) < 0)
        fault("a temperature is given for part '" + part + "', which does not exist",
              "wall_temperature", "check its name");
    for (const auto& [part, flux] : c.wall_heat) {
      if (s_.vehicle.surface.find_part(part) < 0)
        fault("a heat flux is given for part '" + part + "', which does not exist", "wall_heat",
              "check its name");
      if (c.wall_temperature.contains(part))
        fault("both temperature and heat flux are given for part '" + part + "'", "wall_heat",
              "leave one of them out");
    }
  }

  void air() {
    const Air& a = s_.conditions.air;
    if (!(a.density > 0) || !(a.kinematic_viscosity > 0))
      fault("density and viscosity must be positive", "air", "check them");
    if (a.density < thin_air || a.density > thick_air)
      findings_.warn(fmt::format(
          "a density of {:.3g} kg/m3 is not that of air on the road (about 1.2)", a.density));
    if (a.kinematic_viscosity < least_viscosity || a.kinematic_viscosity > most_viscosity)
      findings_.warn(fmt::format(
          "a kinematic viscosity of {:.3g} m2/s is not that of air on the road (about 1.5e-5)",
          a.kinematic_viscosity));
  }

  /// Charts and series are drawn from the finished record alone.
  bool any_of_pictures_is_kept() const {
    const std::vector<WantedPicture>& pictures = s_.readings.pictures;
    return std::any_of(pictures.begin(), pictures.end(), [](const WantedPicture& p) {
      return std::none_of(p.words.begin(), p.words.end(),
                          [](const Setting& w) { return w.key == "chart" || w.key == "series"; });
    });
  }

  void limits() {
    const AccuracyWanted a = s_.accuracy();
    if (s_.limits.iterations < 1)
      fault("fewer than one iteration is asked for", "flow.iterations", "allow some hundreds");
    if (!(a.drag > 0) || !(a.lift > 0))
      fault("an accuracy is not above zero", "flow.accuracy", "write a share like 0.01");
    if (!(a.of_difference >= 0 && a.of_difference < 1))
      fault("an accuracy of differences is no share of them", "flow.difference_accuracy",
            "write a share like 0.2, or leave it out");
    if (!s_.time && traits_of(s_.flow.turbulence).only_in_time)
      fault("eddies are resolved in time only", "flow.turbulence", "add [time], or write \"sst\"");
    if (s_.time && !(s_.time_duration() >= 2 * s_.time_step()))
      fault(
          fmt::format("{:.3g} s are not two steps of {:.3g} s", s_.time_duration(), s_.time_step()),
          "time.duration", "make it longer");
    if (s_.time && s_.time->picture_every && !any_of_pictures_is_kept())
      fault("there is no [[picture]] whose data could be kept", "time.picture_every",
            "add one that is no chart and no series: slice = \"y = 0\"");
    if (!(s_.flow.courant > 0)) fault("is not above zero", "flow.courant", "write about 50");
  }

  void tunnel() {
    const CommonFrame f = s_.common_frame();
    if (!(f.reference_area > 0) || !(f.reference_length > 0))
      return fault("reference area and length must be positive", "reference", "check them");
    if (!s_.tunnel.section && std::abs(f.reference_area / f.frontal_area - 1) > 0.1)
      findings_.warn(
          fmt::format("the reference area {:.3f} m2 is far from the frontal area {:.3f} m2",
                      f.reference_area, f.frontal_area),
          "setup.reference-area");
    try_out([&] { check_vehicle_in_tunnel(f.bounds, s_.tunnel_box(), s_.tunnel); });
    if (s_.blockage() > blockage_warning)
      findings_.warn(fmt::format("blockage is {:.1f} %: the walls squeeze the stream; above 2 % "
                                 "drag comes out too high",
                                 100 * s_.blockage()),
                     "setup.blockage");
  }

  void wheels() {
    const RunConditions& c = s_.conditions;
    const double road = c.speed_of_road();
    if (c.rolling_road && s_.vehicle.wheels.empty() && !s_.tunnel.section)
      findings_.warn("no wheel turns: the road moves, but no wheels were found", "setup.no-wheels");
    for (const Wheel& w : s_.vehicle.wheels) {
      if (!meets_road(w)) {
        const double off = std::abs(w.radius / w.loaded_radius() - 1);
        fault(fmt::format("the axle of '{}' is {:.3f} m above the road but its radius is {:.3f} m: "
                          "the tread would miss the road's speed by {:.0f} %",
                          w.part, w.loaded_radius(), w.radius, 100 * off),
              "wheels", "place the vehicle on its tyres, or name the wheels");
      } else if (c.wheels_turn && road > 0) {
        try_out([&] { check_spin(w, w.spin(road), road, s_.where + " (wheels)"); });
      }
    }
    if (c.wheels_turn && road > 0 && faults_.empty())
      report_turning(s_.vehicle.wheels, road, findings_);
  }

  void names() {
    const auto known = [&](const std::string& part) {
      return s_.vehicle.surface.find_part(part) >= 0;
    };
    for (const auto& part : s_.recipe.sheet_parts)
      if (!known(part))
        fault("part '" + part + "' is named as a sheet, but does not exist", "vehicle.sheets",
              "check its name");
    for (const auto& [part, size] : s_.recipe.part_size) {
      if (!known(part))
        fault("a size is given for part '" + part + "', which does not exist", "mesh.parts",
              "check its name");
      if (!(size > 0)) fault("the size of part '" + part + "' is not positive", "mesh.parts", "");
    }
    for (const auto& [part, height] : s_.conditions.roughness)
      if (part != "road" && !known(part))
        fault("a roughness is given for part '" + part + "', which does not exist", "roughness",
              "check its name; the road is \"road\"");
  }

  void openings() {
    const RunConditions& c = s_.conditions;
    double taken = 0;
    for (const Opening& o : s_.openings) {
      const std::string key = "opening '" + o.part + "'";
      const int part = s_.vehicle.surface.find_part(o.part);
      if (part < 0) {
        fault("there is no part of that name", key, "check it with inspect");
        continue;
      }
      if (std::any_of(s_.vehicle.wheels.begin(), s_.vehicle.wheels.end(),
                      [&](const Wheel& w) { return w.part == o.part; }))
        fault("is a wheel", key, "name the part that air passes through");
      double area = 0;
      for (std::size_t t = 0; t < s_.vehicle.surface.size(); ++t)
        if (s_.vehicle.surface.part_of[t] == part) area += norm(s_.vehicle.surface.area_vector(t));
      const double speed = std::abs(o.mass_flow) / (c.air.density * area);
      if (speed > fastest)
        findings_.warn(
            fmt::format("air passes the {} at {:.0f} m/s: it would be compressed, which "
                        "is not computed",
                        key, speed));
      taken += o.mass_flow;
    }
    const Vec3 section = s_.tunnel_box().size();
    const double brought =
        c.air.density * c.speed * section.y * section.z * (s_.tunnel.half ? 2 : 1);
    if (std::abs(taken) > 0.5 * brought)
      fault(fmt::format("the openings take {:.4g} kg/s, but the stream brings {:.4g} kg/s only",
                        taken, brought),
            "opening", "check their flows");
  }

  void sides() {
    if (!s_.tunnel.half) return;
    const Surface& v = s_.vehicle.surface;
    const double width = bounds(v).size().y, off = bounds(v).centre().y;
    constexpr double centred = 5e-3, tolerated = 2e-3;  // of the width
    if (std::abs(off) > centred * width)
      findings_.warn(
          fmt::format("half model, but the vehicle's middle lies {:.1f} mm off the "
                      "centre plane",
                      1000 * off));
    const Asymmetry a = asymmetry(v, RayScene(v), 1);
    if (a.largest > tolerated * width)
      findings_.warn(fmt::format("half model, but the two sides differ by up to {:.1f} mm ({:.2f} "
                                 "mm on average), most at "
                                 "({:.3f}, {:.3f}, {:.3f}) m",
                                 1000 * a.largest, 1000 * a.mean, a.place.x, a.place.y, a.place.z),
                     "setup.asymmetry");
  }

  /// Where steady flow models are known to mislead (docs/validation.md).
  void tail() {
    if (s_.tunnel.section) return;
    constexpr double much_slanted = 0.12, mostly_blunt = 0.5, much_tapered = 0.25;
    constexpr double degrees = 57.29577951308232;
    const RearView rear = rear_view(s_.vehicle.surface);
    if (rear.slanted > much_slanted)
      findings_.warn(
          fmt::format(
              "drag may be off by 15 %, lift by more: {:.0f} % of the base slants by about {:.0f} "
              "degrees, and steady turbulence models fail between 20 and 32 degrees; compute such "
              "a "
              "tail unsteadily ([time] in the campaign file) before you decide",
              100 * rear.slanted, degrees * rear.slant),
          "setup.slanted-base");
    if (rear.blunt > mostly_blunt)
      findings_.note(
          fmt::format("drag may be off by up to 8 %: {:.0f} % of the base is blunt, and steady "
                      "turbulence models predict base pressure least reliably",
                      100 * rear.blunt),
          "setup.blunt-base");
    if (rear.tapered > much_tapered)
      findings_.note(
          fmt::format("drag may be off by up to 8 %: {:.0f} % of the base tapers by 6 to 20 "
                      "degrees, and steady turbulence models predict separation from tapers least "
                      "reliably",
                      100 * rear.tapered),
          "setup.tapered-base");
  }

  const RunSetup& s_;
  Findings& findings_;
  std::vector<std::string> faults_;
};

}  // namespace

std::vector<std::string> find_faults(const RunSetup& setup, Findings& findings) {
  return Checks(setup, findings).faults();
}

std::vector<std::string> find_faults_of_speed(const RunSetup& setup, Findings& findings) {
  return Checks(setup, findings).faults_of_speed();
}

}  // namespace dunefield
