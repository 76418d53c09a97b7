// Carries values of cells to points of the mesh, so that pictures are continuous.
#pragma once

#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/volume_mesh.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

/// For each point a mean of the cells round it, the nearer the heavier, tilted so that linear
/// fields come out exactly (weights of Holmes and Connell 1989). At a boundary the cells behind the
/// nearest ones are taken, too; where even those lie in one plane, nothing is carried on across it.
class PointWeights {
 public:
  /// Of these points alone, each once.
  PointWeights(const VolumeMesh& mesh, const CellFaces& rows, std::vector<int> points);

  const std::vector<int>& points() const { return points_; }
  /// One value for each of the points, in their order.
  template <class T>
  std::vector<T> of(const std::vector<T>& cells) const {
    std::vector<T> out(points_.size(), T{});
    parallel_for(out.size(), [&](std::size_t i) {
      for (std::size_t k = start_[i]; k < start_[i + 1]; ++k)
        out[i] += cells[at(cell_[k])] * weight_[k];
    });
    return out;
  }

 private:
  void gather(const VolumeMesh& mesh, const CellFaces& rows);
  void weigh(const VolumeMesh& mesh);

  std::vector<int> points_;
  std::vector<std::size_t> start_;
  std::vector<int> cell_;
  std::vector<double> weight_;
};

/// Weights, summing to one, of values at places so that linear functions come out exactly where all
/// ways start: the base weights, tilted. @param way to each place; directions that none of them has
/// do not count. @return false where the places lie so that no sound weights do that
bool linear_weights(const std::vector<Vec3>& way, const std::vector<double>& base,
                    std::vector<double>& weight);

/// All points of a mesh, 0, 1, 2 ...
std::vector<int> all_points(const VolumeMesh& mesh);

}  // namespace dunefield
