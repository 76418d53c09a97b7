// A finished run, from whose result another one can start: at another speed, on another mesh, of
// another variant.
#pragma once

#include <filesystem>
#include <optional>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/progress.hpp>
#include <dunefield/flow/flow_solver.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// True if the folder holds what a start needs: a run's saved state and its mesh.
bool can_start_from(const std::filesystem::path& run_folder);

/// The run's fields, scaled to another speed and brought over from its mesh (`volume.vtu`) to
/// another one. All is read from the folder, so that a campaign that was interrupted goes on with
/// the same starts. Nothing if they cannot be had, with the reason among the findings.
/// @param mesh of the run that is to start. @param half whether that is a half model. @throw
/// Cancelled
std::optional<FlowFields> start_from_run(const std::filesystem::path& run_folder,
                                         const VolumeMesh& mesh, bool half, double at_speed,
                                         Findings& findings, const Progress& progress);

}  // namespace dunefield
