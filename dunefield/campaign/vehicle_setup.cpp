#include <dunefield/campaign/vehicle_setup.hpp>

#include <cstring>

#include <fmt/format.h>

#include <dunefield/balance/frontal_area.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/geometry/surface_file.hpp>

namespace dunefield {
namespace {

constexpr double blockage_warning = 0.02;
constexpr double contact_mismatch = 0.05;  // of the tread's speed at the road

Vec3 axis_of(const std::string& text) {
  Vec3 v;
  v[text[1] - 'x'] = text[0] == '-' ? -1 : 1;
  return v;
}

std::uint64_t fingerprint_of(const Surface& s) {
  std::uint64_t h = 1469598103934665603ull;  // FNV-1a
  const auto mix = [&](const void* data, std::size_t size) {
    const auto* bytes = static_cast<const unsigned char*>(data);
    for (std::size_t i = 0; i < size; ++i) h = (h ^ bytes[i]) * 1099511628211ull;
  };
  mix(s.points.data(), s.points.size() * sizeof(Vec3));
  mix(s.triangles.data(), s.triangles.size() * sizeof(s.triangles[0]));
  mix(s.part_of.data(), s.part_of.size() * sizeof(int));
  for (const auto& n : s.part_names) mix(n.data(), n.size());
  return h;
}

Surface variant_surface(const Campaign& c, const Campaign::Variant& v, const Surface& base) {
  Surface s = base;
  if (!v.remove.empty()) {
    std::vector<bool> keep(s.part_names.size(), true);
    for (const auto& name : v.remove) {
      const int p = s.find_part(name);
      if (p < 0) throw InputError(fmt::format("variant '{}' removes part '{}', which does not exist", v.name, name), c.file.string(), "check the part's name with inspect");
      keep[static_cast<std::size_t>(p)] = false;
    }
    s = select_parts(s, keep);
    if (s.size() == 0) throw InputError(fmt::format("variant '{}' removes every part", v.name), c.file.string(), "leave one");
  }
  if (!v.add.empty()) append(s, read_oriented(c, v.add));
  return s;
}

std::vector<Wheel> wheels_of(const Campaign& c, const Surface& s) {
  if (c.wheel_parts.empty()) return c.find_wheels ? find_wheels(s) : std::vector<Wheel>{};
  std::vector<Wheel> wheels;
  for (const auto& name : c.wheel_parts) wheels.push_back(named_wheel(s, name, c.file.string() + " (wheels.parts)"));
  return wheels;
}

/// The shift that puts the vehicle on the road and mid-wheelbase at x = 0.
Vec3 placement_shift(const Campaign& c, const Surface& base, Findings& findings) {
  const Box box = bounds(base);
  Vec3 shift;
  const double height = box.size().z;
  if (std::abs(box.lo.z) > 0.03 * height) {
    shift.z = -box.lo.z;
    findings.note(fmt::format("the vehicle was moved by {:.3f} m in height so that its lowest point stands on the road", shift.z));
  }
  Surface placed = base;
  translate(placed, shift);
  const std::vector<Wheel> wheels = wheels_of(c, placed);
  if (wheelbase_of(wheels) > 0) {
    double lo = 1e300, hi = -1e300;
    for (const Wheel& w : wheels) lo = std::min(lo, w.centre.x), hi = std::max(hi, w.centre.x);
    shift.x = -0.5 * (lo + hi);
  } else {
    shift.x = -box.centre().x;
    findings.note("fewer than two axles are known: the origin is the middle of the vehicle's length");
  }
  if (std::abs(shift.x) < 1e-6 * height) shift.x = 0;
  const double centre = box.centre().y;
  if (!c.tunnel.half || std::abs(centre) < 1e-3 * box.size().y) return shift;
  shift.y = -centre;
  findings.note(fmt::format("the vehicle was moved by {:.3f} m sideways so that its middle lies on the centre plane", shift.y));
  return shift;
}

void check_shape(const CampaignSetup& s, Findings& findings) {
  const PlacedVariant& base = s.variants.front();
  const Vec3 size = bounds(base.vehicle).size();
  const double scale = s.campaign.scale;
  if (size.x / scale > 40 || size.x / scale < 0.5)
    findings.warn(fmt::format("the vehicle is {:.4g} m long: is the unit of the files right?", size.x / scale));
  if (size.x < size.y) findings.warn("the vehicle is wider than long: does the nose point where the campaign says?");
  // A vehicle's nose is lower than its tail, as a rule.
  Box front, rear;
  const Box box = bounds(base.vehicle);
  for (const Vec3& p : base.vehicle.points) {
    if (p.x < box.lo.x + 0.12 * size.x) front.include(p);
    if (p.x > box.hi.x - 0.12 * size.x) rear.include(p);
  }
  if (!front.empty() && !rear.empty() && front.hi.z > rear.hi.z + 0.25 * size.z)
    findings.warn("the end taken as the nose is taller than the tail: the stream may come from behind");
  if (s.campaign.rolling_road && base.wheels.empty()) findings.warn("the road moves but no wheels were found: nothing turns");
  for (const Wheel& w : base.wheels) {
    const double mismatch = std::abs(w.radius / w.loaded_radius() - 1);
    if (mismatch > contact_mismatch)
      throw InputError(fmt::format("the axle of '{}' is {:.3f} m above the road but its radius is {:.3f} m: the tread would miss the road's speed by {:.0f} %", w.part,
                                   w.loaded_radius(), w.radius, 100 * mismatch), "wheels", "place the vehicle on its tyres, or name the wheels");
    const double v = s.road_speed(s.campaign.speeds.front());
    if (s.campaign.wheels_turn && v > 0)
      findings.note(fmt::format("'{}': axle {:.3f} m above the road, turns at {:.1f} rad/s, so that its tread at the road moves rearward at {:.2f} m/s", w.part,
                                w.loaded_radius(), norm(w.spin(v)), cross(w.spin(v), Vec3{0, 0, -w.loaded_radius()}).x));
  }
}

}  // namespace

Surface read_oriented(const Campaign& c, const std::vector<std::filesystem::path>& files) {
  Surface all;
  for (const auto& file : files) append(all, read_surface(file));
  const Vec3 rearward = -axis_of(c.nose), up = axis_of(c.up), right = cross(up, rearward);
  for (Vec3& p : all.points) p = Vec3{dot(p, rearward), dot(p, right), dot(p, up)} * (c.unit * c.scale);
  return all;
}

CampaignSetup prepare(const Campaign& c) {
  CampaignSetup s;
  s.campaign = c;
  const Surface base = read_oriented(c, c.surfaces);
  const Vec3 shift = placement_shift(c, base, s.findings);
  for (const auto& v : c.variants) {
    PlacedVariant p;
    p.name = v.name;
    p.vehicle = variant_surface(c, v, base);
    translate(p.vehicle, shift);
    p.wheels = wheels_of(c, p.vehicle);
    p.frontal_area = frontal_area(p.vehicle);
    p.fingerprint = fingerprint_of(p.vehicle);
    s.vehicle_bounds.include(bounds(p.vehicle));
    s.variants.push_back(std::move(p));
  }
  const PlacedVariant& first = s.variants.front();
  if (!(first.frontal_area > 0)) throw InputError("the vehicle has no frontal area above the road", c.file.string(), "check unit, nose and height");
  s.reference_area = c.frontal_area.value_or(first.frontal_area);
  const double wheelbase = wheelbase_of(first.wheels);
  s.reference_length = c.wheelbase.value_or(wheelbase > 0 ? wheelbase : bounds(first.vehicle).size().x);
  if (!c.wheelbase && wheelbase <= 0) s.findings.warn("no wheelbase is known: moments are referred to the vehicle's length");
  if (std::abs(s.reference_area / first.frontal_area - 1) > 0.1)
    s.findings.warn(fmt::format("the reference area {:.3f} m2 is far from the frontal area {:.3f} m2", s.reference_area, first.frontal_area));
  s.tunnel = tunnel_box(s.vehicle_bounds, first.frontal_area, c.tunnel);
  check_vehicle_in_tunnel(s.vehicle_bounds, s.tunnel, c.tunnel);
  const Vec3 section = s.tunnel.size();
  s.blockage = first.frontal_area / (section.y * section.z * (c.tunnel.half ? 2 : 1));
  if (s.blockage > blockage_warning)
    s.findings.warn(fmt::format("blockage is {:.1f} %: the walls squeeze the stream; above 2 % drag comes out too high", 100 * s.blockage));
  if (c.road_speed && c.rolling_road)
    for (const double v : c.speeds)
      if (std::abs(*c.road_speed / v - 1) > 1e-6)
        s.findings.warn(fmt::format("the road moves at {:.2f} m/s but the stream at {:.2f} m/s", *c.road_speed, v));
  if (!c.rolling_road) s.findings.warn("the road is fixed: drag and lift are not those on the road");
  if (!c.wheels_turn) s.findings.warn("the wheels stand still");
  check_shape(s, s.findings);
  for (PlacedVariant& p : s.variants) {
    p.mesh = mesh_recipe(c.recipe, s.vehicle_bounds, c.file.string());
    if (c.surface_size) {
      const double ratio = *c.surface_size / p.mesh.surface_size;
      p.mesh.surface_size = *c.surface_size;
      p.mesh.largest_size *= ratio;
      for (auto& b : p.mesh.boxes) b.size *= ratio;
    }
    for (const auto& [part, size] : c.part_size)
      if (p.vehicle.find_part(part) >= 0) p.mesh.part_size[part] = size;
    p.mesh.boxes.insert(p.mesh.boxes.end(), c.boxes.begin(), c.boxes.end());
    p.mesh.half = c.tunnel.half;
    for (const Wheel& w : p.wheels) p.mesh.standing_parts.push_back(w.part);
  }
  for (const auto& [part, size] : c.part_size) {
    (void)size;
    const bool known = std::any_of(s.variants.begin(), s.variants.end(), [&](const PlacedVariant& p) { return p.vehicle.find_part(part) >= 0; });
    if (!known) throw InputError("a size is given for part '" + part + "', which no variant has", c.file.string() + " (mesh.parts)", "check its name");
  }
  return s;
}

std::vector<std::string> describe(const CampaignSetup& s) {
  const Campaign& c = s.campaign;
  std::vector<std::string> lines;
  const PlacedVariant& base = s.variants.front();
  const Vec3 v = bounds(base.vehicle).size(), t = s.tunnel.size();
  lines.push_back(fmt::format("vehicle    {:.3f} m long, {:.3f} m wide, {:.3f} m high; {} parts, {} triangles; nose towards {} in the files", v.x, v.y, v.z,
                              base.vehicle.part_names.size(), base.vehicle.size(), c.nose));
  lines.push_back(fmt::format("reference  area {:.4f} m2{}, length {:.3f} m", s.reference_area, c.frontal_area ? " (given)" : " (computed frontal area)", s.reference_length));
  lines.push_back(fmt::format("tunnel     {:.1f} m long, {:.1f} m wide, {:.1f} m high{}; blockage {:.2f} %", t.x, t.y * (c.tunnel.half ? 2 : 1), t.z,
                              c.tunnel.half ? ", one half computed and mirrored" : "", 100 * s.blockage));
  lines.push_back(fmt::format("road       {}", c.rolling_road ? (c.road_speed ? fmt::format("rolling at {:.2f} m/s", *c.road_speed) : "rolling with the stream") : "fixed"));
  lines.push_back(fmt::format("wheels     {} {}", base.wheels.size(), base.wheels.empty() ? "" : c.wheels_turn ? "turning with the road" : "standing still"));
  lines.push_back(fmt::format("air        {:.3f} kg/m3, {:.3g} m2/s", c.air.density, c.air.kinematic_viscosity));
  lines.push_back(fmt::format("mesh       recipe {}, {:.1f} mm at the surface", c.recipe, 1000 * base.mesh.surface_size));
  lines.push_back(fmt::format("flow       steady, {}, at most {} iterations", c.flow.turbulence == TurbulenceModel::sst ? "k-omega SST with wall functions" : "laminar", c.iterations));
  std::string speeds;
  for (const double u : c.speeds)
    speeds += fmt::format("{}{:.0f} km/h (Re {:.2g})", speeds.empty() ? "" : ", ", 3.6 * u, u * v.x / c.air.kinematic_viscosity);
  lines.push_back(fmt::format("runs       {} variant{} at {}", s.variants.size(), s.variants.size() == 1 ? "" : "s", speeds));
  return lines;
}

FlowCase make_case(const CampaignSetup& s, const PlacedVariant& variant, double speed, const std::vector<FlowMesh::BoundaryPatch>& patches) {
  FlowCase fc;
  fc.air = s.campaign.air;
  fc.options = s.campaign.flow;
  fc.reference_speed = speed;
  fc.reference_length = s.vehicle_bounds.size().x;
  fc.initial_velocity = {speed, 0, 0};
  const double road = s.road_speed(speed);
  for (const auto& patch : patches) {
    BoundaryCondition bc;
    switch (patch.kind) {
      case PatchKind::inflow: bc.kind = BoundaryKind::stream, bc.velocity = {speed, 0, 0}; break;
      case PatchKind::outflow: bc.kind = BoundaryKind::outflow; break;
      case PatchKind::side:
      case PatchKind::roof:
      case PatchKind::centre_plane: bc.kind = BoundaryKind::slip; break;
      case PatchKind::road: bc.kind = BoundaryKind::wall, bc.velocity = {road, 0, 0}; break;
      case PatchKind::part:
        bc.kind = BoundaryKind::wall;
        for (const Wheel& w : variant.wheels)
          if (w.part == patch.name && s.campaign.wheels_turn) bc.spin = w.spin(road), bc.spin_centre = w.centre;
        break;
    }
    fc.conditions.push_back(bc);
  }
  return fc;
}

}  // namespace dunefield
