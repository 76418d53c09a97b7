#include <dunefield/report/try_runner.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>
#include <dunefield/record/mapping.hpp>
#include <dunefield/report/kept_tries.hpp>
#include <dunefield/run/hashes.hpp>

namespace dunefield {

namespace fs = std::filesystem;

TryRunner::TryRunner(fs::path file, const WatchOptions& options, WatchDesk& desk, WatchBoard& board,
                     Explorer& explorer, std::function<void()> asked)
    : file_(std::move(file)),
      options_(options),
      desk_(desk),
      board_(board),
      explorer_(explorer),
      asked_(std::move(asked)) {}

void TryRunner::attempt(const Progress& progress) {
  progress_ = progress;
  try {
    read();
    board_.error("");
  } catch (const InputError& e) {
    board_.error(e.what());
    const bool unfinished = present_ && !present_->record;
    if (!setup_ || !unfinished) return board_.phase("waiting", "the last good one is shown");
  }
  mesh();
  run_present();
  if (!progress_.stop() && options_.finer && !options_.recipe.empty()) run_finer();
}

void TryRunner::read() {
  const Wanted wanted = desk_.wanted();
  const Replacements replaced = desk_.replacements();
  const Campaign as_written = read_campaign(file_);
  desk_.campaign(as_written);
  Campaign c = read_campaign(file_, wanted.settings);
  auto fresh = std::make_shared<Try>();
  fresh->of_vehicle = {c.surfaces.begin(), c.surfaces.end()};
  std::vector<fs::path> files;
  for (fs::path* f : surface_files(c)) {
    files.push_back(*f);
    const auto other = replaced.find(*f);
    const fs::path source = other == replaced.end() ? *f : other->second;
    fresh->content[*f] = hash_of_file(source), fresh->read_from[*f] = source;
    *f = source;
  }
  desk_.watch(files);
  if (!options_.recipe.empty()) {
    c.recipe.name = options_.recipe;
    c.recipe.surface_size.reset(), c.recipe.target_cells.reset(), c.recipe.adapt = false;
  }
  c.settings = std::vector<Settings>(1);
  RunSetup setup = prepare(c).run({variant_number(c, wanted.variant), wanted.speed});
  setup.settings = wanted.settings;
  // What is compared has one tunnel and one octree, whatever the shape has become.
  if (setup_ && setup_->tunnel.half == setup.tunnel.half) setup.frame = setup_->frame;
  fresh->number = ++tries_made_, fresh->wanted = wanted;
  setup_ = std::move(setup), present_ = std::move(fresh);
}

void TryRunner::mesh() {
  const std::string hash = hashes_of(*setup_).mesh;
  if (mesh_ && mesh_hash_ == hash) return;
  board_.phase("meshing", "");
  mesh_ = std::make_shared<const MeshResult>(build_mesh(*setup_, progress_));
  mesh_hash_ = hash;
  board_.mark("meshed");
}

void TryRunner::run_present() {
  board_.begins(setup_->recipe.name, mesh_->mesh.cells);
  board_.phase("running", "");
  RunOptions o;
  o.threads = options_.threads, o.progress = progress_;
  o.start = [this](Findings&) -> std::optional<Fields> {
    if (!last_ || last_->run.half != setup_->tunnel.half) return std::nullopt;
    Fields fields = mapped(*last_->mesh, last_->fields, mesh_->mesh);
    scale_speed(fields, setup_->conditions.speed / last_->run.speed);
    return fields;
  };
  began_ = Clock::now(), looked_ = {}, answered_before_ = explorer_.seconds_answering();
  const auto record = std::make_shared<const Record>(run(*setup_, mesh_, o, *this));
  last_ = record;
  if (record->status == RunStatus::stopped) throw Cancelled();
  present_->record = record;
  ended_with(record->figures());
  board_.mark("settled");
  show(record);
}

void TryRunner::ended_with(const Figures& f) {
  present_->figures[f.run.recipe] = f;
  if (std::find(tries_.begin(), tries_.end(), present_) == tries_.end()) tries_.push_back(present_);
  if (!kept_) keep();
  board_.present(f);
  board_.tries(tries_, present_, kept_);
  board_.phase(f.settled() ? "settled" : "not settled", f.settled() ? "" : f.why);
}

void TryRunner::show(std::shared_ptr<const Record> present) {
  std::vector<ExploredRun> runs = {{std::move(present), {}, "present"}};
  if (kept_ && kept_ != present_ && kept_->record) runs.push_back({kept_->record, {}, "kept"});
  explorer_.show(std::move(runs));
  board_.view();
  board_.mark("picture");
}

void TryRunner::run_finer() {
  if (!desk_.replacements().empty()) return;  // a shape that the files do not have any more
  CampaignSetup own = prepare(read_campaign(file_));
  if (own.campaign.recipe.name == setup_->recipe.name) return;
  MatrixRun which{variant_number(own.campaign, present_->wanted.variant), present_->wanted.speed};
  if (!present_->wanted.settings.empty()) {
    own.campaign.settings.push_back(present_->wanted.settings);
    which.setting = own.campaign.settings.size() - 1;
  }
  own.campaign.start_run = watch_folder() / "start";
  std::error_code gone;
  fs::remove_all(own.campaign.start_run, gone);
  present_->record->save(own.campaign.start_run);
  board_.begins(own.campaign.recipe.name, 0);
  board_.phase("running", "");
  const CampaignResult result =
      run_campaign(own, options_.runs, {options_.threads, nullptr}, *this, progress_, {which});
  if (!result.stopped && !result.runs.empty()) ended_with(result.runs.front());
  if (result.elsewhere > 0) board_.phase("waiting", "another process is computing the finer run");
}

void TryRunner::keep() {
  if (!present_ || !present_->record) return;
  try {
    if (present_->copies.empty()) keep_copies(*present_, watch_folder());
  } catch (const Error& e) {
    return board_.error(e.what());
  }
  present_->kept = true;
  kept_ = present_;
  board_.tries(tries_, present_, kept_);
  board_.kept_text(kept_as_variants(tries_));
}

void TryRunner::meshed(const MeshResult& m) { board_.cells(m.mesh.cells); }
void TryRunner::iterated(const HistoryRow& row, double seconds_left) {
  board_.iterated(row, seconds_left);
  progress_.report("running", row.iteration);
  asked_();
}
/// Only if somebody sees it, and while what pages ask for takes less than a quarter of the time.
bool TryRunner::wants_look() {
  const auto since = [](Clock::time_point t) {
    return std::chrono::duration<double>(Clock::now() - t).count();
  };
  return board_.is_read() && !progress_.stop() && since(looked_) > options_.look_every &&
         explorer_.seconds_answering() - answered_before_ < 0.25 * since(began_);
}
void TryRunner::look(const Record& record) {
  show(std::make_shared<const Record>(record));  // the run's own goes on
  board_.present(record.figures());
  looked_ = Clock::now();
}
void TryRunner::failed(const std::string& why) { board_.error(why); }

}  // namespace dunefield
