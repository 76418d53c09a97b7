#include <dunefield/campaign/campaign_runner.hpp>

#include <algorithm>
#include <chrono>
#include <memory>
#include <optional>
#include <thread>
#include <utility>

#include <dunefield/base/error.hpp>
#include <dunefield/base/file_lock.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/campaign/adapted_sizes.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/campaign/running.hpp>
#include <dunefield/campaign/starts.hpp>
#include <dunefield/run/hashes.hpp>
#include <dunefield/run/saved_state.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char state_ending[] = ".state";
constexpr auto ask_again = std::chrono::milliseconds(500);

/// Goes through the runs one after the other. Members that only the root has are marked.
class CampaignRun {
 public:
  CampaignRun(const CampaignSetup& setup, const fs::path& folder, const Ranks& ranks,
              CampaignWatcher& watcher, const Progress& progress,
              const std::vector<MatrixRun>& matrix)
      : setup_(setup),
        folder_(folder),
        ranks_(ranks),
        watcher_(watcher),
        progress_(progress),
        matrix_(matrix),
        root_(ranks.is_root()),
        sizes_(folder),
        starts_(setup.campaign.start_earlier ? starts(matrix)
                                             : std::vector<int>(matrix.size(), from_nothing)),
        baselines_(setup.campaign.limits.difference_accuracy > 0
                       ? baseline_runs(matrix, setup.number_of(setup.campaign.baseline))
                       : std::vector<int>(matrix.size(), from_nothing)),
        state_(matrix.size(), State::open),
        figures_(matrix.size()) {}

  CampaignResult all() {
    if (root_) check_writable(folder_);
    do {
      for (std::size_t i = 0; i < matrix_.size() && !result_.stopped; ++i)
        if (state_[i] == State::open || state_[i] == State::waits) state_[i] = one(i);
      if (!result_.stopped) wait();
    } while (!result_.stopped && reopened());
    for (std::optional<Figures>& f : figures_)
      if (f) result_.runs.push_back(std::move(*f));
    result_.elsewhere =
        static_cast<int>(std::count(state_.begin(), state_.end(), State::elsewhere));
    return std::move(result_);
  }

 private:
  enum class State {
    open,
    waits,      ///< another process has in hand what it starts from, or is compared with
    elsewhere,  ///< another process has it in hand
    done,
    failed,
    left_out  ///< not wanted, and not done
  };

  /// Where runs wait for others in other hands: until one of those is free again, or the user has
  /// enough.
  void wait() {
    std::vector<std::size_t> awaited;
    for (std::size_t i = 0; i < matrix_.size(); ++i)
      if (state_[i] == State::waits) awaited.push_back(at(in_hand_before(static_cast<int>(i))));
    if (awaited.empty()) return;
    if (root_) watcher_.waits(run_name(setup_, matrix_[awaited.front()]));
    const auto is_free = [this](std::size_t i) { return free_again(i); };
    while (!(result_.stopped = ranks_.agreed(progress_.stop())) &&
           ranks_.agreed(root_ && std::none_of(awaited.begin(), awaited.end(), is_free)))
      if (root_) std::this_thread::sleep_for(ask_again);
  }

  /// Of what was in other hands that which is not any more: done meanwhile, or left behind by a
  /// process that was killed. True if there is any.
  bool reopened() {
    bool any = false;
    for (std::size_t i = 0; i < matrix_.size(); ++i)
      if (state_[i] == State::elsewhere && ranks_.agreed(root_ && free_again(i)))
        state_[i] = State::open, any = true;
    return any;
  }

  bool free_again(std::size_t i) const { return FileLock(beside(target(i), ".lock")).held(); }

  fs::path target(std::size_t i) const { return folder_ / run_name(setup_, matrix_[i]); }

  /// The run that number `i` starts from, or one before it, or the baseline's that says how surely
  /// it must be known, while another process has it in hand; else `from_nothing`.
  int in_hand_before(int i) const {
    for (int s = starts_[at(i)]; s >= 0; s = starts_[at(s)]) {
      if (state_[at(s)] == State::elsewhere) return s;
      if (state_[at(s)] == State::done) break;
    }
    const int b = baselines_[at(i)];
    if (b < 0 || state_[at(b)] == State::done || state_[at(b)] == State::failed)
      return from_nothing;
    return state_[at(b)] == State::elsewhere ? b : in_hand_before(b);
  }

