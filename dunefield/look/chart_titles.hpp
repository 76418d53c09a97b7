// What charts of records are called, and their lines.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include <fmt/format.h>

#include <dunefield/look/vehicle_sheets.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

inline std::string title_for(const std::vector<const Record*>& records, const std::string& what) {
  if (records.size() == 1) return title_of(*records.front()) + ": " + what;
  const std::string& campaign = records.front()->run.campaign;
  return (campaign.empty() ? "" : campaign + ": ") + what;
}

/// What tells a record from the others.
inline std::string short_name(const std::vector<const Record*>& records, const Record& r) {
  if (records.size() == 1) return "";
  const bool speeds = std::any_of(records.begin(), records.end(), [&](const Record* other) {
    return other->run.speed != r.run.speed;
  });
  std::string name = r.run.variant;
  if (speeds) name += ", " + speed_in_words(r.run);
  for (const Setting& s : r.run.settings) name += fmt::format(", {}", s.value);
  return name;
}

inline bool in_time(const Record& r) { return !r.history.empty() && r.history.back().time > 0; }

}  // namespace dunefield
