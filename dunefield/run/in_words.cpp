// A run's set-up in plain words.
#include <fmt/format.h>

#include <dunefield/record/record.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield {
namespace {

constexpr double degrees = 57.29577951308232;

std::string vehicle_words(const RunSetup& s) {
  const Vec3 v = bounds(s.vehicle.surface).size();
  if (s.tunnel.section)
    return fmt::format("section    {:.3f} m long, {:.3f} m high; {} parts", v.x, v.z,
                       s.vehicle.surface.part_names.size());
  return fmt::format(
      "vehicle    {:.3f} m long, {:.3f} m wide, {:.3f} m high; {} parts, {} triangles", v.x, v.y,
      v.z, s.vehicle.surface.part_names.size(), s.vehicle.surface.size());
}

std::string group_words(const RunSetup& s) {
  std::string out = "vehicles   ";
  const VehicleGroup* before = nullptr;
  for (const VehicleGroup& g : s.vehicle.group) {
    if (before) out += "; ";
    out += fmt::format("{}{} ({:.3f} m2", g.name, g.present ? "" : " left away", g.frontal_area);
    if (before)
      out += fmt::format(", {:.3f} m behind the tail of {}{}", g.bounds.lo.x - before->bounds.hi.x,
                         before->name,
                         g.aside != before->aside
                             ? fmt::format(", {:+.3f} m to its right", g.aside - before->aside)
                             : "");
    out += ")";
    before = &g;
  }
  return out + "; coefficients of all together are referred to the first one's area";
}

std::string accuracy_words(const AccuracyWanted& a) {
  std::string out = fmt::format(", until CD is known to {:.3g} %", 100 * a.drag);
  if (a.of_difference > 0)
    out += fmt::format(" or {:.3g} % of its difference from the baseline", 100 * a.of_difference);
  return out;
}

std::string reference_words(const RunSetup& s) {
  const CommonFrame f = s.common_frame();
  if (s.tunnel.section)
    return fmt::format("reference  {:.4f} m2: {:.4f} m over a metre of span; length {:.4f} m",
                       f.reference_area, f.reference_area / section_depth, f.reference_length);
  const bool given = f.reference_area != f.frontal_area;
  return fmt::format("reference  area {:.4f} m2{}, length {:.3f} m", f.reference_area,
                     given ? " (given)" : " (computed frontal area)", f.reference_length);
}

std::string tunnel_words(const RunSetup& s) {
  const Vec3 t = s.tunnel_box().size();
  if (s.tunnel.section)
    return fmt::format(
        "tunnel     in two dimensions: {:.1f} m long, {:.1f} m high{}; blockage {:.2f} %", t.x, t.z,
        s.tunnel.road ? "" : ", no road", 100 * s.blockage());
  RunChecks checks;
  checks.blockage = s.blockage();
  return fmt::format(
      "tunnel     {:.1f} m long, {:.1f} m wide, {:.1f} m high{}; blockage {:.2f} %, raises drag by "
      "about {:.1f} %, not corrected",
      t.x, t.y * (s.tunnel.half ? 2 : 1), t.z,
      s.tunnel.half ? ", one half computed and mirrored" : "", 100 * checks.blockage,
      100 * (checks.blockage_factor() - 1));
}

std::string yaw_words(const RunConditions& c) {
  return fmt::format("yaw        {:+.2f} deg, air from the {}: {}", degrees * c.yaw,
                     c.yaw > 0 ? "left" : "right",
                     c.crosswind ? "crosswind, the road comes from ahead"
                                 : "the vehicle is turned in the tunnel, the road moves with the "
                                   "stream");
}

std::string belt_words(const Belt& b) {
  if (b.under_wheels) return fmt::format("{:.3g} x {:.3g} m under each wheel", b.length, b.width);
  return fmt::format("{:.3g} x {:.3g} m at x = {:.3g}, y = {:.3g} m", b.length, b.width, b.centre.x,
                     b.centre.y);
}

std::string road_words(const RunConditions& c) {
  std::string sucked;
  if (c.boundary_layer_from)
    sucked = fmt::format("; boundary layer removed by suction up to x = {:.3g} m",
                         *c.boundary_layer_from);
  if (!c.rolling_road) return "road       fixed" + sucked;
  if (!c.belts.empty()) {
    std::string belts;
    for (const Belt& b : c.belts) belts += (belts.empty() ? "" : ", ") + belt_words(b);
    return fmt::format("road       fixed, with belts at {:.2f} m/s: {}", c.speed_of_road(), belts) +
           sucked;
  }
  return c.road_speed ? fmt::format("road       rolling at {:.2f} m/s", *c.road_speed)
                      : "road       rolling with the stream";
}

std::string layer_words(const MeshOptions& o) {
  const LayerOptions& l = o.layers;
  if (o.section)
    return fmt::format(
        "layers     {} at most, growth {:.2f}, first {:.3g} mm, up to cells as high as "
        "long",
        l.count, l.growth, 1000 * l.first_height);
  const double first = 1000 * l.first_at(o.surface_size);
  return fmt::format("layers     {} of growth {:.2f}, first {:.3g} mm, together {:.3g} mm{}",
                     l.count, l.growth, first, first * l.sum(l.count),
                     l.total_leaves > 0 ? "; thinner where cells are smaller" : "");
}

std::string wheel_words(const RunSetup& s) {
  if (s.vehicle.wheels.empty()) return "wheels     none";
  const bool turn = s.conditions.wheels_turn && s.conditions.speed_of_road() > 0;
  return fmt::format("wheels     {} {}", s.vehicle.wheels.size(),
                     turn ? "turning with the road" : "standing still");
}

}  // namespace

