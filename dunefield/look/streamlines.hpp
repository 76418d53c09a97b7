// Lines along the flow: integrated with error control in a velocity that is linear in the
// tetrahedra of cell middle, face middle and edge, continuous everywhere, and along walls where
// there are any.
#pragma once

#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

enum class Direction { forward, backward, both };

struct StreamlineOptions {
  Direction direction = Direction::forward;
  double length = 0;    ///< m, each way; 0: as far as there is air
  double error = 1e-4;  ///< of a step, as a share of the cell's size
};

struct Streamline {
  std::vector<Vec3> points;
  std::vector<double> time;  ///< s from the seed; negative upstream
  std::vector<int> cell;     ///< of the mesh, that holds the point or, of a half model, its image
  /// It ended in air that hardly moves, or could not go on, other than by its length or by leaving
  bool stopped = false;
  bool in_air = true;  ///< false: the seed is not, and there is no line
};

/// Thread-safe, in the order of the seeds. @throw Cancelled
std::vector<Streamline> streamlines(const FlowView& view, const std::vector<Vec3>& seeds,
                                    const StreamlineOptions& options = {},
                                    const Progress& progress = {});

/// Values of a quantity along a line, linear as the velocity.
class AlongLines {
 public:
  AlongLines(const FlowView& view, const std::string& quantity);
  std::vector<double> of(const Streamline& line) const;

 private:
  const FlowView& view_;
  std::vector<double> cells_, points_, mirrored_cells_, mirrored_points_;
};

}  // namespace dunefield
