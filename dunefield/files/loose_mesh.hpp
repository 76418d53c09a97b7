// A mesh as files tell it: polygons in any order, the cells beside them, and which of them make up
// the outside. Put in order and checked.
#pragma once

#include <string>
#include <vector>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

/// The cells that a polygon parts, -1 for none; the polygon's points run so that it points out of
/// `below`.
struct Sides {
  int below = -1, above = -1;
};

/// A boundary, and the polygons that it is made of.
struct LooseBoundary {
  std::string name;
  BoundaryKind kind = BoundaryKind::part;
  std::vector<int> polygons;
};

struct LooseMesh {
  std::vector<Vec3> points;
  std::vector<int> face_start = {0};  ///< polygons + 1 entries into `face_points`
  std::vector<int> face_points;
  std::vector<Sides> sides;  ///< per polygon
  std::vector<LooseBoundary> boundaries;
  int cells = 0;

  int polygons() const { return static_cast<int>(face_start.size()) - 1; }
  /// The box around the points of some polygons.
  Box box_of(const std::vector<int>& polygons) const;
};

/// Interior polygons by their lower cell, else in their own order, then those of each boundary;
/// derived arrays are filled. Polygons without cells are left out.
/// @param file named in errors
/// @throw InputError for points that do not exist, polygons of the outside that belong to no
/// boundary or to two, cells that are not closed
VolumeMesh put_in_order(LooseMesh&& loose, const std::string& file);

/// The words by which our files tell what a boundary is, and back; -1 for other words.
const char* word_of(BoundaryKind kind);
int kind_of(const std::string& word);

}  // namespace dunefield
