#include <dunefield/report/explorer.hpp>

#include <atomic>
#include <chrono>
#include <map>
#include <mutex>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/comparison.hpp>
#include <dunefield/look/charts.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/record/shared_mesh.hpp>
#include <dunefield/report/view_data.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

Json parsed(const std::string& text) {
  Json j = parsed_json(text, "request");
  if (!j.is_object()) throw InputError("is no JSON object", "request", "ask as the page does");
  return j;
}

template <class T>
T member(const Json& j, const char* name) {
  try {
    return j.at(name).get<T>();
  } catch (const Json::exception&) {
    throw InputError("is missing, or of the wrong kind", std::string("request.") + name,
                     "ask as the page does");
  }
}

/// The request that a look of this kind is alone.
PictureRequest request_of(const std::string& kind, const std::string& words) {
  PictureRequest r;
  const std::map<std::string, std::vector<std::string>*> kinds = {{"surface", &r.surface},
                                                                  {"slice", &r.slice},
                                                                  {"smoke", &r.smoke},
                                                                  {"volume", &r.volume},
                                                                  {"cores", &r.cores}};
  const auto found = kinds.find(kind);
  if (found == kinds.end())
    throw InputError("'" + kind + "' is nothing that can be looked at", "request.kind",
                     "use surface, slice, smoke, volume or cores");
  found->second->push_back(words);
  check_request(r);
  return r;
}

/// A page mirrors what is; smoke from one side, and planes along the car, stand where they are.
bool is_alike_on_both_sides(const std::string& kind, const PictureRequest& request) {
  if (kind == "smoke") return false;
  return kind != "slice" || slice_look(request.slice.front(), nullptr).plane.normal.y == 0;
}

Json chart_json(const Chart& chart) {
  Json panels = Json::array();
  for (const ChartPanel& p : chart.panels) {
    Json lines = Json::array();
    for (const ChartLine& l : p.lines)
      lines.push_back({{"name", l.name}, {"x", l.x.empty() ? chart.x : l.x}, {"y", l.y}});
    panels.push_back({{"title", p.title},
                      {"lines", lines},
                      {"logarithmic", p.logarithmic},
                      {"downward", p.downward}});
  }
  return {{"title", chart.title},
          {"x_title", chart.x_title},
          {"footer", chart.footer},
          {"x_names", chart.x_names},
          {"panels", panels}};
}

}  // namespace

/// Runs that are shown together; they do not change.
class ShownRuns {
 public:
  /// @param before what its views know of records that stay is kept
  ShownRuns(std::vector<ExploredRun> runs, const ShownRuns* before) : runs_(std::move(runs)) {
    for (const ExploredRun& r : runs_) {
      auto view = before ? before->view_of(r.record) : nullptr;
      views_.push_back(view ? view : std::make_shared<const FlowView>(*r.record));
    }
  }
  std::size_t count() const { return runs_.size(); }
  const ExploredRun& run(std::size_t i) const { return runs_[i]; }
  const std::shared_ptr<const FlowView>& view(std::size_t i) const { return views_[i]; }

  std::size_t number(const Json& j, const char* name) const {
    const auto n = member<std::size_t>(j, name);
    if (n >= count())
      throw InputError(fmt::format("there is no run {}", n), std::string("request.") + name,
                       "ask as the page does");
    return n;
  }
  /// The change of a run from another one; each is made once.
  std::shared_ptr<const FlowView> change(std::size_t run, std::size_t from) const {
    const std::lock_guard lock(guard_);
    auto& view = changes_[{run, from}];
    if (!view) view = std::make_shared<FlowView>(*runs_[run].record, runs_[from].record.get());
    return view;
  }
  PackedRun packed(std::size_t i) const {
    const Record& r = *runs_[i].record;
    const std::string condition = conditions_in_words(r.run.speed, r.run.settings);
    const std::string& name = runs_[i].name;
    return {(name.empty() ? "" : name + ": ") + r.run.variant + " at " + condition, r.run.variant,
            condition, r.run.half};
  }

 private:
  std::shared_ptr<const FlowView> view_of(const std::shared_ptr<const Record>& record) const {
    for (std::size_t i = 0; i < runs_.size(); ++i)
      if (runs_[i].record == record) return views_[i];
    return nullptr;
  }

  std::vector<ExploredRun> runs_;
  std::vector<std::shared_ptr<const FlowView>> views_;
  mutable std::mutex guard_;
  mutable std::map<std::pair<std::size_t, std::size_t>, std::shared_ptr<const FlowView>> changes_;
};

/// The time that an answer takes.
class Answering {
 public:
  explicit Answering(std::atomic<double>& seconds) : seconds_(seconds) {}
  ~Answering() {
    seconds_ += std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
  }
  Answering(const Answering&) = delete;
  Answering& operator=(const Answering&) = delete;

