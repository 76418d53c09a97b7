#include <dunefield/campaign/earlier_run.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/checkpoint.hpp>
#include <dunefield/campaign/variant_mesh.hpp>
#include <dunefield/flow/mapping.hpp>

namespace dunefield {

std::optional<FlowFields> EarlierRun::start_for(const CampaignSetup& setup, const VolumeMesh& mesh, double at_speed, const VolumeMesh* own_mesh, Findings& findings,
                                                const Progress& progress) const {
  try {
    const auto saved = read_checkpoint(folder / "state.bin");
    if (!saved) return std::nullopt;
    FlowFields fields = saved->fields();
    const std::string name = setup.variants[variant].name;
    if (mesh_fingerprint(mesh) != saved->key.mesh) {
      std::optional<MeshResult> again;
      if (!own_mesh || mesh_fingerprint(*own_mesh) != saved->key.mesh) again = mesh_of_variant(setup, setup.variants[variant], progress);
      const VolumeMesh& from = again ? again->mesh : *own_mesh;
      if (again && mesh_fingerprint(from) != saved->key.mesh) return std::nullopt;
      fields = mapped(from, fields, mesh);
      findings.note(fmt::format("starts from the result of '{}' at {:.4g} km/h, brought over to this mesh", name, 3.6 * speed));
    }
    fields.scale_speed(at_speed / speed);
    return fields;
  } catch (const Cancelled&) {
    throw;
  } catch (const Error& e) {
    findings.warn(fmt::format("{}: the run does not start from it", e.what()));
    return std::nullopt;
  }
}

}  // namespace dunefield
