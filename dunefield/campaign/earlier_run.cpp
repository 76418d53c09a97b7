#include <dunefield/campaign/earlier_run.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/checkpoint.hpp>
#include <dunefield/campaign/run_folder.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/record/mapping.hpp>

namespace dunefield {
namespace {

constexpr char state_file[] = "state.bin", mesh_file[] = "volume.vtu";

}  // namespace

bool can_start_from(const std::filesystem::path& folder) {
  return std::filesystem::is_regular_file(folder / state_file) &&
         std::filesystem::is_regular_file(folder / mesh_file);
}

std::optional<FlowFields> start_from_run(const std::filesystem::path& folder,
                                         const VolumeMesh& mesh, bool half, double at_speed,
                                         Findings& findings, const Progress& progress) {
  try {
    const auto saved = read_checkpoint(folder / state_file);
    if (!saved) return std::nullopt;
    const RunFigures run = read_balance(folder / "balance.json");
    if (run.half != half)
      throw InputError(fmt::format("this is the result of a {} model", run.half ? "half" : "whole"),
                       folder.string(), "name one of the same kind");
    FlowFields fields = read_fields(folder / state_file);
    if (mesh_fingerprint(mesh) != saved->key.mesh) {
      progress.check();
      progress("reading", 0);
      const VolumeMesh from = read_vtu(folder / mesh_file);
      if (mesh_fingerprint(from) != saved->key.mesh)
        throw InputError("mesh and saved state do not belong together", folder.string(),
                         "run that case again");
      progress.check();
      fields = mapped(from, fields, mesh);
      findings.note(
          fmt::format("starts from the result of '{}' at {:.4g} km/h, brought over to this mesh",
                      run.variant, 3.6 * run.speed));
    }
    fields.scale_speed(at_speed / run.speed);
    return fields;
  } catch (const Cancelled&) {
    throw;
  } catch (const Error& e) {
    findings.warn(fmt::format("{}: the run does not start from it", e.what()));
    return std::nullopt;
  }
}

}  // namespace dunefield