 private:
  std::atomic<double>& seconds_;
  const std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
};

struct Explorer::State {
  std::string title;
  mutable std::mutex guard;
  std::shared_ptr<const ShownRuns> shown;
  mutable std::atomic<double> seconds = 0;  ///< of all answers

  std::shared_ptr<const ShownRuns> now() const {
    const std::lock_guard lock(guard);
    return shown;
  }
};

Explorer::Explorer(const std::string& title, std::vector<ExploredRun> runs)
    : state_(std::make_unique<State>()) {
  state_->title = title;
  show(std::move(runs));
}

Explorer::Explorer(const std::vector<fs::path>& folders, const Progress& progress)
    : state_(std::make_unique<State>()) {
  if (folders.empty() || folders.size() > most_runs)
    throw InputError(fmt::format("{} runs are given", folders.size()), "explore",
                     fmt::format("name one to {} folders of runs", most_runs));
  std::vector<ExploredRun> runs;
  for (const fs::path& f : folders) {
    progress("opening " + f.filename().string(),
             static_cast<double>(runs.size()) / static_cast<double>(folders.size()));
    runs.push_back({std::make_shared<const Record>(
                        runs.empty() ? Record::open(f, progress)
                                     : open_beside(*runs.front().record, f, progress)),
                    f});
  }
  const RunIdentity& first = runs.front().record->run;
  state_->title = first.campaign.empty() ? first.variant : first.campaign;
  show(std::move(runs));
}

Explorer::~Explorer() = default;

void Explorer::show(std::vector<ExploredRun> runs) {
  const auto before = state_->now();
  auto shown = std::make_shared<const ShownRuns>(std::move(runs), before.get());
  const std::lock_guard lock(state_->guard);
  state_->shown = std::move(shown);
}

double Explorer::seconds_answering() const { return state_->seconds; }

std::string Explorer::title() const { return state_->title; }

std::string Explorer::runs() const {
  const auto shown = state_->now();
  Json runs = Json::array();
  for (std::size_t i = 0; i < shown->count(); ++i) {
    const Record& r = *shown->run(i).record;
    Json list = Json::array();
    for (const Quantity& q : quantities(r))
      list.push_back({{"name", q.name},
                      {"unit", q.unit},
                      {"vector", q.vector},
                      {"in_air", q.in_air},
                      {"on_wall", q.on_wall}});
    const PackedRun named = shown->packed(i);
    runs.push_back({{"name", named.name},
                    {"variant", named.variant},
                    {"condition", named.condition},
                    {"folder", shown->run(i).folder.string()},
                    {"summary", r.brief()},
                    {"quantities", list},
                    {"vehicle", to_json(r.vehicle)},
                    {"tunnel", to_json(r.tunnel)}});
  }
  return dumped({{"title", title()}, {"runs", runs}});
}

std::string Explorer::vehicles() const {
  const auto shown = state_->now();
  const Answering clock(state_->seconds);
  ScenePack all;
  pack_side_by_side(
      shown->count(),
      [&](std::size_t i) {
        ScenePack pack;
        pack.begin(shown->packed(i));
        pack.add(Picture(shown->view(i)).surface("Cp").scene(), "vehicle");
        return pack;
      },
      [&](std::size_t, ScenePack pack) { all.append(std::move(pack)); });
  return all.bytes();
}

std::string Explorer::look(const std::string& text) const {
  const Json j = parsed(text);
  const auto shown = state_->now();
  const Answering clock(state_->seconds);
  const std::size_t run = shown->number(j, "run");
  const auto kind = member<std::string>(j, "kind");
  const PictureRequest request = request_of(kind, member<std::string>(j, "words"));
  const auto view =
      j.contains("against") ? shown->change(run, shown->number(j, "against")) : shown->view(run);
  Picture picture = picture_of(view, request);
  if (kind != "surface") picture.without_vehicle();
  ScenePack pack;
  PackedRun packed = shown->packed(run);
  packed.half = packed.half && is_alike_on_both_sides(kind, request);
  pack.begin(packed);
  pack.add(picture.scene(), kind == "surface" ? "vehicle" : kind);
  return pack.bytes(kind == "surface");
}

std::string Explorer::chart(const std::string& text) const {
  const Json j = parsed(text);
  const auto shown = state_->now();
  const Answering clock(state_->seconds);
  Views views;
  for (const Json& run : member<Json>(j, "runs"))
    views.push_back(shown->view(shown->number({{"run", run}}, "run")));
  if (views.empty()) throw InputError("names no run", "request.runs", "ask as the page does");
  return dumped(chart_json(chart_of(views, member<std::string>(j, "words"))));
}

}  // namespace dunefield
