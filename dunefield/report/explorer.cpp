#include <dunefield/report/explorer.hpp>

#include <algorithm>
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

struct Explorer::State {
  std::vector<fs::path> folders;
  std::vector<std::unique_ptr<Record>> records;
  std::vector<std::shared_ptr<const FlowView>> views;
  mutable std::mutex guard;
  mutable std::map<std::pair<std::size_t, std::size_t>, std::shared_ptr<const FlowView>> changes;

  std::size_t number(const Json& j, const char* name) const {
    const auto n = member<std::size_t>(j, name);
    if (n >= records.size())
      throw InputError(fmt::format("there is no run {}", n), std::string("request.") + name,
                       "ask as the page does");
    return n;
  }
  /// The change of a run from another one; each is made once.
  std::shared_ptr<const FlowView> change(std::size_t run, std::size_t from) const {
    const std::lock_guard lock(guard);
    auto& view = changes[{run, from}];
    if (!view) view = std::make_shared<FlowView>(*records[run], records[from].get());
    return view;
  }
  PackedRun packed_run(std::size_t run) const {
    const Record& r = *records[run];
    const std::string condition = conditions_in_words(r.run.speed, r.run.settings);
    return {r.run.variant + " at " + condition, r.run.variant, condition, r.run.half};
  }
};

Explorer::Explorer(const std::vector<fs::path>& folders, const Progress& progress)
    : state_(std::make_unique<State>()) {
  if (folders.empty() || folders.size() > most_runs)
    throw InputError(fmt::format("{} runs are given", folders.size()), "explore",
                     fmt::format("name one to {} folders of runs", most_runs));
  state_->folders = folders;
  for (const fs::path& f : folders) {
    progress("opening " + f.filename().string(),
             static_cast<double>(state_->records.size()) / static_cast<double>(folders.size()));
    auto record = std::make_unique<Record>(
        state_->records.empty() ? Record::open(f, progress)
                                : open_beside(*state_->records.front(), f, progress));
    state_->views.push_back(std::make_shared<FlowView>(*record));
    state_->records.push_back(std::move(record));
  }
}

Explorer::~Explorer() = default;

std::string Explorer::title() const {
  const RunIdentity& r = state_->records.front()->run;
  return r.campaign.empty() ? r.variant : r.campaign;
}

std::string Explorer::runs() const {
  Json runs = Json::array();
  for (std::size_t i = 0; i < state_->records.size(); ++i) {
    const Record& r = *state_->records[i];
    Json list = Json::array();
    for (const Quantity& q : quantities(r))
      list.push_back({{"name", q.name},
                      {"unit", q.unit},
                      {"vector", q.vector},
                      {"in_air", q.in_air},
                      {"on_wall", q.on_wall}});
    const PackedRun named = state_->packed_run(i);
    runs.push_back({{"name", named.name},
                    {"variant", named.variant},
                    {"condition", named.condition},
                    {"folder", state_->folders[i].string()},
                    {"summary", r.brief()},
                    {"quantities", list},
                    {"vehicle", to_json(r.vehicle)},
                    {"tunnel", to_json(r.tunnel)}});
  }
  return dumped({{"title", title()}, {"runs", runs}});
}

std::string Explorer::vehicles() const {
  ScenePack all;
  pack_side_by_side(
      state_->views.size(),
      [&](std::size_t i) {
        ScenePack pack;
        pack.begin(state_->packed_run(i));
        pack.add(Picture(state_->views[i]).surface("Cp").scene(), "vehicle");
        return pack;
      },
      [&](std::size_t, ScenePack pack) { all.append(std::move(pack)); });
  return all.bytes();
}

std::string Explorer::look(const std::string& text) const {
  const Json j = parsed(text);
  const std::size_t run = state_->number(j, "run");
  const auto kind = member<std::string>(j, "kind");
  const PictureRequest request = request_of(kind, member<std::string>(j, "words"));
  const auto view = j.contains("against") ? state_->change(run, state_->number(j, "against"))
                                          : state_->views[run];
  Picture picture = picture_of(view, request);
  if (kind != "surface") picture.without_vehicle();
  ScenePack pack;
  PackedRun packed = state_->packed_run(run);
  packed.half = packed.half && is_alike_on_both_sides(kind, request);
  pack.begin(packed);
  pack.add(picture.scene(), kind == "surface" ? "vehicle" : kind);
  return pack.bytes(kind == "surface");
}

std::string Explorer::chart(const std::string& text) const {
  const Json j = parsed(text);
  Views views;
  for (const Json& run : member<Json>(j, "runs"))
    views.push_back(state_->views[state_->number({{"run", run}}, "run")]);
  if (views.empty()) throw InputError("names no run", "request.runs", "ask as the page does");
  return dumped(chart_json(chart_of(views, member<std::string>(j, "words"))));
}

}  // namespace dunefield