std::vector<std::string> RunSetup::in_words() const {
  std::vector<std::string> lines = {vehicle_words(*this), reference_words(*this),
                                    tunnel_words(*this)};
  if (!vehicle.group.empty()) lines.insert(lines.begin() + 1, group_words(*this));
  if (conditions.yaw != 0) lines.push_back(yaw_words(conditions));
  if (tunnel.road) lines.push_back(road_words(conditions));
  if (!tunnel.section) lines.push_back(wheel_words(*this));
  lines.push_back(fmt::format("air        {:.3f} kg/m3, {:.3g} m2/s", conditions.air.density,
                              conditions.air.kinematic_viscosity));
  if (const auto& gas = conditions.fast)
    lines.back() += fmt::format(", {:.1f} degC, {:.0f} Pa, compressible: Mach {:.3f}",
                                gas->temperature - 273.15,
                                conditions.air.density * gas->gas_constant * gas->temperature,
                                conditions.speed / gas->speed_of_sound(gas->temperature));
  if (mesh_file.empty()) {
    const MeshOptions o = mesh_options();
    lines.push_back(fmt::format("mesh       recipe {}, {:.1f} mm at the surface", recipe.name,
                                1000 * o.surface_size));
    if (o.layers.count > 0) lines.push_back(layer_words(o));
  } else {
    lines.push_back("mesh       from " + mesh_file.string());
  }
  lines.push_back(fmt::format("flow       steady, {}, at most {} iterations",
                              traits_of(flow.turbulence).description, limits.iterations));
  if (limits.until_settled) lines.back() += accuracy_words(accuracy());
  if (time)
    lines.push_back(
        fmt::format("time       then {:.4g} s in steps of {:.4g} s, at most {} "
                    "iterations each",
                    time_duration(), time_step(), time->iterations));
  if (time && time->picture_every)
    lines.back() += fmt::format("; the data of pictures is kept every {:.4g} s",
                                std::max(*time->picture_every, time_step()));
  for (const AirDevice& d : devices)
    lines.push_back(fmt::format(
        "{:<10} {}: {:.3g} x {:.3g} m, {:.0f} mm deep at ({:.2f}, {:.2f}, {:.2f}) m, {} of {:.4g} "
        "Pa at {:.3g} m/s through it{}",
        d.is_fan ? "fan" : "core", d.name, d.width, d.height, 1000 * d.depth, d.centre.x,
        d.centre.y, d.centre.z, d.is_fan ? "a rise" : "a drop", d.curve.at(0.25 * conditions.speed),
        0.25 * conditions.speed,
        tunnel.half && std::abs(d.centre.y) > d.width / 2 ? "; its mirror image, too" : ""));
  for (const Opening& o : openings)
    lines.push_back(fmt::format("opening    {}: {}", o.part,
                                o.pressure ? fmt::format("at {:+.4g} Pa", *o.pressure)
                                : o.mass_flow < 0
                                    ? fmt::format("blows {:.4g} kg/s", -o.mass_flow)
                                    : fmt::format("takes in {:.4g} kg/s", o.mass_flow)));
  for (const auto& [part, height] : conditions.roughness)
    lines.push_back(fmt::format("roughness  {:.3g} mm of sand on '{}'", 1000 * height, part));
  return lines;
}

}  // namespace dunefield
