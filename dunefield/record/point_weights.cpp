#include <dunefield/record/point_weights.hpp>

#include <algorithm>

namespace dunefield {
/// b (1 + lambda d) with base weights b, whose first moment vanishes.
bool linear_weights(const std::vector<Vec3>& way, const std::vector<double>& base,
                    std::vector<double>& weight) {
  SymmetricMat3 moments;
  Vec3 first;
  for (std::size_t k = 0; k < way.size(); ++k)
    moments.add_square(way[k], base[k]), first += way[k] * base[k];
  const double trace = moments.xx + moments.yy + moments.zz;
  moments.xx += 1e-12 * trace, moments.yy += 1e-12 * trace, moments.zz += 1e-12 * trace;
  const Vec3 lambda = moments.inverse() * first * -1.0;
  if (!finite(lambda)) return false;
  double sum = 0, size = 0;
  for (std::size_t k = 0; k < way.size(); ++k) {
    weight[k] = base[k] * (1 + dot(lambda, way[k]));
    sum += weight[k], size += std::abs(weight[k]);
  }
  constexpr double wildest = 6;  // of the weights' sizes over their sum
  if (!(sum > 0) || size > wildest * sum) return false;
  for (double& w : weight) w /= sum;
  return true;
}

PointWeights::PointWeights(const VolumeMesh& mesh, const CellFaces& rows, std::vector<int> points)
    : points_(std::move(points)) {
  gather(mesh, rows);
  weigh(mesh);
}

/// Cells that touch each point; where a boundary face does, their neighbours as well.
void PointWeights::gather(const VolumeMesh& m, const CellFaces& rows) {
  std::vector<int> slot(m.points.size(), -1);
  for (std::size_t i = 0; i < points_.size(); ++i) slot[at(points_[i])] = static_cast<int>(i);
  std::vector<std::size_t> first(points_.size() + 1, 0);
  std::vector<char> at_boundary(points_.size(), 0);
  const auto visit = [&](const auto& take) {
    for (int f = 0; f < m.faces(); ++f)
      for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k) {
        const int s = slot[at(m.face_points[at(k)])];
        if (s >= 0) take(at(s), f);
      }
  };
  const int interior = m.interior_faces();
  visit([&](std::size_t s, int f) {
    first[s + 1] += f < interior ? 2 : 1;
    if (f >= interior) at_boundary[s] = 1;
  });
  for (std::size_t i = 0; i < points_.size(); ++i) first[i + 1] += first[i];
  std::vector<int> touch(first.back());
  std::vector<std::size_t> next(first.begin(), first.end() - 1);
  visit([&](std::size_t s, int f) {
    touch[next[s]++] = m.cell_below[at(f)];
    if (f < interior) touch[next[s]++] = m.cell_above[at(f)];
  });
  std::vector<std::vector<int>> lists(points_.size());
  parallel_for(points_.size(), [&](std::size_t i) {
    std::vector<int>& list = lists[i];
    list.assign(touch.begin() + static_cast<std::ptrdiff_t>(first[i]),
                touch.begin() + static_cast<std::ptrdiff_t>(first[i + 1]));
    const auto sort_out = [&] {
      std::sort(list.begin(), list.end());
      list.erase(std::unique(list.begin(), list.end()), list.end());
    };
    sort_out();
    if (!at_boundary[i]) return;
    for (std::size_t k = 0, n = list.size(); k < n; ++k)
      for (int r = rows.start[at(list[k])]; r < rows.start[at(list[k]) + 1]; ++r) {
        const int f = rows.face[at(r)];
        if (f < interior)
          list.push_back(m.cell_below[at(f)] == list[k] ? m.cell_above[at(f)]
                                                        : m.cell_below[at(f)]);
      }
    sort_out();
  });
  start_.assign(points_.size() + 1, 0);
  for (std::size_t i = 0; i < points_.size(); ++i) start_[i + 1] = start_[i] + lists[i].size();
  cell_.reserve(start_.back());
  for (const auto& list : lists) cell_.insert(cell_.end(), list.begin(), list.end());
}

void PointWeights::weigh(const VolumeMesh& m) {
  weight_.resize(cell_.size());
  parallel_for(points_.size(), [&](std::size_t i) {
    const std::size_t n = start_[i + 1] - start_[i];
    std::vector<Vec3> way(n);
    std::vector<double> base(n), weight(n);
    double all = 0;
    for (std::size_t k = 0; k < n; ++k) {
      way[k] = m.cell_centre[at(cell_[start_[i] + k])] - m.points[at(points_[i])];
      base[k] = 1 / std::max(norm2(way[k]), 1e-30);
      all += base[k];
    }
    if (!linear_weights(way, base, weight))
      for (std::size_t k = 0; k < n; ++k) weight[k] = base[k] / all;
    for (std::size_t k = 0; k < n; ++k) weight_[start_[i] + k] = weight[k];
  });
}

std::vector<int> all_points(const VolumeMesh& mesh) {
  std::vector<int> all(mesh.points.size());
  for (std::size_t i = 0; i < all.size(); ++i) all[i] = static_cast<int>(i);
  return all;
}

}  // namespace dunefield
