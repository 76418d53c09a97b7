// A vehicle's surface: triangles in named parts.
#pragma once

#include <array>
#include <string>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Triangles that share points. A part is the unit of forces, sizes and colours.
/// Lengths are in metres once the surface has been placed.
struct Surface {
  std::vector<Vec3> points;
  std::vector<std::array<int, 3>> triangles;
  std::vector<int> part_of;             ///< part of each triangle
  std::vector<std::string> part_names;  ///< any text; never interpreted

  std::size_t size() const { return triangles.size(); }
  Vec3 corner(std::size_t t, int k) const { return points[at(triangles[t][at(k)])]; }
  /// Area vector of a triangle: half the cross product of its edges.
  Vec3 area_vector(std::size_t t) const {
    return 0.5 * cross(corner(t, 1) - corner(t, 0), corner(t, 2) - corner(t, 0));
  }
  Vec3 centroid(std::size_t t) const { return (corner(t, 0) + corner(t, 1) + corner(t, 2)) / 3.0; }
  /// Number of the part of that name, or -1.
  int find_part(const std::string& name) const;
};

Box bounds(const Surface& surface);
/// Bounds of one part.
Box bounds(const Surface& surface, int part);
/// Sum of triangle areas, in square metres.
double total_area(const Surface& surface);
/// Signed volume by the divergence theorem; the vehicle's only if it is closed and its shells do
/// not overlap.
double signed_volume(const Surface& surface);

/// Points at the same place become one; triangles left with fewer than three points are dropped.
/// @return number of triangles dropped
std::size_t weld(Surface& surface);
/// Points that no triangle uses are dropped.
void drop_unused_points(Surface& surface);
/// Adds the parts of `other`; a part of the same name is extended.
void append(Surface& surface, const Surface& other);
/// The parts for which `keep` is true, in order.
Surface select_parts(const Surface& surface, const std::vector<bool>& keep);
void scale(Surface& surface, double factor);
void translate(Surface& surface, const Vec3& by);
/// Turns about an axis through `centre` (right-hand rule, radians).
void rotate(Surface& surface, const Vec3& centre, const Vec3& axis, double angle);

/// Pieces connected by shared points: the number of the piece of each triangle, and how many there
/// are.
struct Pieces {
  std::vector<int> of_triangle;
  int count = 0;
};
/// @param left_out per triangle, true for those that join nothing (they have piece -1); empty: none
Pieces connected_pieces(const Surface& surface, const std::vector<char>& left_out = {});

/// Edges that do not part exactly two triangles.
struct EdgeCount {
  std::size_t open = 0;          ///< one triangle
  std::size_t non_manifold = 0;  ///< three or more
  std::vector<char> piece_open;  ///< per connected piece: has open edges
};
EdgeCount count_edges(const Surface& surface, const Pieces& pieces);

}  // namespace dunefield
