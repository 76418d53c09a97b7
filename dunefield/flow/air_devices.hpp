// What acts inside the air: porous cores (radiators, condensers) that take pressure from what flows
// through them, fans that add some. A device is a box of cells; its pressure change is a curve over
// the velocity through it, spread over its depth, so that the whole change comes out whatever the
// cells are. Across its axis a core holds the flow back (Darcy and Forchheimer: Bear 1972).
#pragma once

#include <string>
#include <utility>
#include <vector>

#include <dunefield/base/members.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

struct FlowState;

/// Pressure change over the velocity through a device: straight between points, as the last two
/// have it beyond them.
struct PressureCurve {
  std::vector<std::pair<double, double>> points;  ///< m/s, Pa; rising in velocity
  double linear = 0, quadratic = 0;               ///< without points: Pa s/m, Pa s2/m2
  double at(double velocity) const;               ///< velocity >= 0
};

/// A core or a fan, placed in the tunnel.
struct AirDevice {
  std::string name;
  bool is_fan = false;
  Vec3 centre, axis{1, 0, 0};               ///< axis: unit, the way the air goes
  double width = 0, height = 0, depth = 0;  ///< m; depth along the axis
  PressureCurve curve;                      ///< a core: the drop; a fan: the rise
  double off_axis = 10;                     ///< resistance across the axis over that along it
  double warming = 0;                       ///< of the air that goes through, K
  bool contains(const Vec3& x) const;
};

/// What has been found of a device.
struct DeviceFigures {
  std::string name;
  double mass_flow = 0;        ///< kg/s along the axis
  double mean_velocity = 0;    ///< m/s, through its face
  double spread = 0;           ///< root mean square deviation from it, m/s
  double pressure_change = 0;  ///< Pa: the mean rise along the axis, negative in cores
  Vec3 force;                  ///< on the device, N
  double area = 0;             ///< of the face that the cells have, m2
  double heat = 0;             ///< that the air takes along, W
};

template <>
inline constexpr auto members_of<DeviceFigures> =
    std::tuple{Member{"device", &DeviceFigures::name},
               Member{"mass_flow_kg_s", &DeviceFigures::mass_flow},
               Member{"mean_velocity_m_s", &DeviceFigures::mean_velocity},
               Member{"spread_m_s", &DeviceFigures::spread},
               Member{"pressure_change_Pa", &DeviceFigures::pressure_change},
               Member{"force_N", &DeviceFigures::force},
               Member{"area_m2", &DeviceFigures::area},
               Member{"heat_W", &DeviceFigures::heat}};
static_assert(members_left_out<DeviceFigures> == 0);

/// The devices of a case on one rank.
class AirDevices {
 public:
  /// Finds the cells of each. Collective. @throw InputError for a device that lies in no air
  AirDevices(const FlowState& state, const std::vector<AirDevice>& devices);

  /// Adds the force of the present flow, over density, to each own cell's sum.
  void add_forces(const FlowState& state, std::vector<Vec3>& force) const;
  /// What of the forces grows with the velocity: visit(cell, along the axis, across it), m3/s
  template <class Visit>
  void for_resistances(const FlowState& state, const Visit& visit) const {
    for (const Own& d : devices_)
      for (std::size_t i = 0; i < d.cells.size(); ++i) {
        const double v = through(state, d, i);
        const auto [along, across] = resistances(state, d, v);
        const double volume = volume_of(state, d.cells[i].cell);
        visit(d.cells[i].cell, volume * along, volume * across);
      }
  }
  /// Collective.
  std::vector<DeviceFigures> figures(const FlowState& state) const;

 private:
  /// What a face adds to the mean velocity through a cell: the integral of the velocity over the
  /// cell is the sum of its faces' places times their fluxes, where nothing appears in it.
  struct Term {
    int face;
    bool boundary;
    double weight;
  };
  struct Cell {
    int cell;
    std::size_t first, end;  ///< of its terms
  };
  struct Own {
    AirDevice device;
    std::vector<Cell> cells;
    std::vector<Term> terms;
    double depth = 0, area = 0, volume = 0;  ///< that all its cells have together, over all ranks
  };
  static double through(const FlowState& state, const Own& own, std::size_t i);
  static double volume_of(const FlowState& state, int cell);
  /// Pressure change per length over density, along the axis.
  static double push(const FlowState& state, const Own& own, double through);
  /// 1/s, along the axis and across it
  static std::pair<double, double> resistances(const FlowState& state, const Own& own,
                                               double through);
  Vec3 force_on_air(const FlowState& state, const Own& own, std::size_t i) const;

  std::vector<Own> devices_;
};

}  // namespace dunefield
