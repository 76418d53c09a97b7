// Forces and moments on the vehicle, in total and by part, and their coefficients (SAE J1594).
#pragma once

#include <string>
#include <vector>

#include <dunefield/flow/flow_solver.hpp>

namespace dunefield {

/// Force (N) and moment about the origin (N m) in vehicle axes.
struct Load {
  Vec3 force, moment;
  Load& operator+=(const Load& o) { return force += o.force, moment += o.moment, *this; }
};

struct PartLoad {
  std::string part;
  Load pressure, friction;
  double area = 0;  ///< wetted, m2
  double mean_y_plus = 0;
  Load total() const {
    Load sum = pressure;
    return sum += friction;
  }
};

struct ReferenceValues {
  double speed = 0;         ///< m/s
  double density = 0;       ///< kg/m3
  double frontal_area = 0;  ///< m2, of the whole vehicle
  double length = 0;        ///< wheelbase, m
  double dynamic_pressure() const { return 0.5 * density * speed * speed; }
};

/// CD rearward, CL upward, CY to the right; moments about ground level at mid-wheelbase: rolling
/// -Mx, pitching (nose up) +My, yawing -Mz.
struct Coefficients {
  double cd = 0, cl = 0, cy = 0, crm = 0, cpm = 0, cym = 0;
  double clf() const { return cl / 2 + cpm; }
  double clr() const { return cl / 2 - cpm; }
};

struct Balance {
  std::vector<PartLoad> parts;
  double undisturbed_pressure = 0;     ///< Pa, mean at the inflow, taken off everywhere
  double momentum_drag = 0;            ///< N, from the momentum that passes the tunnel's faces
  std::vector<DeviceFigures> devices;  ///< their forces are among the parts
  Load pressure() const;
  Load friction() const;
  Load total() const;
};

/// Forces of the state when its loads were last worked out (FlowState::update_loads), all ranks
/// together (collective; the result is on every rank).
/// Pressures are taken relative to the mean at the inflow, since a vehicle that stands on the road
/// is not closed.
/// @param half the mesh is one half: forces and moments of the whole vehicle are returned
Balance measure_balance(const FlowState& state, bool half);

Coefficients coefficients(const Load& load, const ReferenceValues& reference);

/// What the stream has lost of its momentum up to a section of the tunnel, N: the drag of what lies
/// ahead of it, less the momentum that passes the section itself. Collective.
double momentum_loss(const FlowState& state, bool half, double ahead_of);

}  // namespace dunefield
