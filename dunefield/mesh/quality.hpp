// How sound a mesh is, measured as finite volumes feel it.
#pragma once

#include <string>

#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

struct MeshQuality {
  int cells = 0, faces = 0, points = 0;
  double worst_closure = 0;              ///< |sum of area vectors| over the sum of their sizes, per cell
  double smallest_volume = 0;            ///< m3
  Vec3 smallest_volume_at;
  int negative_pyramids = 0;             ///< faces whose pyramid from a cell centre is not positive
  double mean_non_orthogonality = 0;     ///< degrees, between face area vector and the line of the cell centres
  double largest_non_orthogonality = 0;  ///< degrees
  Vec3 largest_non_orthogonality_at;
  double share_over_70_degrees = 0;
  double largest_skewness = 0;           ///< face centre to where the line meets the face, over the line's length
  double smallest_face_weight = 0;       ///< smaller of the two normal distances over their sum
  double smallest_volume_ratio = 0;      ///< of neighbours
  double largest_unflatness = 0;         ///< distance of a face's points from its plane over the root of its area

  bool sound() const { return worst_closure < 1e-10 && smallest_volume > 0 && negative_pyramids == 0; }
};

MeshQuality measure_quality(const VolumeMesh& mesh);

/// Air volume in m3, and wetted area of the vehicle's parts in m2.
double air_volume(const VolumeMesh& mesh);
double wetted_area(const VolumeMesh& mesh);

}  // namespace dunefield
