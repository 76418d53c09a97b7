// The pieces of JSON that all commands share.
#pragma once

#include <dunefield/base/findings.hpp>
#include <dunefield/base/vec.hpp>
#include <nlohmann/json.hpp>

namespace dunefield::tool {

using Json = nlohmann::ordered_json;

inline std::string dumped(const Json& j) { return j.dump(2, ' ', false, Json::error_handler_t::replace); }
inline Json point(const Vec3& v) { return {v.x, v.y, v.z}; }
inline Json findings_json(const Findings& findings) {
  Json list = Json::array();
  for (const Finding& f : findings) list.push_back({{"level", f.level == Finding::Level::warning ? "warning" : "note"}, {"text", f.text}});
  return list;
}

}  // namespace dunefield::tool
