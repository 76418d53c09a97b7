#include <dunefield/flow/gradients.hpp>

#include <algorithm>

#include <Eigen/Dense>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

std::size_t at(int i) { return static_cast<std::size_t>(i); }

// With unit direction vectors a whole cell has eigenvalues near 2, one at a wall near 1. In a gap one cell wide the
// neighbours lie almost in one plane: across it nothing is known, and what rounding says would be amplified.
constexpr double least_information = 0.05;  // of the largest eigenvalue

// Somewhat above that a difference between two neighbours would still be multiplied too much: the bounded sum over the faces is better.
constexpr double poor_information = 0.2;

using Eigenvalues = Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>;

/// Inverse of a symmetric matrix; directions without information get no gradient.
SymmetricMat3 invert(const Eigenvalues& eigen) {
  Eigen::Vector3d values = eigen.eigenvalues();
  for (int i = 0; i < 3; ++i) values[i] = values[i] > least_information * eigen.eigenvalues()[2] ? 1 / values[i] : 0;
  const Eigen::Matrix3d r = eigen.eigenvectors() * values.asDiagonal() * eigen.eigenvectors().transpose();
  return {r(0, 0), r(0, 1), r(0, 2), r(1, 1), r(1, 2), r(2, 2)};
}

/// From the cell centre to its mirror image behind a slip plane.
Vec3 to_mirror(const FlowMesh::BoundaryFace& b) { return b.normal * (2 * b.height); }

}  // namespace

Gradients::Gradients(const FlowMesh& mesh, const std::vector<BoundaryCondition>& conditions)
    : mesh_(mesh), conditions_(conditions), at_layer_(cells_at_layers(mesh)), poor_(at(mesh.own), 0), velocity_(make(velocity)), pressure_(make(pressure)), scalar_(make(scalar)) {
  find_reach();
  find_thin();
}

void Gradients::find_thin() {
  const auto thin = [&](int c) { return by_gauss(at(c)); };
  for (int c = 0; c < mesh_.own; ++c)
    if (thin(c)) thin_cells_.push_back(c);
  for (std::size_t f = 0; f < mesh_.face.size(); ++f)
    if (thin(mesh_.below[f]) || thin(mesh_.above[f])) thin_faces_.push_back(static_cast<int>(f));
  patch_of_.resize(mesh_.boundary.size());
  for (std::size_t p = 0; p < mesh_.patches.size(); ++p)
    for (int i = mesh_.patches[p].first; i < mesh_.patches[p].first + mesh_.patches[p].count; ++i) {
      patch_of_[at(i)] = static_cast<int>(p);
      if (thin(mesh_.boundary[at(i)].cell)) thin_boundary_.push_back(i);
    }
}

template <class T, class G, class Value, class Outer>
void Gradients::in_thin_cells(const std::vector<T>& q, const Value& boundary, const Outer& outer, std::vector<G>& out) const {
  for (std::size_t c = 0; c < poor_.size(); ++c)
    if (poor_[c]) out[c] = G{};
  std::vector<T> outer_value(thin_boundary_.size());
  for (std::size_t k = 0; k < thin_boundary_.size(); ++k) outer_value[k] = boundary(thin_boundary_[k]);
  for (const int c : thin_cells_) out[at(c)] = G{};
  const auto thin = [&](std::size_t c) { return by_gauss(c); };
  for (const int f : thin_faces_) {
    const auto a = at(mesh_.below[at(f)]), b = at(mesh_.above[at(f)]);
    const FlowMesh::Face& face = mesh_.face[at(f)];
    const double w = face.lateral ? 0.5 : face.weight;
    const T value = q[a] * w + q[b] * (1 - w);
    if (thin(a)) out[a] += outer(value - q[a], face.area);
    if (thin(b)) out[b] += outer(value - q[b], -face.area);
  }
  for (std::size_t k = 0; k < thin_boundary_.size(); ++k) {
    const auto& b = mesh_.boundary[at(thin_boundary_[k])];
    out[at(b.cell)] += outer(outer_value[k] - q[at(b.cell)], b.area);
  }
  for (const int c : thin_cells_) out[at(c)] = out[at(c)] * (1 / mesh_.volume[at(c)]);
}

