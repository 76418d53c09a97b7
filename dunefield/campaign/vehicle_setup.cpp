#include <dunefield/campaign/vehicle_setup.hpp>

#include <algorithm>
#include <cstring>
#include <fstream>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/changes.hpp>
#include <dunefield/geometry/frontal_area.hpp>
#include <dunefield/geometry/health/symmetry.hpp>
#include <dunefield/mesh/tunnel.hpp>

namespace dunefield {
namespace {

constexpr double blockage_warning = 0.02;
constexpr double contact_mismatch = 0.05;  // of the tread's speed at the road

/// FNV-1a.
class Fingerprint {
 public:
  void mix(const void* data, std::size_t size) {
    const auto* bytes = static_cast<const unsigned char*>(data);
    for (std::size_t i = 0; i < size; ++i) value_ = (value_ ^ bytes[i]) * 1099511628211ull;
  }
  std::uint64_t value() const { return value_; }

 private:
  std::uint64_t value_ = 1469598103934665603ull;
};

std::uint64_t fingerprint_of(const Surface& s) {
  Fingerprint f;
  f.mix(s.points.data(), s.points.size() * sizeof(Vec3));
  f.mix(s.triangles.data(), s.triangles.size() * sizeof(s.triangles[0]));
  f.mix(s.part_of.data(), s.part_of.size() * sizeof(int));
  for (const auto& n : s.part_names) f.mix(n.data(), n.size());
  return f.value();
}

std::uint64_t fingerprint_of(const std::filesystem::path& file) {
  std::ifstream in(file, std::ios::binary);
  if (!in) throw InputError("there is no such mesh", file.string(), "check the path");
  Fingerprint f;
  std::vector<char> block(1 << 20);
  while (in.read(block.data(), static_cast<std::streamsize>(block.size())) || in.gcount() > 0)
    f.mix(block.data(), static_cast<std::size_t>(in.gcount()));
  return f.value();
}

/// Finds, cuts out or takes the named wheels; wheels hidden in larger parts become parts.
std::vector<Wheel> wheels_of(const Campaign& c, Surface& s, const Vec3& shift, Findings& findings) {
  std::vector<Wheel> wheels;
  const std::string where = c.file.string() + " (wheel)";
  for (const GivenWheel& g : c.given_wheels) {
    Wheel w = g.wheel;
    w.centre = w.centre * c.scale + shift, w.radius *= c.scale, w.width *= c.scale;
    cut_out_wheel(s, w, g.from_part, where);
    wheels.push_back(w);
  }
  for (const auto& name : c.wheel_parts)
    wheels.push_back(named_wheel(s, name, c.file.string() + " (wheels.parts)"));
  if (!c.find_wheels) return wheels;
  findings.append(separate_wheels(s));
  for (const Wheel& w : find_wheels(s))
    if (std::none_of(wheels.begin(), wheels.end(),
                     [&](const Wheel& known) { return known.part == w.part; }))
      wheels.push_back(w);
  return wheels;
}

/// The shift that puts the vehicle on the road and mid-wheelbase at x = 0.
Vec3 placement_shift(const Campaign& c, const Surface& base, Findings& findings) {
  const Box box = bounds(base);
  Vec3 shift;
  const double height = box.size().z;
  if (std::abs(box.lo.z) > 0.03 * height) {
    shift.z = -box.lo.z;
    findings.note(fmt::format(
        "the vehicle was moved by {:.3f} m in height so that its lowest point stands on the road",
        shift.z));
  }
  Surface placed = base;
  translate(placed, shift);
  Findings unsaid;  // each variant says it again
  const std::vector<Wheel> wheels = wheels_of(c, placed, shift, unsaid);
  if (wheelbase_of(wheels) > 0) {
    double lo = 1e300, hi = -1e300;
    for (const Wheel& w : wheels) lo = std::min(lo, w.centre.x), hi = std::max(hi, w.centre.x);
    shift.x = -0.5 * (lo + hi);
  } else {
    shift.x = -box.centre().x;
    findings.note(
        "fewer than two axles are known: the origin is the middle of the vehicle's length");
  }
  if (std::abs(shift.x) < 1e-6 * height) shift.x = 0;
  const double centre = box.centre().y;
  if (!c.tunnel.half || std::abs(centre) < 1e-3 * box.size().y) return shift;
  shift.y = -centre;
  findings.note(fmt::format(
      "the vehicle was moved by {:.3f} m sideways so that its middle lies on the centre plane",
      shift.y));
  return shift;
}

const char* turbulence_words(TurbulenceModel model) {
  switch (model) {
    case TurbulenceModel::sst: return "k-omega SST with wall functions";
    case TurbulenceModel::spalart_allmaras: return "Spalart-Allmaras with wall functions";
    case TurbulenceModel::k_epsilon: return "standard k-epsilon with a one-equation layer at walls";
    case TurbulenceModel::realizable_k_epsilon:
      return "realizable k-epsilon with a one-equation layer at walls";
    case TurbulenceModel::laminar: break;
  }
  return "laminar";
}

/// How the wheels turn, told once for all that turn alike: a wrong direction looks plausible.
void report_turning(const std::vector<Wheel>& wheels, double road, Findings& findings) {
  std::vector<std::pair<std::string, std::string>> alike;  // the way of turning, and the parts
  for (const Wheel& w : wheels) {
    const std::string way = fmt::format(
        "axle {:.3f} m above the road, {:.1f} rad/s; at the road the tread moves rearward at "
        "{:.2f} m/s",
        w.loaded_radius(), norm(w.spin(road)), tread_speed(w, w.spin(road)));
    const auto same =
        std::find_if(alike.begin(), alike.end(), [&](const auto& a) { return a.first == way; });
    if (same == alike.end())
      alike.push_back({way, fmt::format("'{}'", w.part)});
    else
      same->second += fmt::format(", '{}'", w.part);
  }
  for (const auto& [way, parts] : alike) findings.note(fmt::format("turning: {}: {}", parts, way));
}

void check_shape(const CampaignSetup& s, Findings& findings) {
  const PlacedVariant& base = s.variants.front();
  const Vec3 size = bounds(base.vehicle).size();
  const double scale = s.campaign.scale;
  const double length = size.x / scale;
  constexpr double longest = 500, shortest = 0.01;  // m; what is beyond comes of a wrong unit
  if (length > longest || length < shortest)
    throw InputError(fmt::format("the vehicle is {:.4g} m long", length),
                     s.campaign.file.string() + " (vehicle.unit)",
                     "give the unit of the files' numbers: m, mm, cm, in or ft");
  if (length > 40 || length < 0.5)
    findings.warn(
        fmt::format("the vehicle is {:.4g} m long: is the unit of the files right?", length));
  if (size.x < size.y)
    findings.warn("the vehicle is wider than long: does the nose point where the campaign says?");
  // A vehicle's nose is lower than its tail, as a rule.
  Box front, rear;
  const Box box = bounds(base.vehicle);
  for (const Vec3& p : base.vehicle.points) {
    if (p.x < box.lo.x + 0.12 * size.x) front.include(p);
    if (p.x > box.hi.x - 0.12 * size.x) rear.include(p);
  }
  if (!front.empty() && !rear.empty() && front.hi.z > rear.hi.z + 0.25 * size.z)
    findings.warn(
        "the end taken as the nose is taller than the tail: the stream may come from behind");
  if (s.campaign.rolling_road && base.wheels.empty())
    findings.warn("the road moves but no wheels were found: nothing turns");
  const double road = s.road_speed(s.campaign.speeds.front());
  for (const Wheel& w : base.wheels) {
    if (std::abs(w.radius / w.loaded_radius() - 1) > contact_mismatch)
      throw InputError(fmt::format("the axle of '{}' is {:.3f} m above the road but its radius is "
                                   "{:.3f} m: the tread would miss the road's speed by {:.0f} %",
                                   w.part, w.loaded_radius(), w.radius,
                                   100 * std::abs(w.radius / w.loaded_radius() - 1)),
                       "wheels", "place the vehicle on its tyres, or name the wheels");
    if (s.campaign.wheels_turn && road > 0) check_spin(w, w.spin(road), road, "wheels");
  }
  if (s.campaign.wheels_turn && road > 0) report_turning(base.wheels, road, findings);
}

void check_sides(const CampaignSetup& s, Findings& findings) {
  if (!s.campaign.tunnel.half) return;
  const Surface& v = s.variants.front().vehicle;
  const Asymmetry a = asymmetry(v, RayScene(v), 1);
  constexpr double tolerated = 2e-3;  // of the width
  if (a.largest > tolerated * bounds(v).size().y)
    findings.warn(
        fmt::format("half model, but the two sides differ by up to {:.1f} mm ({:.2f} mm on "
                    "average), most at ({:.3f}, {:.3f}, {:.3f}) m",
                    1000 * a.largest, 1000 * a.mean, a.place.x, a.place.y, a.place.z));
}

/// The recipe's layers with what the file says of them.
LayerOptions layers_of(const CampaignSetup& s, LayerOptions layers) {
  const LayerChoice& c = s.campaign.layers;
  if (c.count) layers.count = *c.count;
  if (c.growth) layers.growth = *c.growth;
  layers.without = c.without;
  if (c.total_leaves) layers.total_leaves = *c.total_leaves;
  if (c.first_height || c.total || c.y_plus) layers.total_leaves = 0;
  if (layers.count == 0) return layers;
  if (c.first_height) layers.first_height = *c.first_height;
  if (c.total) layers.first_height = *c.total / layers.sum(layers.count);
  if (c.y_plus) layers.first_height = *c.y_plus / expected_y_plus(s, 1);
  return layers;
}

/// The recipe, with all sizes in the same ratio to the one given, and what else the file says.
MeshOptions mesh_options(const CampaignSetup& s, const PlacedVariant& p, double surface_size) {
  const Campaign& c = s.campaign;
  MeshOptions o = mesh_recipe(c.recipe, s.vehicle_bounds, c.file.string());
  if (surface_size > 0) {
    const double ratio = surface_size / o.surface_size;
    for (double* size : {&o.surface_size, &o.largest_size, &o.edge_size, &o.smallest_size})
      *size *= ratio;
    for (auto& b : o.boxes) b.size *= ratio;
  }
  if (c.smallest_size) o.smallest_size = *c.smallest_size, o.slot_halvings = 0;
  if (c.edge_size) o.edge_size = *c.edge_size;
  if (c.cells_per_turn) o.cells_per_turn = *c.cells_per_turn;
  if (c.gap_cells) o.gap_cells = *c.gap_cells;
  if (c.thin_cells) o.thin_cells = *c.thin_cells;
  for (const auto& [part, size] : c.part_size)
    if (p.vehicle.find_part(part) >= 0) o.part_size[part] = size;
  o.boxes.insert(o.boxes.end(), c.boxes.begin(), c.boxes.end());
  o.half = c.tunnel.half;
  for (const Wheel& w : p.wheels) o.standing_parts.push_back(w.part);
  o.sheet_parts = c.sheets;
  o.layers = layers_of(s, o.layers);
  return o;
}

/// The surface size that gives about the wanted number of cells: cells go with its power of -2 to
/// -3.
double size_for_target(const CampaignSetup& s, double target) {
  const PlacedVariant& base = s.variants.front();
  double size = mesh_options(s, base, 0).surface_size;
  for (int i = 0; i < 4; ++i) {
    const double cells = predict_cells(base.vehicle, s.tunnel, mesh_options(s, base, size));
    if (std::abs(cells / target - 1) < 0.02) break;
    size *= std::clamp(std::pow(cells / target, 0.4), 0.25, 4.0);
  }
  return size;
}

}  // namespace

CampaignSetup prepare(const Campaign& c) {
  CampaignSetup s;
  s.campaign = c;
  const Surface base = base_surface(c);
  Findings unsaid;
  const Vec3 shift = placement_shift(
      c, base.size() > 0 ? base : variant_surface(c, c.variants.front(), base, unsaid), s.findings);
  for (const auto& v : c.variants) {
    PlacedVariant p;
    p.name = v.name;
    Findings said;
    p.vehicle = variant_surface(c, v, base, said);
    translate(p.vehicle, shift);
    p.wheels = wheels_of(c, p.vehicle, shift, said);
    const std::string where = c.file.string() + " (ride)";
    apply_ride(p.vehicle, c.ride, p.wheels, where);
    apply_ride(p.vehicle, v.ride, p.wheels, where);
    for (const Finding& f : said)
      s.findings.note(c.variants.size() > 1 ? "variant '" + v.name + "': " + f.text : f.text);
    p.frontal_area = frontal_area(p.vehicle);
    p.fingerprint = fingerprint_of(p.vehicle);
    if (!v.mesh.empty()) p.mesh_file = v.mesh, p.mesh_fingerprint = fingerprint_of(v.mesh);
    s.vehicle_bounds.include(bounds(p.vehicle));
    s.variants.push_back(std::move(p));
  }
  const PlacedVariant& first = s.variants.front();
  if (!(first.frontal_area > 0))
    throw InputError("the vehicle has no frontal area above the road", c.file.string(),
                     "check unit, nose and height");
  s.reference_area = c.frontal_area.value_or(first.frontal_area);
  const double wheelbase = wheelbase_of(first.wheels);
  s.reference_length =
      c.wheelbase.value_or(wheelbase > 0 ? wheelbase : bounds(first.vehicle).size().x);
  if (!c.wheelbase && wheelbase <= 0)
    s.findings.warn("no wheelbase is known: moments are referred to the vehicle's length");
  if (std::abs(s.reference_area / first.frontal_area - 1) > 0.1)
    s.findings.warn(
        fmt::format("the reference area {:.3f} m2 is far from the frontal area {:.3f} m2",
                    s.reference_area, first.frontal_area));
  s.tunnel = tunnel_box(s.vehicle_bounds, first.frontal_area, c.tunnel);
  check_vehicle_in_tunnel(s.vehicle_bounds, s.tunnel, c.tunnel);
  const Vec3 section = s.tunnel.size();
  s.blockage = first.frontal_area / (section.y * section.z * (c.tunnel.half ? 2 : 1));
  if (s.blockage > blockage_warning)
    s.findings.warn(fmt::format(
        "blockage is {:.1f} %: the walls squeeze the stream; above 2 % drag comes out too high",
        100 * s.blockage));
  for (const double re : c.reynolds_numbers) {
    const double v = re * c.air.kinematic_viscosity / s.reference_length;
    s.campaign.speeds.push_back(v);
    s.findings.note(fmt::format("Reynolds number {:.3g} on {:.3f} m is {:.2f} m/s ({:.1f} km/h)",
                                re, s.reference_length, v, 3.6 * v));
    if (v > 100)
      s.findings.warn(fmt::format(
          "{:.0f} m/s is over Mach 0.3: the air would be compressed, which is not computed", v));
  }
  if (c.road_speed && c.rolling_road)
    for (const double v : c.speeds)
      if (std::abs(*c.road_speed / v - 1) > 1e-6)
        s.findings.warn(fmt::format("the road moves at {:.2f} m/s but the stream at {:.2f} m/s",
                                    *c.road_speed, v));
  constexpr double thin_air = 0.3, thick_air = 2, least_viscosity = 5e-6, most_viscosity = 5e-5;
  if (c.air.density < thin_air || c.air.density > thick_air)
    s.findings.warn(fmt::format(
        "a density of {:.3g} kg/m3 is not that of air on the road (about 1.2)", c.air.density));
  if (c.air.kinematic_viscosity < least_viscosity || c.air.kinematic_viscosity > most_viscosity)
    s.findings.warn(fmt::format(
        "a kinematic viscosity of {:.3g} m2/s is not that of air on the road (about 1.5e-5)",
        c.air.kinematic_viscosity));
  if (!c.rolling_road)
    s.findings.warn("the road is fixed: drag and lift are not those on the road");
  if (!c.wheels_turn) s.findings.warn("the wheels stand still");
  check_shape(s, s.findings);
  check_sides(s, s.findings);
  const double surface_size =
      c.target_cells ? size_for_target(s, *c.target_cells) : c.surface_size.value_or(0);
  for (PlacedVariant& p : s.variants) p.mesh = mesh_options(s, p, surface_size);
  for (const auto& part : c.sheets)
    if (std::none_of(s.variants.begin(), s.variants.end(),
                     [&](const PlacedVariant& p) { return p.vehicle.find_part(part) >= 0; }))
      throw InputError("part '" + part + "' is named as a sheet, but no variant has it",
                       c.file.string() + " (vehicle.sheets)", "check its name");
  for (const auto& [part, height] : c.roughness) {
    (void)height;
    const bool known = part == "road" || std::any_of(s.variants.begin(), s.variants.end(),
                                                     [&](const PlacedVariant& p) {
                                                       return p.vehicle.find_part(part) >= 0;
                                                     });
    if (!known)
      throw InputError("a roughness is given for part '" + part + "', which no variant has",
                       c.file.string() + " (roughness)", "check its name; the road is \"road\"");
  }
  for (const auto& [part, size] : c.part_size) {
    (void)size;
    const bool known =
        std::any_of(s.variants.begin(), s.variants.end(),
                    [&](const PlacedVariant& p) { return p.vehicle.find_part(part) >= 0; });
    if (!known)
      throw InputError("a size is given for part '" + part + "', which no variant has",
                       c.file.string() + " (mesh.parts)", "check its name");
  }
  return s;
}

double expected_y_plus(const CampaignSetup& s, double first_height) {
  const double speed = s.campaign.speeds.front(), nu = s.campaign.air.kinematic_viscosity;
  const double re = std::max(1e4, speed * 0.5 * s.vehicle_bounds.size().x / nu);
  const double cf = 0.455 / std::pow(std::log(0.06 * re), 2), u_tau = speed * std::sqrt(0.5 * cf);
  return 0.5 * first_height * u_tau / nu;
}

std::vector<std::string> describe(const CampaignSetup& s) {
  const Campaign& c = s.campaign;
  std::vector<std::string> lines;
  const PlacedVariant& base = s.variants.front();
  const Vec3 v = bounds(base.vehicle).size(), t = s.tunnel.size();
  lines.push_back(
      fmt::format("vehicle    {:.3f} m long, {:.3f} m wide, {:.3f} m high; {} parts, {} triangles; "
                  "nose towards {} in the files",
                  v.x, v.y, v.z, base.vehicle.part_names.size(), base.vehicle.size(), c.nose));
  lines.push_back(fmt::format("reference  area {:.4f} m2{}, length {:.3f} m", s.reference_area,
                              c.frontal_area ? " (given)" : " (computed frontal area)",
                              s.reference_length));
  lines.push_back(
      fmt::format("tunnel     {:.1f} m long, {:.1f} m wide, {:.1f} m high{}; blockage {:.2f} %, "
                  "worth about {:.1f} % of drag, not taken off",
                  t.x, t.y * (c.tunnel.half ? 2 : 1), t.z,
                  c.tunnel.half ? ", one half computed and mirrored" : "", 100 * s.blockage,
                  100 * (s.blockage_factor() - 1)));
  if (c.yaw != 0)
    lines.push_back(fmt::format(
        "yaw        {:+.2f} deg, air from the {}: {}", 57.29577951308232 * c.yaw,
        c.yaw > 0 ? "left" : "right",
        c.crosswind ? "crosswind, the road comes from ahead"
                    : "the vehicle is turned in the tunnel, the road moves with the stream"));
  if (!c.ride.none())
    lines.push_back(
        fmt::format("ride       {:+.1f} mm front, {:+.1f} mm rear, pitch {:+.2f} deg nose up",
                    1000 * c.ride.front, 1000 * c.ride.rear, 57.29577951308232 * c.ride.pitch));
  lines.push_back(fmt::format(
      "road       {}", c.rolling_road
                           ? (c.road_speed ? fmt::format("rolling at {:.2f} m/s", *c.road_speed)
                                           : "rolling with the stream")
                           : "fixed"));
  lines.push_back(fmt::format("wheels     {} {}", base.wheels.size(),
                              base.wheels.empty() ? ""
                              : c.wheels_turn     ? "turning with the road"
                                                  : "standing still"));
  lines.push_back(fmt::format("air        {:.3f} kg/m3, {:.3g} m2/s", c.air.density,
                              c.air.kinematic_viscosity));
  if (base.mesh_file.empty())
    lines.push_back(fmt::format("mesh       recipe {}, {:.1f} mm at the surface", c.recipe,
                                1000 * base.mesh.surface_size));
  for (const PlacedVariant& v : s.variants)
    if (!v.mesh_file.empty())
      lines.push_back(fmt::format("mesh       of '{}' from {}", v.name, v.mesh_file.string()));
  if (base.mesh_file.empty() && base.mesh.layers.count > 0) {
    const LayerOptions& l = base.mesh.layers;
    const double first = 1000 * l.first_at(base.mesh.surface_size);
    lines.push_back(
        fmt::format("layers     {} of growth {:.2f}, first {:.3g} mm, together {:.3g} mm{}",
                    l.count, l.growth, first, first * l.sum(l.count),
                    l.total_leaves > 0 ? "; less where leaves are smaller" : ""));
  }
  lines.push_back(fmt::format("flow       steady, {}, at most {} iterations",
                              turbulence_words(c.flow.turbulence), c.iterations));
  for (const auto& [part, height] : c.roughness)
    lines.push_back(fmt::format("roughness  {:.3g} mm of sand on '{}'", 1000 * height, part));
  std::string speeds;
  for (const double u : s.campaign.speeds)
    speeds += fmt::format("{}{:.0f} km/h (Re {:.2g})", speeds.empty() ? "" : ", ", 3.6 * u,
                          u * v.x / c.air.kinematic_viscosity);
  lines.push_back(fmt::format("runs       {} variant{} at {}", s.variants.size(),
                              s.variants.size() == 1 ? "" : "s", speeds));
  return lines;
}

FlowCase make_case(const CampaignSetup& s, const PlacedVariant& variant, double speed,
                   const std::vector<Boundary>& boundaries) {
  FlowCase fc;
  fc.air = s.campaign.air;
  fc.options = s.campaign.flow;
  fc.reference_speed = speed;
  fc.reference_length = characteristic_length(s.vehicle_bounds);
  // Positive yaw: the air comes from the left and goes to the right. A vehicle turned in the tunnel
  // has its road turned with the stream.
  const Vec3 stream = Vec3{std::cos(s.campaign.yaw), std::sin(s.campaign.yaw), 0} * speed;
  fc.initial_velocity = stream;
  const double road = s.road_speed(speed), road_ahead = road * std::cos(s.campaign.yaw);
  const Vec3 road_velocity =
      s.campaign.crosswind ? Vec3{road_ahead, 0, 0}
                           : Vec3{std::cos(s.campaign.yaw), std::sin(s.campaign.yaw), 0} * road;
  for (const auto& boundary : boundaries) {
    BoundaryCondition bc;
    switch (boundary.kind) {
      case BoundaryKind::inflow: bc.kind = ConditionKind::stream, bc.velocity = stream; break;
      case BoundaryKind::outflow: bc.kind = ConditionKind::outflow; break;
      case BoundaryKind::side:
        if (stream.y != 0) {
          const bool windward = (boundary.name == "left wall") == (stream.y > 0);
          bc.kind = windward ? ConditionKind::stream : ConditionKind::outflow;
          if (windward) bc.velocity = stream;
        }
        break;
      case BoundaryKind::roof:
      case BoundaryKind::centre_plane: bc.kind = ConditionKind::slip; break;
      case BoundaryKind::road: bc.kind = ConditionKind::wall, bc.velocity = road_velocity; break;
      case BoundaryKind::part:
        bc.kind = ConditionKind::wall;
        for (const Wheel& w : variant.wheels)
          if (w.part == boundary.name && s.campaign.wheels_turn)
            bc.spin = w.spin(road_ahead), bc.spin_centre = w.centre;
        break;
    }
    if (const auto rough =
            s.campaign.roughness.find(boundary.kind == BoundaryKind::road ? "road" : boundary.name);
        bc.kind == ConditionKind::wall && rough != s.campaign.roughness.end())
      bc.roughness = rough->second;
    fc.conditions.push_back(bc);
  }
  return fc;
}

}  // namespace dunefield
