// The pieces of JSON that several files and commands share.
#pragma once

#include <nlohmann/json.hpp>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/vec.hpp>
#include <dunefield/mesh/layers/layers.hpp>
#include <dunefield/mesh/octree/gaps.hpp>
#include <dunefield/mesh/quality/quality.hpp>

namespace dunefield {

using Json = nlohmann::ordered_json;

/// Names are any text; JSON must be UTF-8, so that other bytes are replaced.
inline std::string dumped(const Json& j) {
  return j.dump(2, ' ', false, Json::error_handler_t::replace);
}
inline Json vector_json(const Vec3& v) { return {v.x, v.y, v.z}; }
Json findings_json(const Findings& findings);
Json quality_json(const MeshQuality& quality);
Json gaps_json(const std::vector<NarrowGap>& gaps);
Json layers_json(const LayerReport& layers);

}  // namespace dunefield
