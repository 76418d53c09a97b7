#include <dunefield/report/watch.hpp>

#include <atomic>
#include <thread>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/report/try_runner.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

constexpr auto between_looks_at_files = std::chrono::milliseconds(250);
constexpr auto between_looks_at_runs = std::chrono::seconds(3);
constexpr auto idle = std::chrono::milliseconds(50);

}  // namespace

struct Watch::State {
  State(const fs::path& file, const WatchOptions& given)
      : options(given),
        explorer(read_campaign(file).name, {}),
        desk(board),
        runner(file, options, desk, board, explorer, [this] { do_asked(); }) {
    const CampaignSetup setup = prepare(read_campaign(file));
    const Campaign& c = setup.campaign;
    if (options.runs.empty()) options.runs = default_folder(c);
    const std::string variant = options.variant.empty() ? c.baseline : options.variant;
    variant_number(c, variant);
    desk.campaign(c);
    desk.begin(variant, c.speeds[c.speeds.size() / 2]);
    desk.watch({file});
  }

  void work(const Progress& outer) {
    const std::jthread poller([this](const std::stop_token& stop) { poll(stop); });
    const Progress progress{[&](const std::string& stage, double share) {
                              if (stage != "running") board.phase("meshing", stage);
                              outer.report(stage, share);
                            },
                            [&] { return stale || outer.stop(); }};
    while (!outer.stop()) {
      do_asked();
      if (!due.exchange(false)) {
        std::this_thread::sleep_for(idle);
        continue;
      }
      stale = false;
      try {
        runner.attempt(progress);
      } catch (const Cancelled&) {  // something newer is wanted, or all is over
      } catch (const OutputError&) {
        throw;
      } catch (const Error& e) {
        board.error(e.what());
        board.phase("waiting", "for a change");
      }
    }
  }

  /// Looks at the files, and at the runs of all processes.
  void poll(const std::stop_token& stop) {
    Clock::time_point runs_seen{};
    while (!stop.stop_requested()) {
      const auto changed = desk.changed_files();
      if (!changed.empty()) {
        board.changed();
        board.phase("reading", changed.front().filename().string() + " has changed");
        renew();
      }
      if (Clock::now() - runs_seen > between_looks_at_runs) tell_runs(), runs_seen = Clock::now();
      std::this_thread::sleep_for(between_looks_at_files);
    }
  }

  void tell_runs() {
    std::error_code status;
    if (!fs::is_directory(options.runs, status)) return;
    try {
      Findings findings;
      const auto all = stored_runs(options.runs, {}, findings);
      std::vector<std::string> going_on;
      for (const fs::path& p : running_below(options.runs))
        going_on.push_back(p.filename().string());
      board.runs(all, going_on);
    } catch (const Error&) {  // next time
    }
  }

  void renew() { stale = true, due = true; }

  /// On the thread that runs, between two iterations.
  void do_asked() {
    if (keep_asked.exchange(false)) runner.keep();
    if (discard_asked.exchange(false) && runner.kept()) {
      desk.go_back(*runner.kept());
      board.changed();
      renew();
    }
  }

  void ask(const std::string& json) {
    const Json asked = parsed_json(json, "request");
    if (asked.is_object() && asked.contains("keep")) {
      keep_asked = true;
    } else if (asked.is_object() && asked.contains("discard")) {
      discard_asked = true;
    } else if (asked.is_object() && asked.contains("want")) {
      if (desk.want(asked["want"].dump())) board.changed(), renew();
    } else {
      throw InputError("asks for nothing that is known", "the page", "reload it");
    }
  }

  WatchOptions options;
  WatchBoard board;
  Explorer explorer;
  WatchDesk desk;
  TryRunner runner;
  std::atomic<bool> stale = false, due = true, keep_asked = false, discard_asked = false;
};

Watch::Watch(const fs::path& file, const WatchOptions& options)
    : state_(std::make_unique<State>(file, options)) {}
Watch::~Watch() = default;
void Watch::work(const Progress& progress) { state_->work(progress); }
std::string Watch::state(long after) const { return state_->board.state(after); }
const Explorer& Watch::explorer() const { return state_->explorer; }
void Watch::ask(const std::string& json) { state_->ask(json); }

}  // namespace dunefield
