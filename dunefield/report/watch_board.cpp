#include <dunefield/report/watch_board.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <dunefield/base/valid_text.hpp>
#include <dunefield/campaign/comparison.hpp>

namespace dunefield {
namespace {

using Json = nlohmann::ordered_json;
constexpr std::size_t most_points = 600;  // of a history that is told

Json number(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }
Json mean(const WindowMean& w) {
  return {{"mean", number(w.mean)}, {"half_interval_95", number(w.half_interval)}};
}
Json difference(const std::optional<Difference>& d) {
  if (!d) return nullptr;
  return {{"value", number(d->value)}, {"uncertainty_95", number(d->uncertainty)}};
}

Json figures_json(const Figures& f) {
  return {{"CD", mean(f.cd)},         {"CLF", mean(f.clf)},        {"CLR", mean(f.clr)},
          {"drag_N", number(f.drag)}, {"status", words(f.status)}, {"recipe", f.run.recipe}};
}

Json settings(const Settings& all) {
  Json j = Json::object();
  for (const Setting& s : all) j[valid_text(s.key)] = valid_text(s.value);
  return j;
}
Json wanted_json(const Wanted& w) {
  return {
      {"variant", valid_text(w.variant)}, {"speed", w.speed}, {"settings", settings(w.settings)}};
}

/// What the present try changes from the kept one, where both were run with the same recipe.
Json change_between(const Figures& kept, const Figures& present) {
  Figures a = kept, b = present;
  a.run.variant = "kept", b.run.variant = "present";
  a.run.settings.clear(), b.run.settings.clear();
  for (const Comparison& c : compare({a, b}, "kept"))
    for (const ComparisonRow& row : c.rows)
      if (row.run.run.variant == "present" && row.cd)
        return {{"CD", difference(row.cd)},     {"CLF", difference(row.clf)},
                {"CLR", difference(row.clr)},   {"share_of_CD", number(row.cd->value / a.cd.mean)},
                {"recipe", present.run.recipe}, {"words", verdict_in_words(row, {})}};
  return nullptr;
}

/// Of the figures that are seen or, as long as the kept try has none like them, of earlier ones.
Json change_json(const Figures& seen, const Try& present, const Try& kept) {
  const auto like = [&](const std::string& recipe) {
    const auto found = kept.figures.find(recipe);
    return found == kept.figures.end() ? nullptr : &found->second;
  };
  if (const Figures* base = like(seen.run.recipe)) return change_between(*base, seen);
  for (const auto& [recipe, figures] : present.figures)
    if (const Figures* base = like(recipe)) return change_between(*base, figures);
  return nullptr;
}

}  // namespace

std::string Try::name() const {
  return fmt::format("{}: {} at {}", number, wanted.variant,
                     conditions_in_words(wanted.speed, wanted.settings));
}

void WatchBoard::campaign(const std::string& name, const std::vector<std::string>& variants,
                          const std::vector<double>& speeds, const std::vector<WatchedKey>& keys) {
  const std::lock_guard lock(guard_);
  name_ = name, variants_ = variants, speeds_ = speeds, keys_ = keys, touch();
}
void WatchBoard::wanted(const Wanted& w) {
  const std::lock_guard lock(guard_);
  wanted_ = w, touch();
}
void WatchBoard::phase(const std::string& phase, const std::string& message) {
  const std::lock_guard lock(guard_);
  phase_ = phase, message_ = message, touch();
}
void WatchBoard::error(const std::string& text) {
  const std::lock_guard lock(guard_);
  error_ = text, touch();
}
void WatchBoard::begins(const std::string& recipe, int cells) {
  const std::lock_guard lock(guard_);
  recipe_ = recipe, cells_ = cells, history_.clear(), touch();
}
void WatchBoard::cells(int count) {
  const std::lock_guard lock(guard_);
  cells_ = count, touch();
}
void WatchBoard::iterated(const HistoryRow& row, double seconds_left) {
  const std::lock_guard lock(guard_);
  history_.push_back(row), seconds_left_ = seconds_left;
  phase_ = "running", message_.clear(), touch();
}
void WatchBoard::tries(const std::vector<std::shared_ptr<Try>>& all, std::shared_ptr<Try> present,
                       std::shared_ptr<Try> kept) {
  const std::lock_guard lock(guard_);
  // Copies: the one who runs goes on to write its own.
  tries_.clear();
  const auto copy = [](const std::shared_ptr<Try>& t) {
    return t ? std::make_shared<Try>(*t) : nullptr;
  };
  for (const auto& t : all) tries_.push_back(copy(t));
  present_try_ = copy(present), kept_try_ = copy(kept);
  touch();
}
void WatchBoard::present(const Figures& f) {
  const std::lock_guard lock(guard_);
  present_ = std::make_unique<Figures>(f), touch();
}
void WatchBoard::runs(const std::vector<StoredRun>& all, const std::vector<std::string>& going_on) {
  const std::lock_guard lock(guard_);
  runs_ = all, going_on_ = going_on, touch();
}
void WatchBoard::kept_text(const std::string& toml) {
  const std::lock_guard lock(guard_);
  kept_text_ = toml, touch();
}
void WatchBoard::view() {
  const std::lock_guard lock(guard_);
  ++view_version_, touch();
}
void WatchBoard::changed() {
  const std::lock_guard lock(guard_);
  changed_ = Clock::now(), marks_.clear(), touch();
}
void WatchBoard::mark(const std::string& what) {
  const std::lock_guard lock(guard_);
  if (changed_ == Clock::time_point{}) return;
  marks_.try_emplace(what, std::chrono::duration<double>(Clock::now() - changed_).count());
  touch();
}

std::string WatchBoard::text() const {
  Json keys = Json::array();
  for (const WatchedKey& k : keys_)
    keys.push_back({{"key", valid_text(k.key.key)},
                    {"from", k.key.from},
                    {"to", k.key.to},
                    {"unit", valid_text(k.key.unit)},
                    {"value", valid_text(k.value)}});
  const std::size_t stride = 1 + history_.size() / most_points;
  Json iteration = Json::array(), cd = Json::array(), clf = Json::array(), clr = Json::array();
  for (std::size_t i = 0; i < history_.size(); i += stride) {
    const HistoryRow& h = history_[i];
    iteration.push_back(h.iteration), cd.push_back(number(h.c.cd));
    clf.push_back(number(h.c.clf())), clr.push_back(number(h.c.clr()));
  }
  Json all_tries = Json::array();
  for (const auto& t : tries_) {
    Json of = Json::array();
    for (const auto& [recipe, f] : t->figures) of.push_back(figures_json(f));
    all_tries.push_back({{"number", t->number},
                         {"name", valid_text(t->name())},
                         {"kept", t->kept},
                         {"is_reference", kept_try_ && kept_try_->number == t->number},
                         {"is_present", present_try_ && present_try_->number == t->number},
                         {"figures", of}});
  }
  Json runs = Json::array();
  for (const StoredRun& r : runs_)
    runs.push_back({{"variant", valid_text(r.variant)},
                    {"speed", r.speed},
                    {"settings", valid_text(r.settings)},
                    {"recipe", r.recipe},
                    {"status", r.status},
                    {"CD", number(r.cd)},
                    {"half_interval_95", number(r.cd_half_interval)}});
  Json going_on = Json::array();
  for (const std::string& g : going_on_) going_on.push_back(valid_text(g));
  Json names = Json::array();
  for (const std::string& v : variants_) names.push_back(valid_text(v));
  const Json j = {
      {"version", version_},
      {"view", view_version_},
      {"campaign", valid_text(name_)},
      {"phase", phase_},
      {"message", valid_text(message_)},
      {"error", valid_text(error_)},
      {"recipe", recipe_},
      {"cells", cells_},
      {"seconds_left", number(seconds_left_)},
      {"variants", names},
      {"speeds", speeds_},
      {"wanted", wanted_json(wanted_)},
      {"keys", keys},
      {"history", {{"iteration", iteration}, {"CD", cd}, {"CLF", clf}, {"CLR", clr}}},
      {"present", present_ ? figures_json(*present_) : Json(nullptr)},
      {"change", present_ && kept_try_ && present_try_ && kept_try_->number != present_try_->number
                     ? change_json(*present_, *present_try_, *kept_try_)
                     : Json(nullptr)},
      {"kept", kept_try_ ? Json(valid_text(kept_try_->name())) : Json(nullptr)},
      {"tries", all_tries},
      {"kept_text", valid_text(kept_text_)},
      {"runs", runs},
      {"going_on", going_on},
      {"seconds_since_change", marks_}};
  return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string WatchBoard::state(long after) const {
  const std::lock_guard lock(guard_);
  read_ = Clock::now();
  return version_ > after ? text() : "";
}
bool WatchBoard::is_read() const {
  constexpr auto lately = std::chrono::seconds(10);
  const std::lock_guard lock(guard_);
  return read_ != Clock::time_point{} && Clock::now() - read_ < lately;
}

}  // namespace dunefield
