// Where a change of shape would pay: the change of a coefficient per displacement of the surface.
#pragma once

#include <string>
#include <vector>

#include <dunefield/flow/conditions.hpp>
#include <dunefield/record/record.hpp>
#include <dunefield/sensitivity/bumps.hpp>

namespace dunefield {

/// A change of shape that is asked for: by how much each point of the record's mesh moves, m.
struct NamedDisplacement {
  std::string name;
  std::vector<Vec3> way;
};

struct SensitivityOptions {
  std::string of = "CD";  ///< CD, CL, CPM, CLF, CLR or CY; with a minus before it: less of it
  double radius = 0;      ///< of the bumps, m; 0: 3 % of the vehicle's length
  AdjointOptions adjoint;
};

/// A stretch of the surface that is worth moving.
struct RewardingRegion {
  std::string part;
  Vec3 place, normal;
  double area = 0;    ///< m2
  double change = 0;  ///< of the coefficient, moved out by 1 mm
  double doubt = 0;   ///< of it: what twice the damping changes
};

struct PredictedChange {
  std::string name;
  double change = 0, doubt = 0;  ///< of the coefficient, to first order
};

struct Sensitivity {
  std::string of;
  /// Per boundary face: change of the coefficient, moved out, per mm and m2; zero elsewhere
  std::vector<double> on_wall;
  double radius = 0;                     ///< m
  std::vector<RewardingRegion> regions;  ///< the largest first, of one side where a model is half
  std::vector<PredictedChange> predicted;
  double damping_courant = 0;  ///< 0: none was needed
  /// Root mean square over the surface of what twice the damping changes, as a share of the
  /// sensitivity itself; 0 without damping
  double doubt = 0;
  int iterations = 0;
  double seconds = 0;
};

/// Solves the discrete adjoint of a record's last state, with turbulence frozen but for the wall
/// law's answer to the slip, and takes shape gradients by differences of the equations on moved
/// meshes (docs/theory/sensitivity.md).
/// @param flow_case that of the record's run on its mesh
/// @throw InputError for a load that is not known or not defined in a half model, for what is not
/// covered; FlowError where the adjoint converges with no damping that is tried; Cancelled
Sensitivity sensitivity(const Record& record, const FlowCase& flow_case,
                        const std::vector<NamedDisplacement>& displacements,
                        const SensitivityOptions& options, const Progress& progress = {});

}  // namespace dunefield
