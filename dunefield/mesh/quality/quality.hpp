// How sound a mesh is, measured as finite volumes feel it.
#pragma once

#include <array>
#include <cmath>
#include <string>
#include <vector>

#include <dunefield/base/findings.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/mesh/volume_mesh.hpp>

namespace dunefield {

enum class Measure { obliquity, offset, one_sidedness, size_step, slenderness, warp };
constexpr std::size_t measures = 6;

/// A face, or a cell, and what was measured there.
struct MeasuredPlace {
  double value = 0;
  Vec3 place;
  int face = -1;  ///< -1: a cell's
};

/// One measure over the whole mesh.
struct MeasureSummary {
  std::string name, unit;
  double limit = 0;      ///< beyond it the flow may suffer
  double tolerated = 0;  ///< beyond it a mesh is not good
  double mean = 0;
  std::int64_t count = 0, beyond = 0;
  /// Class k of the histogram holds values from step k - 1 up to step k
  std::vector<double> steps;
  std::vector<std::int64_t> classes;  ///< one more than the steps
  std::vector<MeasuredPlace> worst;   ///< up to ten, no two within the same few faces, worst first

  double worst_value() const { return worst.empty() ? 0 : worst[0].value; }
  /// True if a place is beyond what is tolerated.
  bool bad() const { return worst_value() > tolerated; }
  /// True of a measure that no flow was seen to fail by.
  bool tolerates_any() const { return std::isinf(tolerated); }
  double share_beyond() const {
    return count ? static_cast<double>(beyond) / static_cast<double>(count) : 0.0;
  }
};

struct MeshQuality {
  int cells = 0, faces = 0, points = 0;
  double worst_closure = 0;    ///< |sum of area vectors| over the sum of their sizes, per cell
  double smallest_volume = 0;  ///< m3
  Vec3 smallest_volume_at;
  int negative_pyramids = 0;  ///< faces whose pyramid from a cell centre is not positive
  int regions = 1;            ///< of air, connected over faces
  /// Obliquity: angle between a face's normal and the line of the cell centres (at the wall: to the
  /// face centre), degrees. Offset: from where that line meets the face to the face's centre, over
  /// the line's length. One-sidedness: distances of both centres from the face, larger over
  /// smaller. Size step: cube root of the volumes of neighbours, larger over smaller. Slenderness:
  /// a cell's largest face over its volume to the power 2/3. Warp: distance of a face's points from
  /// its plane over the root of its area, or over that of its farthest point from its centre if
  /// that is more (a face may have next to no area).
  std::array<MeasureSummary, measures> summary;

  const MeasureSummary& of(Measure m) const { return summary[at(m)]; }
  bool sound() const {
    return worst_closure < 1e-10 && smallest_volume > 0 && negative_pyramids == 0 && regions == 1;
  }
  /// Sound, and within what the flow solver was measured to stand (docs/theory/method.md, "What a
  /// mesh must be like").
  bool good() const;
};

/// The measures with their limits, and nothing measured yet.
MeshQuality empty_quality();
MeshQuality measure_quality(const VolumeMesh& mesh);
/// Warns of each measure that is beyond what is tolerated, with its place: a run on such a mesh may
/// need more iterations, or back off.
void report_quality(const MeshQuality& quality, Findings& findings);

/// Air volume in m3, and wetted area of the vehicle's parts in m2.
double air_volume(const VolumeMesh& mesh);
double wetted_area(const VolumeMesh& mesh);

}  // namespace dunefield
