#include <dunefield/campaign/campaign_runner.hpp>

#include <set>

#include <fmt/format.h>

namespace dunefield {
namespace {

/// The same answer on all MPI processes: the root's.
bool agreed(const Ranks& ranks, bool value) { return ranks.processes ? ranks.processes->any(ranks.is_root() && value) : value; }

/// Two variants whose names differ only in signs get folders of their own.
std::vector<std::string> folder_names(const CampaignSetup& setup, double speed) {
  std::vector<std::string> names;
  std::set<std::string> taken;
  for (const auto& v : setup.variants) {
    std::string name = run_name(v.name, speed);
    for (int n = 2; !taken.insert(name).second; ++n) name = run_name(v.name + fmt::format(" {}", n), speed);
    names.push_back(name);
  }
  return names;
}

/// Where a run saves its state while it goes on; in the end it goes into the run's folder.
std::filesystem::path state_beside(const std::filesystem::path& folder) { return folder.parent_path() / ("." + folder.filename().string() + ".state"); }

}  // namespace

std::filesystem::path default_folder(const Campaign& c) { return c.file.parent_path() / (c.file.stem().string() + ".runs"); }

CampaignResult run_campaign(const CampaignSetup& setup, const std::filesystem::path& folder, const Ranks& ranks, const CampaignObserver& observer) {
  CampaignResult result;
  const bool root = ranks.is_root();
  if (root) check_writable(folder);
  const auto& speeds = setup.campaign.speeds;
  const int total = static_cast<int>(setup.variants.size() * speeds.size());
  int number = 0;
  for (std::size_t v = 0; v < setup.variants.size(); ++v) {
    const PlacedVariant& variant = setup.variants[v];
    std::optional<MeshResult> mesh;
    FlowFields previous;
    double previous_speed = 0;
    bool unmeshable = false;
    for (const double speed : speeds) {
      ++number;
      const auto target = folder / folder_names(setup, speed)[v];
      const std::string text = resolved_setup(setup, variant, speed);
      const auto done = root ? finished_run(target, text) : std::nullopt;
      const bool skip = agreed(ranks, done.has_value());
      if (root && observer.begins) observer.begins(number, total, variant.name, speed, skip);
      if (skip) {
        if (root) result.runs.push_back(*done);
        continue;
      }
      if (root && !mesh && !unmeshable) {
        try {
          mesh = build_mesh(variant.vehicle, setup.tunnel, variant.mesh, observer.run.progress);
          if (observer.meshed) observer.meshed(*mesh);
        } catch (const MeshError& e) {
          unmeshable = true;
          if (observer.failed) observer.failed(e.what());
        }
      }
      if (agreed(ranks, unmeshable)) {
        ++result.failures;
        continue;
      }
      if (previous_speed > 0) previous.scale_speed(speed / previous_speed);
      RunResult run;
      try {
        const Saving saving{state_beside(target), target / "state.bin", setup.campaign.save_every, without_limits(text)};
        run = run_case(setup, variant, speed, root ? &mesh->mesh : nullptr, previous_speed > 0 ? &previous : nullptr, ranks, observer.run, saving);
      } catch (const FlowError& e) {
        ++result.failures;
        previous_speed = 0;
        if (root && observer.failed) observer.failed(e.what());
        continue;
      }
      const bool stopped = agreed(ranks, run.status == RunStatus::stopped);
      if (root) {
        result.runs.push_back(write_run(target, setup, variant, *mesh, run, text));
        std::error_code gone;
        if (!stopped) std::filesystem::rename(state_beside(target), target / "state.bin", gone);
        if (observer.ended) observer.ended(result.runs.back(), run.findings, target);
      }
      if (stopped) return result.stopped = true, result;
      previous = std::move(run.fields);
      previous_speed = speed;
    }
  }
  return result;
}

}  // namespace dunefield
