#include <dunefield/campaign/campaign_runner.hpp>

#include <memory>
#include <optional>

#include <dunefield/base/error.hpp>
#include <dunefield/base/file_lock.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/campaign/running.hpp>
#include <dunefield/run/hashes.hpp>
#include <dunefield/run/saved_state.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char state_ending[] = ".state";

/// Goes through the runs one after the other. Members that only the root has are marked.
class CampaignRun {
 public:
  CampaignRun(const CampaignSetup& setup, const fs::path& folder, const Ranks& ranks,
              CampaignWatcher& watcher, const Progress& progress)
      : setup_(setup),
        folder_(folder),
        ranks_(ranks),
        watcher_(watcher),
        progress_(progress),
        root_(ranks.is_root()),
        earlier_(setup.campaign.start_run) {}

  CampaignResult all(const std::vector<MatrixRun>& matrix) {
    if (root_) check_writable(folder_);
    total_ = static_cast<int>(matrix.size());
    for (const MatrixRun& which : matrix) {
      one(which);
      if (result_.stopped) break;
    }
    return std::move(result_);
  }

 private:
  void one(const MatrixRun& which) {
    RunSetup setup;
    try {
      setup = setup_.run(which);
    } catch (const InputError& e) {  // of this setting only: the others go on
      ++number_, ++result_.failures;
      if (root_) watcher_.failed(e.what());
      return;
    }
    const fs::path target = folder_ / run_name(setup_, which);
    std::optional<FileLock> lock;
    if (root_) lock.emplace(beside(target, ".lock"));
    const bool elsewhere = ranks_.agreed(lock && !lock->held());
    const ToDo to_do = root_ ? left_to_do(target, setup) : ToDo::all;
    const bool skip = ranks_.agreed(to_do == ToDo::nothing || to_do == ToDo::readings);
    if (root_)
      watcher_.begins({++number_, total_, setup.vehicle.name, which.speed, in_words(setup.settings),
                       which.lattice, to_do == ToDo::nothing, to_do == ToDo::readings, elsewhere});
    if (elsewhere) {
      ++result_.elsewhere;
      return;
    }
    if (skip) {
      if (root_ && to_do == ToDo::readings)
        for (const std::string& trouble : store_readings(target, setup)) watcher_.warned(trouble);
      if (root_) result_.runs.push_back(read_figures(target));
      earlier_ = target;
      return;
    }
    if (root_) make_mesh(setup, target);
    if (ranks_.agreed(unmeshable_)) {
      ++result_.failures;
      return;
    }
    compute(setup, target);
  }

  /// The mesh of the variant, which lasts for all its speeds and what does not change it.
  void make_mesh(const RunSetup& setup, const fs::path& target) {
    const std::string hash = hashes_of(setup).mesh;
    if (mesh_hash_ == hash) return;  // made, or known not to be
    mesh_hash_ = hash, mesh_.reset(), unmeshable_ = false;
    mesh_ = stored_mesh(target, hash);
    if (mesh_) return;
    try {
      mesh_ = std::make_shared<const MeshResult>(build_mesh(setup, progress_));
      watcher_.meshed(*mesh_);
    } catch (const Cancelled&) {
      throw;
    } catch (const Error& e) {  // of this variant only: the others go on
      unmeshable_ = true;
      watcher_.failed(e.what());
    }
  }

  /// That of an earlier result with the same mesh.
  static std::shared_ptr<const MeshResult> stored_mesh(const fs::path& target,
                                                       const std::string& hash) {
    std::error_code status;
    if (!fs::exists(target / record_file::numbers, status)) return nullptr;
    try {
      if (read_figures(target).run.hashes.mesh != hash) return nullptr;
      const Record record = Record::open(target);
      MeshResult mesh;
      mesh.mesh = *record.mesh, mesh.quality = record.quality, mesh.tunnel = record.tunnel;
      return std::make_shared<const MeshResult>(std::move(mesh));
    } catch (const InputError&) {
      return nullptr;  // it is made again
    }
  }

  RunOptions options_for(const RunSetup& setup, const fs::path& target) const {
    RunOptions o;
    o.threads = ranks_.threads, o.processes = ranks_.processes;
    o.state = beside(target, state_ending), o.earlier_state = target / record_file::state;
    o.save_every = setup_.campaign.save_every;
    o.start_from_state = setup_.campaign.start_earlier;
    o.progress = progress_;
    o.start = [this, &setup](Findings& findings) -> std::optional<Fields> {
      if (earlier_.empty() || !setup_.campaign.start_earlier) return std::nullopt;
      return start_from_record(earlier_, mesh_->mesh, setup.tunnel.half, setup.conditions.speed,
                               findings, progress_);
    };
    return o;
  }

  void compute(const RunSetup& setup, const fs::path& target) {
    Record record;
    Running running(target, setup, watcher_, root_);
    try {
      record = run(setup, mesh_, options_for(setup, target), running);
    } catch (const FlowError& e) {
      ++result_.failures;
      if (root_) watcher_.failed(e.what());
      return;
    }
    result_.stopped = ranks_.agreed(record.status == RunStatus::stopped);
    if (root_) {
      for (const std::string& trouble : store_run(target, record, setup.readings))
        watcher_.warned(trouble);
      if (!result_.stopped) keep_state(target), running.reels().put_in_place();
      result_.runs.push_back(record.figures());
      watcher_.ended(result_.runs.back(), record.findings, target);
    }
    if (!result_.stopped) earlier_ = target;
  }

  /// The saved state of a run that is done goes into its folder.
  static void keep_state(const fs::path& target) {
    std::error_code gone;
    fs::rename(beside(target, state_ending), target / record_file::state, gone);
    fs::remove(state_before(beside(target, state_ending)), gone);
  }

  const CampaignSetup& setup_;
  const fs::path& folder_;
  const Ranks& ranks_;
  CampaignWatcher& watcher_;
  const Progress& progress_;
  const bool root_;
  fs::path earlier_;
  int number_ = 0, total_ = 0;
  std::shared_ptr<const MeshResult> mesh_;  ///< root
  std::string mesh_hash_;                   ///< root
  bool unmeshable_ = false;                 ///< root
  CampaignResult result_;
};

}  // namespace

CampaignResult run_campaign(const CampaignSetup& setup, const fs::path& folder, const Ranks& ranks,
                            CampaignWatcher& watcher, const Progress& progress,
                            const std::vector<MatrixRun>& matrix) {
  return CampaignRun(setup, folder, ranks, watcher, progress)
      .all(matrix.empty() ? setup.matrix() : matrix);
}

}  // namespace dunefield
