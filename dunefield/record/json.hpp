// The pieces of JSON that several files and commands share. Not part of the public interface.
#pragma once

#include <filesystem>
#include <map>
#include <optional>

#include <nlohmann/json.hpp>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/members.hpp>
#include <dunefield/base/vec.hpp>
#include <dunefield/mesh/layers/layers.hpp>
#include <dunefield/mesh/octree/gaps.hpp>
#include <dunefield/mesh/quality/quality.hpp>

namespace dunefield {

using Json = nlohmann::ordered_json;

/// JSON from outside. @param where file or request that it stands in
/// @throw InputError for what is no JSON, or nested more than 64 deep
Json parsed_json(const std::string& text, const std::string& where);

/// Names are any text; JSON must be UTF-8, so that other bytes are replaced.
inline std::string dumped(const Json& j) {
  return j.dump(2, ' ', false, Json::error_handler_t::replace);
}
inline Json vector_json(const Vec3& v) { return {v.x, v.y, v.z}; }
inline Vec3 vector_from(const Json& j) { return {j.at(0), j.at(1), j.at(2)}; }
Json findings_json(const Findings& findings);
Findings findings_from(const Json& list);
Json quality_json(const MeshQuality& quality);
MeshQuality quality_from(const Json& j);
Json gaps_json(const std::vector<NarrowGap>& gaps);
Json layers_json(const LayerReport& layers);

/// Any value, structs by the list of their members.
inline Json to_json(const Vec3& v) { return vector_json(v); }
inline Json to_json(const Box& b) {
  return {{"from", vector_json(b.lo)}, {"to", vector_json(b.hi)}};
}
inline Json to_json(const std::string& text) { return text; }
template <class T>
requires std::is_arithmetic_v<T> Json to_json(T v) { return v; }
template <Listed T>
Json to_json(const T& object);
template <class T>
Json to_json(const std::vector<T>& list) {
  Json out = Json::array();
  for (const T& v : list) out.push_back(to_json(v));
  return out;
}
template <class T>
Json to_json(const std::map<std::string, T>& table) {
  Json out = Json::object();
  for (const auto& [key, v] : table) out[key] = to_json(v);
  return out;
}
/// Enumerations by their word.
template <class T>
requires std::is_enum_v<T> Json to_json(T v) { return word(v); }
template <Listed T>
Json to_json(const T& object) {
  Json out = Json::object();
  visit_members(object, [&](const char* key, const auto& value) { out[key] = to_json(value); });
  return out;
}

}  // namespace dunefield
