// Planes through the air: what flows through them, and the drag that the wake behind the vehicle
// shows.
#pragma once

#include <string>
#include <vector>

#include <dunefield/record/taps.hpp>

namespace dunefield {

/// A rectangle in the air, or all of the tunnel's cut.
struct MeasuringPlane {
  std::string name;
  Vec3 centre, normal;           ///< normal: unit vector, flow along it is positive
  double width = 0, height = 0;  ///< m, level and upward; 0: as far as there is air
};

struct PlaneReading {
  std::string plane;
  double area = 0;       ///< m2, where there is air
  double mass_flow = 0;  ///< kg/s
  Vec3 velocity;         ///< mean over the area, m/s
  double pressure = 0;   ///< mean over the area, Pa
  double cp = 0;         ///< the same as a coefficient
  double total_cp = 0;   ///< mean over the area
};

/// Integrals over the cuts of all cells, values carried on to each cut's middle by least-squares
/// gradients (second order).
std::vector<PlaneReading> read_planes(const FlowReadings& field,
                                      const std::vector<MeasuringPlane>& planes,
                                      const ReferenceValues& reference);

/// Momentum along x that passes the tunnel's whole section at `x`, N: pressure, convection, and the
/// stress with `viscosity` per cell (m2/s). What the stream brings less this is the drag of all
/// that lies ahead of it. That of the whole vehicle for a half model.
double section_momentum(const FlowReadings& field, double x, const std::vector<double>& viscosity,
                        double density);

}  // namespace dunefield
