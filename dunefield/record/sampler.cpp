#include <dunefield/record/sampler.hpp>

#include <cmath>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

void add(Vec3& sum, double difference, const Vec3& way) { sum += way * difference; }
void add(Mat3& sum, const Vec3& difference, const Vec3& way) {
  for (int i = 0; i < 3; ++i) sum.row[i] += way * difference[i];
}
void solve(const SymmetricMat3& inverse, Vec3& g) { g = inverse * g; }
void solve(const SymmetricMat3& inverse, Mat3& g) {
  for (Vec3& row : g.row) row = inverse * row;
}

}  // namespace

template <class T, class G>
G Sampler::fitted(int c, const std::vector<T>& values) const {
  const VolumeMesh& m = mesh_;
  SymmetricMat3 information;
  G sum{};
  for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r) {
    const int f = rows_.face[at(r)];
    if (f >= m.interior_faces()) continue;
    const int other = m.cell_below[at(f)] == c ? m.cell_above[at(f)] : m.cell_below[at(f)];
    const Vec3 d = m.cell_centre[at(other)] - m.cell_centre[at(c)];
    const double w = 1 / norm2(d);
    information.add_square(d, w);
    add(sum, values[at(other)] - values[at(c)], d * w);
  }
  constexpr double share = 1e-6;  // added each way: all neighbours may lie in a plane
  const double more = share * (information.xx + information.yy + information.zz) + 1e-300;
  information.xx += more, information.yy += more, information.zz += more;
  solve(information.inverse(), sum);
  return sum;
}

Vec3 Sampler::gradient(int cell, const std::vector<double>& values) const {
  return fitted<double, Vec3>(cell, values);
}
Mat3 Sampler::gradient(int cell, const std::vector<Vec3>& values) const {
  return fitted<Vec3, Mat3>(cell, values);
}

const CellFinder& Sampler::finder() const {
  std::call_once(finder_wanted_, [&] { finder_.emplace(mesh_); });
  return *finder_;
}

std::optional<int> Sampler::cell_at(const Vec3& x) const {
  const int cell = finder().holding(x);
  return cell < 0 ? std::nullopt : std::optional(cell);
}

Sampler::Piece Sampler::piece_of(int cell, const Plane& plane, const PlaneAxes& axes, double width,
                                 double height) const {
  Piece piece{cell, 0, {}, cell_section(mesh_, rows_, cell, plane)};
  for (const auto& [axis, size] : {std::pair{axes.across, width}, std::pair{axes.up, height}})
    for (const double side : {1.0, -1.0})
      if (size > 0)
        piece.outline = clipped(piece.outline, [&, &way = axis, most = 0.5 * size](const Vec3& x) {
          return most - side * dot(x - plane.point, way);
        });
  const std::vector<Vec3>& p = piece.outline;
  Vec3 vector;
  double weight = 0;
  for (std::size_t i = 1; i + 1 < p.size(); ++i) {
    const Vec3 part = cross(p[i] - p[0], p[i + 1] - p[0]) * 0.5;
    vector += part, weight += norm(part);
    piece.middle += (p[0] + p[i] + p[i + 1]) * (norm(part) / 3);
  }
  piece.area = norm(vector);
  piece.middle = weight > 0 ? piece.middle / weight : mesh_.cell_centre[at(cell)];
  return piece;
}

}  // namespace dunefield
