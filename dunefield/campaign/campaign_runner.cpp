#include <dunefield/campaign/campaign_runner.hpp>

#include <algorithm>
#include <chrono>
#include <fstream>
#include <set>
#include <thread>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/checkpoint.hpp>
#include <dunefield/campaign/earlier_run.hpp>
#include <dunefield/campaign/variant_mesh.hpp>

namespace dunefield {
namespace {

/// The same answer on all MPI processes: the root's.
bool agreed(const Ranks& ranks, bool value) {
  return ranks.processes ? ranks.processes->any(ranks.is_root() && value) : value;
}

/// Two variants whose names differ only in signs get folders of their own.
std::vector<std::string> folder_names(const CampaignSetup& setup, double speed) {
  std::vector<std::string> names;
  std::set<std::string> taken;
  for (const auto& v : setup.variants) {
    std::string name = run_name(v.name, speed);
    for (int n = 2; !taken.insert(name).second; ++n)
      name = run_name(v.name + fmt::format(" {}", n), speed);
    names.push_back(name);
  }
  return names;
}

constexpr char running_ending[] = ".running", wanted_ending[] = ".look-wanted",
               state_ending[] = ".state";

/// While it lives, others can see that the run goes on, and ask for a look at it.
class Running {
 public:
  explicit Running(const std::filesystem::path& target, bool root) : target_(target), root_(root) {
    if (!root) return;
    std::filesystem::remove(beside(target, wanted_ending), ignored_);
    std::ofstream(beside(target, running_ending)) << target.filename().string() << "\n";
  }
  ~Running() {
    if (root_) std::filesystem::remove(beside(target_, running_ending), ignored_);
  }
  Running(const Running&) = delete;
  Running& operator=(const Running&) = delete;

  RunObserver observer(const RunObserver& from, const CampaignSetup& setup,
                       const PlacedVariant& variant, const MeshResult* mesh) const {
    RunObserver o = from;
    if (!root_) return o;
    o.look_wanted = [this] { return std::filesystem::exists(beside(target_, wanted_ending)); };
    o.look = [this, &setup, &variant, mesh](const RunResult& r) {
      write_look(look_folder(target_), setup, variant, *mesh, r);
      std::error_code gone;
      std::filesystem::remove(beside(target_, wanted_ending), gone);
    };
    return o;
  }

 private:
  std::filesystem::path target_;
  bool root_;
  std::error_code ignored_;
};

}  // namespace

std::filesystem::path look_folder(const std::filesystem::path& run_folder) {
  return run_folder.string() + ".look";
}

std::vector<std::filesystem::path> running_below(const std::filesystem::path& folder) {
  std::vector<std::filesystem::path> runs;
  std::error_code status;
  const std::string ending = running_ending;
  for (const auto& entry : std::filesystem::directory_iterator(folder, status))
    if (const std::string name = entry.path().filename().string();
        name.size() > ending.size() + 1 && name.ends_with(ending))
      runs.push_back(folder / name.substr(1, name.size() - 1 - ending.size()));
  std::sort(runs.begin(), runs.end());
  return runs;
}

void ask_for_look(const std::filesystem::path& run_folder, double patience,
                  const Progress& progress) {
  const std::filesystem::path wanted = beside(run_folder, wanted_ending);
  std::ofstream(wanted) << "\n";
  if (!std::filesystem::exists(wanted))
    throw OutputError("nothing can be written here", run_folder.parent_path().string(),
                      "check the folder's rights");
  const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(patience);
  while (std::filesystem::exists(wanted)) {
    std::error_code ignored;
    if (std::chrono::steady_clock::now() > until || progress.stop()) {
      std::filesystem::remove(wanted, ignored);
      progress.check();
      throw InputError(
          "the run does not answer", run_folder.string(),
          "it may be meshing, or was killed; the same run command goes on from what was saved");
    }
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
}

std::filesystem::path default_folder(const Campaign& c) {
  return c.file.parent_path() / (c.file.stem().string() + ".runs");
}

CampaignResult run_campaign(const CampaignSetup& setup, const std::filesystem::path& folder,
                            const Ranks& ranks, const CampaignObserver& observer) {
  CampaignResult result;
  const bool root = ranks.is_root();
  if (root) check_writable(folder);
  const auto& speeds = setup.campaign.speeds;
  const int total = static_cast<int>(setup.variants.size() * speeds.size());
  int number = 0;
  std::filesystem::path earlier = setup.campaign.start_run;
  for (std::size_t v = 0; v < setup.variants.size(); ++v) {
    const PlacedVariant& variant = setup.variants[v];
    std::optional<MeshResult> mesh;
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
        earlier = target;
        continue;
      }
      if (root && !mesh && !unmeshable) {
        try {
          mesh = mesh_of_variant(setup, variant, observer.run.progress);
          if (observer.meshed) observer.meshed(*mesh);
        } catch (const Cancelled&) {
          throw;
        } catch (const Error& e) {  // of this variant only: the others go on
          unmeshable = true;
          if (observer.failed) observer.failed(e.what());
        }
      }
      if (agreed(ranks, unmeshable)) {
        ++result.failures;
        continue;
      }
      const Start start = [&](Findings& findings) -> std::optional<FlowFields> {
        if (earlier.empty() || !setup.campaign.start_earlier) return std::nullopt;
        return start_from_run(earlier, mesh->mesh, setup.campaign.tunnel.half, speed, findings,
                              observer.run.progress);
      };
      RunResult run;
      const Running running(target, root);
      try {
        const Saving saving{beside(target, state_ending), target / "state.bin",
                            setup.campaign.save_every, without_limits(text)};
        run = run_case(setup, variant, speed, root ? &mesh->mesh : nullptr, start, ranks,
                       running.observer(observer.run, setup, variant, root ? &*mesh : nullptr),
                       saving);
      } catch (const FlowError& e) {
        ++result.failures;
        if (root && observer.failed) observer.failed(e.what());
        continue;
      }
      const bool stopped = agreed(ranks, run.status == RunStatus::stopped);
      if (root) {
        result.runs.push_back(write_run(target, setup, variant, *mesh, run, text));
        std::error_code gone;
        if (!stopped) {
          std::filesystem::rename(beside(target, state_ending), target / "state.bin", gone);
          std::filesystem::remove(checkpoint_before(beside(target, state_ending)), gone);
        }
        if (observer.ended) observer.ended(result.runs.back(), run.findings, target);
      }
      if (stopped) return result.stopped = true, result;
      earlier = target;
    }
  }
  return result;
}

}  // namespace dunefield
