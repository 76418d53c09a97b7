#include <dunefield/campaign/device_tables.hpp>

#include <set>

#include <dunefield/mesh/section.hpp>

namespace dunefield {
namespace {

/// `speeds` in m/s with a pressure in Pa for each.
PressureCurve read_curve(Table& t, const char* pressures, bool rising) {
  PressureCurve curve;
  const std::vector<double> speeds = t.quantities("speeds", Dimension::speed),
                            values = t.numbers(pressures);
  if (speeds.size() != values.size() || speeds.empty())
    t.fail(pressures, "has not one value for each of `speeds`",
           "write speeds = [\"2 m/s\", \"4 m/s\"] and a pressure in Pa for each");
  for (std::size_t i = 0; i < speeds.size(); ++i) {
    if (!(values[i] >= 0)) t.fail(pressures, "has a negative value", "pressures are from 0 up");
    if (i > 0 && !(speeds[i] > speeds[i - 1]))
      t.fail("speeds", "do not rise", "list them from slow to fast");
    if (i > 0 && (rising ? values[i] < values[i - 1] : values[i] > values[i - 1]))
      t.fail(pressures,
             rising ? "fall: more air would meet less resistance"
                    : "rise: more air would be pushed harder",
             rising ? "give a drop that rises with the speed"
                    : "give a rise that falls with the speed");
    curve.points.push_back({speeds[i], values[i]});
  }
  if (rising && curve.points.front().first > 0)
    curve.points.insert(curve.points.begin(), {0.0, 0.0});
  return curve;
}

AirDevice read_place(Table& t, std::set<std::string>& names,
                     std::map<std::string, std::string>& parts) {
  AirDevice d;
  d.name = t.text("name", "");
  if (d.name.empty()) t.fail("name", "is missing", "give each one a name");
  if (!names.insert(d.name).second)
    t.fail("name", "'" + d.name + "' stands twice", "give each one its own name");
  d.axis = unit(t.direction("axis", {1, 0, 0}));
  if (t.has("part")) {
    for (const char* key : {"centre", "width", "height", "depth"})
      if (t.has(key)) t.fail(key, "is given, but the part says it", "leave one of them out");
    parts[d.name] = t.text("part", "");
    return d;
  }
  if (!t.has("centre"))
    t.fail("centre", "is missing",
           "write centre = [\"-1.6 m\", \"0 m\", \"0.5 m\"], or part = \"radiator\"");
  d.centre = t.place("centre");
  d.width = t.needed("width", Dimension::length);
  d.height = t.needed("height", Dimension::length);
  d.depth = t.needed("depth", Dimension::length);
  return d;
}

}  // namespace

AirDevice at_part(AirDevice d, const Surface& s, int part, double size_scale) {
  const PlaneAxes face(d.axis);
  const Vec3 axes[3] = {d.axis, face.across, face.up};
  Box box;  // along those
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; s.part_of[t] == part && k < 3; ++k) {
      const Vec3 x = s.corner(t, k);
      box.include(Vec3{dot(x, axes[0]), dot(x, axes[1]), dot(x, axes[2])});
    }
  const Vec3 c = box.centre(), size = box.size() / size_scale;
  d.centre = (axes[0] * c.x + axes[1] * c.y + axes[2] * c.z) / size_scale;
  d.depth = size.x, d.width = size.y, d.height = size.z;
  return d;
}

std::vector<AirDevice> read_devices(Table& root, std::map<std::string, std::string>& parts) {
  std::vector<AirDevice> all;
  std::set<std::string> names;
  for (Table& t : root.tables("core")) {
    AirDevice d = read_place(t, names, parts);
    if (t.has("speeds")) {
      d.curve = read_curve(t, "drops", true);
    } else {
      d.curve.linear = t.number("linear", 0, 0), d.curve.quadratic = t.number("quadratic", 0, 0);
      if (d.curve.linear + d.curve.quadratic == 0)
        t.fail("quadratic", "is missing: the core has no resistance",
               "give linear (Pa s/m) and quadratic (Pa s2/m2), or speeds and drops");
    }
    d.off_axis = t.number("off_axis", d.off_axis, 0);
    if (t.has("air_in") || t.has("air_out")) {
      d.warming =
          t.needed("air_out", Dimension::temperature) - t.needed("air_in", Dimension::temperature);
      if (std::abs(d.warming) > 150)
        t.fail("air_out", "is over 150 K from air_in", "check the units: \"60 degC\"");
    }
    t.finish();
    all.push_back(d);
  }
  for (Table& t : root.tables("fan")) {
    AirDevice d = read_place(t, names, parts);
    d.is_fan = true;
    if (d.axis.x < 0)
      t.fail("axis", "points against the stream", "turn it: the axis is the way the air goes");
    d.curve = read_curve(t, "rises", false);
    t.finish();
    all.push_back(d);
  }
  return all;
}

std::vector<Opening> read_openings(Table& root) {
  std::vector<Opening> all;
  std::set<std::string> parts;
  for (Table& t : root.tables("opening")) {
    Opening o;
    o.part = t.text("part", "");
    if (o.part.empty()) t.fail("part", "is missing", "name the part that air passes through");
    if (!parts.insert(o.part).second)
      t.fail("part", "'" + o.part + "' stands twice", "describe each part once");
    const int ways = t.has("takes") + t.has("blows") + t.has("pressure");
    if (ways != 1)
      t.fail("takes", ways ? "is not alone" : "is missing",
             "give one of takes = \"0.1 kg/s\", blows = \"0.1 kg/s\", pressure = -150 (Pa)");
    if (t.has("takes")) o.mass_flow = t.needed("takes", Dimension::mass_flow);
    if (t.has("blows")) o.mass_flow = -t.needed("blows", Dimension::mass_flow);
    if (t.has("pressure")) o.pressure = t.number("pressure", 0, -1e5);
    t.finish();
    all.push_back(o);
  }
  return all;
}

}  // namespace dunefield
