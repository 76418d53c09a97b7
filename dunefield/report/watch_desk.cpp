#include <dunefield/report/watch_desk.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>
#include <dunefield/record/json.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

/// The numbers that the campaign names: of its search, and those that its runs differ in.
std::vector<WatchedKey> named_keys(const Campaign& c) {
  std::vector<WatchedKey> keys;
  if (c.search)
    for (const SearchKey& k : c.search->keys) keys.push_back({k, ""});
  for (const Settings& settings : c.settings)
    for (const Setting& s : settings) {
      const auto [value, unit] = number_and_unit(s.value);
      const auto known = std::find_if(keys.begin(), keys.end(),
                                      [&](const WatchedKey& k) { return k.key.key == s.key; });
      if (known == keys.end())
        keys.push_back({{s.key, value, value, unit}, ""});
      else if (known->key.unit == unit)
        known->key.from = std::min(known->key.from, value),
        known->key.to = std::max(known->key.to, value);
    }
  return keys;
}

}  // namespace

std::size_t variant_number(const Campaign& c, const std::string& name) {
  for (std::size_t i = 0; i < c.variants.size(); ++i)
    if (c.variants[i].name == name) return i;
  throw InputError("has no variant '" + name + "'", c.file.string(), "choose another");
}

void WatchDesk::campaign(const Campaign& c) {
  const std::lock_guard lock(guard_);
  name_ = c.name, speeds_ = c.speeds, keys_ = named_keys(c);
  variants_.clear();
  for (const auto& v : c.variants) variants_.push_back(v.name);
  std::erase_if(wanted_.settings, [&](const Setting& s) {  // the file names it no more
    return std::none_of(keys_.begin(), keys_.end(),
                        [&](const WatchedKey& k) { return k.key.key == s.key; });
  });
  tell();
}

void WatchDesk::begin(const std::string& variant, double speed) {
  const std::lock_guard lock(guard_);
  wanted_.variant = variant, wanted_.speed = speed;
  tell();
}

void WatchDesk::tell() const {
  std::vector<WatchedKey> keys = keys_;
  for (WatchedKey& k : keys)
    for (const Setting& s : wanted_.settings)
      if (s.key == k.key.key) k.value = s.value;
  board_.campaign(name_, variants_, speeds_, keys);
  board_.wanted(wanted_);
}

Wanted WatchDesk::wanted() const {
  const std::lock_guard lock(guard_);
  return wanted_;
}
Replacements WatchDesk::replacements() const {
  const std::lock_guard lock(guard_);
  return replacements_;
}
void WatchDesk::watch(const std::vector<fs::path>& files) {
  const std::lock_guard lock(guard_);
  files_.watch(files);
}

std::vector<fs::path> WatchDesk::changed_files() {
  const std::lock_guard lock(guard_);
  std::vector<fs::path> changed = files_.changed();
  for (const fs::path& f : changed) replacements_.erase(f);
  return changed;
}

bool WatchDesk::want(const std::string& json) {
  const Json j = parsed_json(json, "what is wanted");
  if (!j.is_object()) throw InputError("is no JSON object", "what is wanted", "reload the page");
  const std::lock_guard lock(guard_);
  Wanted w = wanted_;
  if (j.contains("variant") && j["variant"].is_string()) w.variant = j["variant"];
  if (std::find(variants_.begin(), variants_.end(), w.variant) == variants_.end())
    throw InputError("there is no variant '" + w.variant + "'", "variant", "choose another");
  if (j.contains("speed")) {
    constexpr double fastest = 150;  // m/s, of air that may be taken as incompressible
    const double speed = j["speed"].is_number() ? j["speed"].get<double>() : 0;
    if (!(speed > 0 && speed < fastest))
      throw InputError("the speed is not from 0 to 540 km/h", "speed", "choose another");
    w.speed = speed;
  }
  if (j.contains("settings") && j["settings"].is_object())
    for (const auto& [key, value] : j["settings"].items()) {
      if (!value.is_number()) throw InputError("is no number", key, "write one");
      set(w, key, value);
    }
  if (w == wanted_) return false;
  wanted_ = w;
  tell();
  return true;
}

void WatchDesk::set(Wanted& w, const std::string& key, double value) const {
  const auto known = std::find_if(keys_.begin(), keys_.end(),
                                  [&](const WatchedKey& k) { return k.key.key == key; });
  if (known == keys_.end())
    throw InputError("is no number that the campaign names", key,
                     "name it below [runs.sweep] or [search.keys]");
  const std::string& unit = known->key.unit;
  std::erase_if(w.settings, [&](const Setting& s) { return s.key == key; });
  w.settings.push_back({key, fmt::format("{:.6g}{}{}", value, unit.empty() ? "" : " ", unit)});
}

void WatchDesk::go_back(const Try& kept) {
  const std::lock_guard lock(guard_);
  wanted_ = kept.wanted;
  replacements_.clear();
  for (const auto& [file, content] : kept.content)
    if (const auto copy = kept.copies.find(file);
        copy != kept.copies.end() && hash_of_file(file) != content)
      replacements_[file] = copy->second;
  tell();
}

}  // namespace dunefield
