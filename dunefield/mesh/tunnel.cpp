#include <dunefield/mesh/tunnel.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {

// In two dimensions what a body does to the air reaches far.
constexpr double section_air = 60;

double characteristic_length(const Box& vehicle) {
  const Vec3 size = vehicle.size();
  return std::max({size.x, size.y, size.z});
}

bool flies(const Box& vehicle) {
  const double below = -0.25 * vehicle.size().z;  // what no tyre is pressed in by: there is no road
  return vehicle.lo.z > 0.5 * vehicle.size().z || vehicle.lo.z < below;
}

Box tunnel_box(const Box& vehicle, double frontal_area, const TunnelOptions& o, double counted) {
  const double length = counted > 0 ? counted : characteristic_length(vehicle);
  if (o.section) {
    const double high = o.height > 0 ? o.height * length : section_air * length,
                 low = o.road ? 0 : vehicle.centre().z - 0.5 * high;
    return {{vehicle.lo.x - o.ahead * length, -0.5 * section_depth, low},
            {vehicle.hi.x + o.behind * length, 0.5 * section_depth, low + high}};
  }
  const double section = frontal_area / o.blockage;
  const double width =
      o.width > 0 ? o.width * length : std::max(std::sqrt(section * 1.25), 3 * vehicle.size().y);
  const double height =
      o.height > 0 ? o.height * length : std::max(section / width, 2.5 * vehicle.hi.z);
  Box box;
  box.include(Vec3{vehicle.lo.x - o.ahead * length, o.half ? 0.0 : -0.5 * width, 0.0});
  box.include(Vec3{vehicle.hi.x + o.behind * length, 0.5 * width, height});
  return box;
}

void check_vehicle_in_tunnel(const Box& vehicle, const Box& tunnel, const TunnelOptions& options) {
  const char* axis[3] = {"x", "y", "z"};
  for (int i = 0; i < 3; ++i) {
    const double slack = i == 2 ? 0.05 * vehicle.size().z : 0;  // tyres may be sunk into the road
    const bool low = vehicle.lo[i] < tunnel.lo[i] - slack && !(i == 1 && options.half);
    if (low || vehicle.hi[i] > tunnel.hi[i])
      throw InputError(
          fmt::format("the vehicle reaches from {} = {:.3g} to {:.3g} m, outside the tunnel "
                      "({:.3g} to {:.3g} m)",
                      axis[i], vehicle.lo[i], vehicle.hi[i], tunnel.lo[i], tunnel.hi[i]),
          "tunnel", "check unit and placement, or enlarge the tunnel");
  }
}

}  // namespace dunefield