  /// CD of the baseline at the same conditions, where it is known.
  std::optional<double> baseline_drag(std::size_t i) const {
    const int b = baselines_[i];
    if (b < 0 || !figures_[at(b)] || !figures_[at(b)]->settled()) return std::nullopt;
    return figures_[at(b)]->cd.mean;
  }

  /// The result that number `i` starts from: of its start, or where that failed of what that would
  /// have started from.
  fs::path start_of(std::size_t i) const {
    for (int s = starts_[i]; s >= 0; s = starts_[at(s)])
      if (state_[at(s)] == State::done) return target(at(s));
    return setup_.campaign.start_run;
  }

  State one(std::size_t i) {
    const MatrixRun& which = matrix_[i];
    RunSetup setup;
    try {
      setup = setup_.run(which);
    } catch (const InputError& e) {  // of this setting only: the others go on
      return which.wanted ? failed(e) : State::left_out;
    }
    if (!which.wanted) return what_there_is(i, setup);
    const fs::path folder = target(i);
    std::optional<FileLock> lock;
    if (root_) lock.emplace(beside(folder, ".lock"));
    const bool elsewhere = ranks_.agreed(lock && !lock->held());
    const ToDo to_do = root_ ? left_to_do(folder, setup) : ToDo::all;
    const bool skip = ranks_.agreed(to_do == ToDo::nothing || to_do == ToDo::readings);
    if (!elsewhere && !skip && in_hand_before(static_cast<int>(i)) >= 0) return State::waits;
    if (root_)
      watcher_.begins({wanted_before(i) + 1, wanted_before(matrix_.size()), setup.vehicle.name,
                       which.speed, in_words(setup.settings), which.lattice, to_do == ToDo::nothing,
                       to_do == ToDo::readings, elsewhere, lock ? lock->holder() : ""});
    if (elsewhere) return State::elsewhere;
    if (skip) {
      if (root_ && to_do == ToDo::readings)
        for (const std::string& trouble : store_readings(folder, setup)) watcher_.warned(trouble);
      if (root_) figures_[i] = read_figures(folder);
      return State::done;
    }
    setup.limits.baseline_drag = baseline_drag(i);
    if (root_) make_mesh(setup, folder);
    if (ranks_.agreed(unmeshable_)) {
      ++result_.failures;
      return State::failed;
    }
    return compute(i, setup);
  }

  /// Of a run that is not wanted: others start from it and are compared with it if it is done.
  State what_there_is(std::size_t i, const RunSetup& setup) {
    const ToDo to_do = root_ ? left_to_do(target(i), setup) : ToDo::all;
    if (!ranks_.agreed(to_do == ToDo::nothing || to_do == ToDo::readings)) return State::left_out;
    if (root_) figures_[i] = read_figures(target(i));
    return State::done;
  }

  int wanted_before(std::size_t i) const {
    return static_cast<int>(std::count_if(matrix_.begin(),
                                          matrix_.begin() + static_cast<std::ptrdiff_t>(i),
                                          [](const MatrixRun& r) { return r.wanted; }));
  }

  State failed(const Error& e) {
    ++result_.failures;
    if (root_) watcher_.failed(e.what());
    return State::failed;
  }

  /// The mesh of the variant, which lasts for all its speeds and what does not change it.
  void make_mesh(const RunSetup& setup, const fs::path& folder) {
    const std::string hash = hashes_of(setup).mesh;
    if (mesh_hash_ == hash) return;  // made, or known not to be
    const std::string before_hash = std::exchange(mesh_hash_, hash);
    std::shared_ptr<const MeshResult> before = std::exchange(mesh_, nullptr);
    if (!setup.morph_of) before.reset();  // its memory is wanted
    unmeshable_ = false;
    mesh_ = stored_mesh(folder, hash);
    if (mesh_) return;
    try {
      mesh_ = std::make_shared<const MeshResult>(made_mesh(setup, before.get(), before_hash));
      watcher_.meshed(*mesh_);
    } catch (const Cancelled&) {
      throw;
    } catch (const Error& e) {  // of this variant only: the others go on
      unmeshable_ = true;
      watcher_.failed(e.what());
    }
  }

