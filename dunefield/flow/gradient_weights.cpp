#include <dunefield/flow/gradient_weights.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/gradients.hpp>

namespace dunefield {
namespace {

Vec3 over_square(const Vec3& d) { return d * (1 / norm2(d)); }

}  // namespace

/// Those of least squares in all cells, as `of_velocity` and `of_pressure` begin.
GradientWeights Gradients::least_squares_weights(Use use) const {
  const FlowMesh& m = mesh_;
  GradientWeights w;
  w.below.resize(m.faces()), w.above.resize(m.faces());
  w.boundary.resize(m.boundary_faces.size());
  std::vector<SymmetricMat3> inverse(at(m.cells));
  for_inverses(use == velocity ? velocity_ : pressure_,
               [&](std::size_t c, const SymmetricMat3& one) { inverse[c] = one; });
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const auto a = at(m.below[f]), b = at(m.above[f]);
    w.below[f] = inverse[a] * over_square(m.along(f, a, m.between(f)));
    w.above[f] = inverse[b] * over_square(m.along(f, b, m.between(f)));
  }
  for (std::size_t i = 0; i < m.boundary_faces.size(); ++i) {
    const auto& b = m.boundary_faces[i];
    const ConditionKind kind = conditions_[at(boundary_of_[i])].kind;
    const auto c = at(b.cell);
    if (kind == ConditionKind::slip && use == velocity)
      w.boundary[i] = inverse[c] * over_square(b.normal * (2 * b.height));
    else if (has_value(kind, use))
      w.boundary[i] = inverse[c] * over_square(b.centre - m.centre[c]);
  }
  return w;
}

GradientWeights Gradients::weights(Use use) const {
  const FlowMesh& m = mesh_;
  GradientWeights w = least_squares_weights(use);
  const GradientWeights first = w;
  const auto poor = [&](std::size_t c) { return c < poor_.size() && poor_[c]; };
  // Where a boundary has no value of its own it is what the cell's least-squares gradient says: of
  // one step less, and nothing in poor cells.
  std::vector<Mat3> by_own(at(m.cells));
  for (const int i : thin_boundary_) {
    const auto& b = m.boundary_faces[at(i)];
    const auto c = at(b.cell);
    const ConditionKind kind = conditions_[at(boundary_of_[at(i)])].kind;
    const double volume = m.volume[c];
    if (kind == ConditionKind::slip && use == velocity)
      w.boundary[at(i)] = b.area * (0.5 / volume);  // the plane is half of the way to the mirror
    else if (has_value(kind, use))
      w.boundary[at(i)] = b.area * (1 / volume);
    else {
      w.boundary[at(i)] = {};
      if (poor(c)) continue;
      const Vec3 d = b.centre - m.centre[c];
      for (int k = 0; k < 3; ++k) by_own[c].row[k] += d * (b.area[k] / volume);
    }
  }
  for (const ThinFace& t : thin_faces_) {
    const auto f = at(t.face), a = at(m.below[f]), b = at(m.above[f]);
    const double mean = m.lateral[f] ? 0.5 : m.weight[f];
    if (t.below) w.below[f] = m.area[f] * ((1 - mean) / m.volume[a]) + by_own[a] * first.below[f];
    if (t.above) w.above[f] = m.area[f] * (mean / m.volume[b]) + by_own[b] * first.above[f];
  }
  for (const int i : thin_boundary_) {
    const auto c = at(m.boundary_faces[at(i)].cell);
    w.boundary[at(i)] += by_own[c] * first.boundary[at(i)];
  }
  if (limited_.empty()) return w;
  std::vector<double> left(at(m.cells), 1);
  for (const auto& [cell, share] : limited_) left[at(cell)] = 1 - share;
  for (std::size_t f = 0; f < m.faces(); ++f)
    w.below[f] *= left[at(m.below[f])], w.above[f] *= left[at(m.above[f])];
  for (std::size_t i = 0; i < m.boundary_faces.size(); ++i)
    w.boundary[i] *= left[at(m.boundary_faces[i].cell)];
  return w;
}

GradientWeights Gradients::velocity_weights() const { return weights(velocity); }
GradientWeights Gradients::pressure_weights() const { return weights(pressure); }

}  // namespace dunefield
