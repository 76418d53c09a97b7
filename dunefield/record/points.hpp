// A record's quantities at points of the air and along lines.
#pragma once

#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/record/record.hpp>

namespace dunefield {

/// The image of a place or a velocity in a half model's centre plane.
inline Vec3 in_mirror(const Vec3& v) { return {v.x, -v.y, v.z}; }

/// Where the mesh of a half model has what is at a point: the side y < 0 is read in the mirror.
inline Vec3 meshed_side(const Vec3& p, bool half) {
  return half ? Vec3{p.x, std::abs(p.y), p.z} : p;
}

/// Evenly from one point to the other, both among them; of one
/// point: the first. @throw InputError for fewer than one
std::vector<Vec3> points_along(const Vec3& from, const Vec3& to, int count);

/// Values of a quantity in the air, carried between the cells as by the Sampler; none within the
/// vehicle or outside the tunnel. The other side of a half model is the mirror image.
/// @throw InputError for a quantity that the record does not have in the air
std::vector<std::optional<double>> scalars_at(const Record& record, const std::string& quantity,
                                              const std::vector<Vec3>& points);
std::vector<std::optional<Vec3>> vectors_at(const Record& record, const std::string& quantity,
                                            const std::vector<Vec3>& points);

}  // namespace dunefield