/// Own cells that are thin or have a thin neighbour.
std::vector<char> Gradients::cells_at_layers(const FlowMesh& mesh) {
  std::vector<char> out(at(mesh.own), 0);
  const auto thin = [&](int c) { return norm2(mesh.across[at(c)]) > 0; };
  for (std::size_t f = 0; f < mesh.face.size(); ++f)
    for (const int c : {mesh.below[f], mesh.above[f]})
      if (c < mesh.own && (thin(mesh.below[f]) || thin(mesh.above[f]))) out[at(c)] = 1;
  return out;
}

bool Gradients::has_value(BoundaryKind kind, Use use) const {
  if (use == velocity) return kind == BoundaryKind::stream || kind == BoundaryKind::wall;
  return use == pressure && kind == BoundaryKind::outflow;
}

LeastSquares Gradients::make(Use use) {
  std::vector<Eigen::Matrix3d> sum(at(mesh_.cells), Eigen::Matrix3d::Zero());
  const auto add = [&](int cell, const Vec3& d) {
    const Eigen::Vector3d e(d.x, d.y, d.z);
    sum[at(cell)] += e * e.transpose() / e.squaredNorm();
  };
  for (std::size_t f = 0; f < mesh_.face.size(); ++f) {
    const FlowMesh::Face& face = mesh_.face[f];
    for (const int c : {mesh_.below[f], mesh_.above[f]}) add(c, mesh_.along(face, at(c), face.d));
  }
  for (std::size_t p = 0; p < mesh_.patches.size(); ++p)
    for (int i = mesh_.patches[p].first; i < mesh_.patches[p].first + mesh_.patches[p].count; ++i) {
      const auto& b = mesh_.boundary[at(i)];
      if (conditions_[p].kind == BoundaryKind::slip) add(b.cell, to_mirror(b));
      else if (has_value(conditions_[p].kind, use)) add(b.cell, b.centre - mesh_.centre[at(b.cell)]);
    }
  LeastSquares ls;
  ls.inverse.resize(at(mesh_.own));
  for (int c = 0; c < mesh_.own; ++c) {
    const Eigenvalues eigen(sum[at(c)]);
    if (use == pressure && at_layer_[at(c)] && eigen.eigenvalues()[0] < poor_information * eigen.eigenvalues()[2]) poor_[at(c)] = 1;
    ls.inverse[at(c)] = invert(eigen);
    for (int i = 0; i < 3 && use == pressure; ++i)
      if (eigen.eigenvalues()[i] <= least_information * eigen.eigenvalues()[2]) {
        const Eigen::Vector3d across = eigen.eigenvectors().col(i);
        pinched_.push_back({c, {across.x(), across.y(), across.z()}});
      }
  }
  if (use == pressure) keep_between_walls(pinched_);
  return ls;
}

