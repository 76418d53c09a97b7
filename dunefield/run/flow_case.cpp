// The conditions that a run's set-up puts on the boundaries of its mesh.
#include <algorithm>
#include <array>

#include <dunefield/run/run_setup.hpp>

namespace dunefield {
namespace {

/// Along the stream of a tunnel at yaw, or of a crosswind. Positive yaw: the air comes from the
/// left and goes to the right.
Vec3 ahead(const RunConditions& c) { return {std::cos(c.yaw), std::sin(c.yaw), 0}; }

BoundaryCondition side_wall(const Boundary& side, const Vec3& stream) {
  BoundaryCondition bc;
  if (stream.y == 0) return bc;
  const bool windward = (side.name == "left wall") == (stream.y > 0);
  bc.kind = windward ? ConditionKind::stream : ConditionKind::outflow;
  if (windward) bc.velocity = stream;
  return bc;
}

BoundaryCondition part_wall(const RunSetup& s, const std::string& part) {
  BoundaryCondition bc;
  for (const Opening& o : s.openings) {
    if (o.part != part) continue;
    bc.kind = o.pressure ? ConditionKind::outflow : ConditionKind::opening;
    bc.of_vehicle = true;
    if (o.pressure)
      bc.pressure = *o.pressure / s.conditions.air.density;
    else
      bc.volume_flow = s.meshed_flow(o);
    return bc;
  }
  bc.kind = ConditionKind::wall;
  const double road = s.conditions.speed_of_road() * std::cos(s.conditions.yaw);
  for (const Wheel& w : s.vehicle.wheels)
    if (w.part == part && s.conditions.wheels_turn)
      bc.spin = w.spin(road), bc.spin_centre = w.centre;
  return bc;
}

/// Belts as places, one under each wheel where that is asked for.
std::vector<Box> places_of_belts(const RunSetup& s) {
  std::vector<Box> places;
  for (const Belt& b : s.conditions.belts) {
    const Vec3 half{b.length / 2, b.width / 2, 1};
    if (!b.under_wheels) places.push_back({b.centre - half, b.centre + half});
    for (const Wheel& w : s.vehicle.wheels) {
      const Vec3 contact{w.centre.x, w.centre.y, 0};
      if (b.under_wheels) places.push_back({contact - half, contact + half});
    }
  }
  return places;
}

/// The floor of a tunnel with belts, or one whose boundary layer is sucked away.
std::function<Vec3(const Vec3&)> floor_of(const RunSetup& s) {
  const RunConditions& c = s.conditions;
  const Vec3 stream = ahead(c) * c.speed, road = ahead(c) * c.speed_of_road();
  const double from = c.boundary_layer_from.value_or(-1e300);
  const bool belts = !c.belts.empty();
  return [=, places = places_of_belts(s)](const Vec3& x) {
    if (x.x < from) return stream;
    const bool moves = !belts || std::any_of(places.begin(), places.end(), [&](const Box& b) {
      return x.x > b.lo.x && x.x < b.hi.x && x.y > b.lo.y && x.y < b.hi.y;
    });
    return moves ? road : Vec3{};
  };
}

BoundaryCondition condition_of(const RunSetup& s, const Boundary& boundary) {
  const RunConditions& c = s.conditions;
  const Vec3 stream = ahead(c) * c.speed;
  BoundaryCondition bc;
  switch (boundary.kind) {
    case BoundaryKind::inflow: bc.kind = ConditionKind::stream, bc.velocity = stream; break;
    case BoundaryKind::outflow: bc.kind = ConditionKind::outflow; break;
    case BoundaryKind::side: bc = side_wall(boundary, stream); break;
    case BoundaryKind::roof:
    case BoundaryKind::centre_plane: bc.kind = ConditionKind::slip; break;
    case BoundaryKind::road:
      // A vehicle turned in the tunnel has its road turned with the stream.
      bc.kind = ConditionKind::wall;
      bc.velocity = c.crosswind ? Vec3{c.speed_of_road() * std::cos(c.yaw), 0, 0}
                                : ahead(c) * c.speed_of_road();
      if (!c.belts.empty() || c.boundary_layer_from) bc.profile = floor_of(s);
      break;
    case BoundaryKind::part: bc = part_wall(s, boundary.name); break;
  }
  const auto rough = c.roughness.find(boundary.kind == BoundaryKind::road ? "road" : boundary.name);
  if (const auto warm = c.wall_temperature.find(boundary.name); warm != c.wall_temperature.end())
    bc.temperature = warm->second;
  if (const auto heat = c.wall_heat.find(boundary.name); heat != c.wall_heat.end())
    bc.heat_flux = heat->second;
  if (bc.kind == ConditionKind::wall && rough != c.roughness.end()) bc.roughness = rough->second;
  return bc;
}

/// Share of a triangle's area at y > 0.
double share_to_the_right(const Surface& s, std::size_t t) {
  std::array<double, 3> y{};
  for (int k = 0; k < 3; ++k) y[at(k)] = s.corner(t, k).y;
  std::sort(y.begin(), y.end());
  if (y[0] >= 0) return 1;
  if (y[2] <= 0) return 0;
  // The corner that is alone on its side cuts off a triangle like the whole one.
  const double alone = y[1] <= 0 ? y[2] : y[0];
  const double cut = alone / (alone - y[1]) * (alone / (alone - (y[1] <= 0 ? y[0] : y[2])));
  return y[1] <= 0 ? cut : 1 - cut;
}

}  // namespace

double RunSetup::meshed_flow(const Opening& o) const {
  const Surface& v = vehicle.surface;
  const int part = v.find_part(o.part);
  double meshed = 0, all = 0;
  for (std::size_t t = 0; t < v.size(); ++t) {
    if (v.part_of[t] != part) continue;
    const double area = norm(v.area_vector(t));
    all += area, meshed += tunnel.half ? area * share_to_the_right(v, t) : area;
  }
  return all > 0 ? o.mass_flow / conditions.air.density * meshed / all : 0;
}

FlowCase flow_case(const RunSetup& s, const std::vector<Boundary>& boundaries) {
  FlowCase c;
  c.air = s.conditions.air;
  c.options = s.flow;
  c.reference_speed = s.conditions.speed;
  c.reference_length = characteristic_length(s.common_frame().bounds);
  c.devices = s.devices, c.fast = s.conditions.fast;
  c.initial_velocity = ahead(s.conditions) * s.conditions.speed;
  for (const Boundary& boundary : boundaries) c.conditions.push_back(condition_of(s, boundary));
  return c;
}

}  // namespace dunefield
