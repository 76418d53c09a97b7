// The conditions that a run's set-up puts on the boundaries of its mesh.
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
  bc.kind = ConditionKind::wall;
  const double road = s.conditions.speed_of_road() * std::cos(s.conditions.yaw);
  for (const Wheel& w : s.vehicle.wheels)
    if (w.part == part && s.conditions.wheels_turn)
      bc.spin = w.spin(road), bc.spin_centre = w.centre;
  return bc;
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
      break;
    case BoundaryKind::part: bc = part_wall(s, boundary.name); break;
  }
  const auto rough = c.roughness.find(boundary.kind == BoundaryKind::road ? "road" : boundary.name);
  if (bc.kind == ConditionKind::wall && rough != c.roughness.end()) bc.roughness = rough->second;
  return bc;
}

}  // namespace

FlowCase flow_case(const RunSetup& s, const std::vector<Boundary>& boundaries) {
  FlowCase c;
  c.air = s.conditions.air;
  c.options = s.flow;
  c.reference_speed = s.conditions.speed;
  c.reference_length = characteristic_length(s.common_frame().bounds);
  c.devices = s.devices;
  c.initial_velocity = ahead(s.conditions) * s.conditions.speed;
  for (const Boundary& boundary : boundaries) c.conditions.push_back(condition_of(s, boundary));
  return c;
}

}  // namespace dunefield