/// What a face sees of a neighbour's error: the sum, over all neighbours of a cell, of the share of their differences that its gradient
/// carries to the face. A half in a cube; with few or lopsided neighbours many times that, and the error grows from cell to cell
/// (simplices need wider stencils: Haider, Croisille, Courbet 2009). There convection takes only a share of it.
void Gradients::find_reach() {
  constexpr double most = 1.3;
  struct Way {
    Vec3 to_neighbour, to_face;
  };
  std::vector<std::vector<Way>> ways(at(mesh_.own));
  for (std::size_t f = 0; f < mesh_.face.size(); ++f)
    for (const int c : {mesh_.below[f], mesh_.above[f]}) {
      const FlowMesh::Face& face = mesh_.face[f];
      const Vec3 way = mesh_.along(face, at(c), face.d);
      if (c < mesh_.own) ways[at(c)].push_back({c == mesh_.below[f] ? way : -way, mesh_.along(face, at(c), face.centre - mesh_.centre[at(c)])});
    }
  for (std::size_t p = 0; p < mesh_.patches.size(); ++p)
    for (int i = mesh_.patches[p].first; i < mesh_.patches[p].first + mesh_.patches[p].count; ++i) {
      const auto& b = mesh_.boundary[at(i)];
      if (conditions_[p].kind == BoundaryKind::slip) ways[at(b.cell)].push_back({to_mirror(b), {}});
      else if (has_value(conditions_[p].kind, velocity)) ways[at(b.cell)].push_back({b.centre - mesh_.centre[at(b.cell)], {}});
    }
  reach_.assign(at(mesh_.cells), 1);
  parallel_for(ways.size(), [&](std::size_t c) {
    double worst = 0;
    for (const Way& face : ways[c]) {
      double sum = 0;
      for (const Way& k : ways[c]) sum += std::abs(dot(face.to_face, velocity_.inverse[c] * k.to_neighbour)) / norm2(k.to_neighbour);
      worst = std::max(worst, sum);
    }
    if (worst > most && norm2(mesh_.across[c]) == 0) reach_[c] = most / worst;
  }, 1024);
}

/// Only walls on both sides hold the air; a cell in the corner of wall and stream is left alone.
void Gradients::keep_between_walls(std::vector<PinchedCell>& candidates) const {
  constexpr double facing = 0.5;  // cosine between a wall's normal and the direction across
  std::vector<int> first(at(mesh_.own), -1);
  for (std::size_t i = candidates.size(); i-- > 0;) first[at(candidates[i].cell)] = static_cast<int>(i);
  std::vector<char> sides(candidates.size(), 0);
  for (std::size_t p = 0; p < mesh_.patches.size(); ++p) {
    if (conditions_[p].kind != BoundaryKind::wall) continue;
    for (int f = mesh_.patches[p].first; f < mesh_.patches[p].first + mesh_.patches[p].count; ++f) {
      const auto& b = mesh_.boundary[at(f)];
      if (first[at(b.cell)] < 0) continue;
      for (auto i = at(first[at(b.cell)]); i < candidates.size() && candidates[i].cell == b.cell; ++i) {
        const double cosine = dot(b.normal, candidates[i].across);
        if (cosine > facing) sides[i] |= 1;
        if (cosine < -facing) sides[i] |= 2;
      }
    }
  }
  std::size_t kept = 0;
  for (std::size_t i = 0; i < candidates.size(); ++i)
    if (sides[i] == 3) candidates[kept++] = candidates[i];
  candidates.resize(kept);
}