  /// Where a mesh follows the baseline's, that is the one before, or a stored one if it is there.
  MeshResult made_mesh(RunSetup setup, const MeshResult* before, const std::string& before_hash) {
    if (setup.adaptation)
      setup.field = sizes_.of(setup, ranks_.processes ? 1 : ranks_.threads, progress_);
    if (!setup.morph_of) return build_mesh(setup, progress_);
    const std::string hash = hashes_of(followed_by(setup)).mesh;
    if (before && before_hash == hash) return mesh_following(setup, *before, progress_);
    for (std::size_t i = 0; i < matrix_.size(); ++i)
      if (matrix_[i].variant == 0 && matrix_[i].lattice == setup.recipe.lattice)
        if (const auto stored = stored_mesh(target(i), hash))
          return mesh_following(setup, *stored, progress_);
    return build_mesh(setup, progress_);
  }

  /// That of an earlier result with the same mesh.
  static std::shared_ptr<const MeshResult> stored_mesh(const fs::path& folder,
                                                       const std::string& hash) {
    std::error_code status;
    if (!fs::exists(folder / record_file::numbers, status)) return nullptr;
    try {
      if (read_figures(folder).run.hashes.mesh != hash) return nullptr;
      const Record record = Record::open(folder);
      MeshResult mesh;
      mesh.mesh = *record.mesh, mesh.quality = record.quality, mesh.tunnel = record.tunnel;
      mesh.findings = record.mesh_findings, mesh.follows = record.run.follows;
      return std::make_shared<const MeshResult>(std::move(mesh));
    } catch (const InputError&) {
      return nullptr;  // it is made again
    }
  }

  RunOptions options_for(std::size_t i, const RunSetup& setup) const {
    RunOptions o;
    o.threads = ranks_.threads, o.processes = ranks_.processes;
    o.state = beside(target(i), state_ending), o.earlier_state = target(i) / record_file::state;
    o.save_every = setup_.campaign.save_every;
    o.start_from_state = setup_.campaign.start_earlier;
    o.progress = progress_;
    o.start = [this, i, &setup](Findings& findings) -> std::optional<Fields> {
      fs::path from = start_of(i);
      // Not with start = "stream".
      if (from.empty() && setup.adaptation && setup_.campaign.start_earlier)
        from = sketch_folder(folder_);
      if (from.empty()) return std::nullopt;
      return start_from_record(from, mesh_->mesh, setup.tunnel.half, setup.conditions.speed,
                               findings, progress_);
    };
    return o;
  }

  State compute(std::size_t i, const RunSetup& setup) {
    const fs::path folder = target(i);
    Record record;
    Running running(folder, setup, watcher_, root_);
    try {
      record = run(setup, mesh_, options_for(i, setup), running);
    } catch (const FlowError& e) {
      return failed(e);
    }
    result_.stopped = ranks_.agreed(record.status == RunStatus::stopped);
    if (root_) {
      for (const std::string& trouble : store_run(folder, record, setup.readings))
        watcher_.warned(trouble);
      if (!result_.stopped) keep_state(folder), running.reels().put_in_place();
      figures_[i] = record.figures();
      watcher_.ended(*figures_[i], record.findings, folder);
    }
    return State::done;
  }

  /// The saved state of a run that is done goes into its folder.
  static void keep_state(const fs::path& folder) {
    std::error_code gone;
    gone = put_in_place(beside(folder, state_ending), folder / record_file::state);
    fs::remove(state_before(beside(folder, state_ending)), gone);
  }

  const CampaignSetup& setup_;
  const fs::path& folder_;
  const Ranks& ranks_;
  CampaignWatcher& watcher_;
  const Progress& progress_;
  const std::vector<MatrixRun>& matrix_;
  const bool root_;
  AdaptedSizes sizes_;  ///< root
  std::vector<int> starts_, baselines_;
  std::vector<State> state_;
  std::vector<std::optional<Figures>> figures_;  ///< root
  std::shared_ptr<const MeshResult> mesh_;       ///< root
  std::string mesh_hash_;                        ///< root
  bool unmeshable_ = false;                      ///< root
  CampaignResult result_;
};

}  // namespace

CampaignResult run_campaign(const CampaignSetup& setup, const fs::path& folder, const Ranks& ranks,
                            CampaignWatcher& watcher, const Progress& progress,
                            const std::vector<MatrixRun>& some) {
  const std::vector<MatrixRun> matrix = some.empty() ? setup.matrix() : some;
  return CampaignRun(setup, folder, ranks, watcher, progress, matrix).all();
}

}  // namespace dunefield