void Gradients::of_velocity(const std::vector<Vec3>& u, const std::vector<Vec3>& boundary_velocity, const std::vector<double>& wall_slope,
                            std::vector<Mat3>& out) const {
  std::fill(out.begin(), out.end(), Mat3{});
  const std::size_t nf = mesh_.face.size();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(mesh_.below[f]), b = at(mesh_.above[f]);
    const FlowMesh::Face& face = mesh_.face[f];
    const Vec3 du = u[b] - u[a];
    const auto add = [&](std::size_t c, const Vec3& d) {
      const Vec3 w = d * (1 / norm2(d));
      out[c] += Mat3{{w * du.x, w * du.y, w * du.z}};
    };
    add(a, mesh_.along(face, a, face.d)), add(b, mesh_.along(face, b, face.d));
  }
  for (std::size_t p = 0; p < mesh_.patches.size(); ++p) {
    const BoundaryKind kind = conditions_[p].kind;
    for (int i = mesh_.patches[p].first; i < mesh_.patches[p].first + mesh_.patches[p].count; ++i) {
      const auto& b = mesh_.boundary[at(i)];
      const Vec3& uc = u[at(b.cell)];
      Vec3 d, du;
      if (kind == BoundaryKind::slip) d = to_mirror(b), du = b.normal * (-2 * dot(b.normal, uc));
      else if (has_value(kind, velocity)) d = b.centre - mesh_.centre[at(b.cell)], du = boundary_velocity[at(i)] - uc;
      else continue;
      if (kind == BoundaryKind::wall) du = du * wall_slope[at(i)] + b.normal * (dot(b.normal, du) * (1 - wall_slope[at(i)]));
      const Vec3 w = d * (1 / norm2(d));
      out[at(b.cell)] += Mat3{{w * du.x, w * du.y, w * du.z}};
    }
  }
  for (std::size_t c = 0; c < at(mesh_.own); ++c) {
    const auto& inv = velocity_.inverse[c];
    for (Vec3& row : out[c].row) row = inv * row;
  }
  in_thin_cells(u, [&](int i) {
    const auto& b = mesh_.boundary[at(i)];
    const BoundaryKind kind = conditions_[at(patch_of_[at(i)])].kind;
    const Vec3& uc = u[at(b.cell)];
    if (kind == BoundaryKind::slip) return uc - b.normal * dot(b.normal, uc);
    if (!has_value(kind, velocity)) return uc + out[at(b.cell)] * (b.centre - mesh_.centre[at(b.cell)]);
    Vec3 du = boundary_velocity[at(i)] - uc;
    if (kind == BoundaryKind::wall) du = du * wall_slope[at(i)] + b.normal * (dot(b.normal, du) * (1 - wall_slope[at(i)]));
    return uc + du;
  }, [](const Vec3& d, const Vec3& s) { return Mat3{{s * d.x, s * d.y, s * d.z}}; }, out);
  for (const int c : held_) out[at(c)] = {};
}

void Gradients::scalar_gradient(const std::vector<double>& q, const LeastSquares& ls, bool outflow_zero, std::vector<Vec3>& out) const {
  std::fill(out.begin(), out.end(), Vec3{});
  const std::size_t nf = mesh_.face.size();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(mesh_.below[f]), b = at(mesh_.above[f]);
    const FlowMesh::Face& face = mesh_.face[f];
    for (const std::size_t c : {a, b}) {
      const Vec3 d = mesh_.along(face, c, face.d);
      out[c] += d * ((q[b] - q[a]) / norm2(d));
    }
  }
  if (outflow_zero)
    for (std::size_t p = 0; p < mesh_.patches.size(); ++p)
      if (conditions_[p].kind == BoundaryKind::outflow)
        for (int i = mesh_.patches[p].first; i < mesh_.patches[p].first + mesh_.patches[p].count; ++i) {
          const auto& b = mesh_.boundary[at(i)];
          const Vec3 d = b.centre - mesh_.centre[at(b.cell)];
          out[at(b.cell)] += d * (-q[at(b.cell)] / norm2(d));
        }
  // A mirror image has the same value: it adds nothing here, but stands in the matrix.
  for (std::size_t c = 0; c < at(mesh_.own); ++c) out[c] = ls.inverse[c] * out[c];
  in_thin_cells(q, [&](int i) {
    const bool zero = outflow_zero && conditions_[at(patch_of_[at(i)])].kind == BoundaryKind::outflow;
    const auto& b = mesh_.boundary[at(i)];
    return zero ? 0.0 : q[at(b.cell)] + dot(out[at(b.cell)], b.centre - mesh_.centre[at(b.cell)]);
  }, [](double d, const Vec3& s) { return s * d; }, out);
  for (const int c : held_) out[at(c)] = {};
}

void Gradients::hold(int cell) {
  if (std::find(held_.begin(), held_.end(), cell) == held_.end()) held_.push_back(cell);
}

void Gradients::of_pressure(const std::vector<double>& p, std::vector<Vec3>& out) const { scalar_gradient(p, pressure_, true, out); }
void Gradients::of_scalar(const std::vector<double>& q, std::vector<Vec3>& out) const { scalar_gradient(q, scalar_, false, out); }

}  // namespace dunefield
