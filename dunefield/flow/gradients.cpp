#include <dunefield/flow/gradients.hpp>

#include <algorithm>
#include <numeric>

#include <Eigen/Dense>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

// With unit direction vectors a whole cell has eigenvalues near 2, one at a wall near 1. In a gap
// one cell wide the neighbours lie almost in one plane: across it nothing is known, and what
// rounding says would be amplified.
constexpr double least_information = 0.05;  // of the largest eigenvalue

// Somewhat above that a difference between two neighbours would still be multiplied too much: the
// bounded sum over the faces is better.
constexpr double poor_information = 0.2;

using Eigenvalues = Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>;

Eigenvalues eigen_of(const SymmetricMat3& m) {
  Eigen::Matrix3d dense;
  dense << m.xx, m.xy, m.xz, m.xy, m.yy, m.yz, m.xz, m.yz, m.zz;
  return Eigenvalues(dense);
}

/// Inverse of a symmetric matrix; directions without information get no gradient.
SymmetricMat3 invert(const Eigenvalues& eigen) {
  Eigen::Vector3d values = eigen.eigenvalues();
  for (int i = 0; i < 3; ++i)
    values[i] = values[i] > least_information * eigen.eigenvalues()[2] ? 1 / values[i] : 0;
  const Eigen::Matrix3d r =
      eigen.eigenvectors() * values.asDiagonal() * eigen.eigenvectors().transpose();
  return {r(0, 0), r(0, 1), r(0, 2), r(1, 1), r(1, 2), r(2, 2)};
}

/// From the cell centre to its mirror image behind a slip plane.
Vec3 to_mirror(const FlowMesh::BoundaryFace& b) { return b.normal * (2 * b.height); }

}  // namespace

Gradients::Gradients(const FlowMesh& mesh, const std::vector<BoundaryCondition>& conditions)
    : mesh_(mesh),
      conditions_(conditions),
      at_layer_(cells_at_layers(mesh)),
      poor_(at(mesh.own), 0),
      boundary_of_(mesh.boundary_faces.size()) {
  for (std::size_t p = 0; p < mesh.boundaries.size(); ++p)
    std::fill_n(boundary_of_.begin() + mesh.boundaries[p].first, mesh.boundaries[p].count,
                static_cast<int>(p));
  make_inverses();
  find_reach();
  find_thin();
}

void Gradients::find_thin() {
  const auto thin = [&](int c) { return by_gauss(at(c)); };
  for (int c = 0; c < mesh_.own; ++c)
    if (thin(c)) thin_cells_.push_back(c);
  for (std::size_t f = 0; f < mesh_.faces(); ++f)
    if (thin(mesh_.below[f]) || thin(mesh_.above[f]))
      thin_faces_.push_back({static_cast<int>(f), thin(mesh_.below[f]), thin(mesh_.above[f])});
  for (std::size_t i = 0; i < mesh_.boundary_faces.size(); ++i)
    if (thin(mesh_.boundary_faces[i].cell)) thin_boundary_.push_back(static_cast<int>(i));
}

template <class T, class G, class Value, class Outer>
void Gradients::in_thin_cells(const std::vector<T>& q, const Value& boundary, const Outer& outer,
                              std::vector<G>& out) const {
  for (std::size_t c = 0; c < poor_.size(); ++c)
    if (poor_[c]) out[c] = G{};
  std::vector<T> outer_value(thin_boundary_.size());
  for (std::size_t k = 0; k < thin_boundary_.size(); ++k)
    outer_value[k] = boundary(thin_boundary_[k]);
  for (const int c : thin_cells_) out[at(c)] = G{};
  for (const ThinFace& t : thin_faces_) {
    const auto f = at(t.face), a = at(mesh_.below[f]), b = at(mesh_.above[f]);
    const double w = mesh_.lateral[f] ? 0.5 : mesh_.weight[f];
    const T value = q[a] * w + q[b] * (1 - w);
    if (t.below) out[a] += outer(value - q[a], mesh_.area[f]);
    if (t.above) out[b] += outer(value - q[b], -mesh_.area[f]);
  }
  for (std::size_t k = 0; k < thin_boundary_.size(); ++k) {
    const auto& b = mesh_.boundary_faces[at(thin_boundary_[k])];
    out[at(b.cell)] += outer(outer_value[k] - q[at(b.cell)], b.area);
  }
  for (const int c : thin_cells_) out[at(c)] = out[at(c)] * (1 / mesh_.volume[at(c)]);
}

/// Own cells that are thin or have a thin neighbour.
std::vector<char> Gradients::cells_at_layers(const FlowMesh& mesh) {
  std::vector<char> out(at(mesh.own), 0);
  const auto thin = [&](int c) { return norm2(mesh.across[at(c)]) > 0; };
  for (std::size_t f = 0; f < mesh.faces(); ++f)
    for (const int c : {mesh.below[f], mesh.above[f]})
      if (c < mesh.own && (thin(mesh.below[f]) || thin(mesh.above[f]))) out[at(c)] = 1;
  return out;
}

bool Gradients::has_value(ConditionKind kind, Use use) const {
  if (use == velocity) return kind == ConditionKind::stream || kind == ConditionKind::wall;
  return use == pressure && kind == ConditionKind::outflow;
}

std::vector<SymmetricMat3> Gradients::information(Use use) const {
  std::vector<SymmetricMat3> sum(at(mesh_.cells));
  const auto add = [&](std::size_t cell, const Vec3& d) { sum[cell].add_square(d, 1 / norm2(d)); };
  for (std::size_t f = 0; f < mesh_.faces(); ++f)
    for (const int c : {mesh_.below[f], mesh_.above[f]})
      add(at(c), mesh_.along(f, at(c), mesh_.between(f)));
  for (std::size_t p = 0; p < mesh_.boundaries.size(); ++p)
    for (int i = mesh_.boundaries[p].first;
         i < mesh_.boundaries[p].first + mesh_.boundaries[p].count; ++i) {
      const auto& b = mesh_.boundary_faces[at(i)];
      if (conditions_[p].kind == ConditionKind::slip)
        add(at(b.cell), to_mirror(b));
      else if (has_value(conditions_[p].kind, use))
        add(at(b.cell), b.centre - mesh_.centre[at(b.cell)]);
    }
  return sum;
}

Gradients::AtBoundary Gradients::at_boundary(Use use,
                                             const std::vector<SymmetricMat3>& sums) const {
  AtBoundary out;
  for (std::size_t p = 0; p < mesh_.boundaries.size(); ++p)
    if (has_value(conditions_[p].kind, use))
      for (int i = mesh_.boundaries[p].first;
           i < mesh_.boundaries[p].first + mesh_.boundaries[p].count; ++i)
        out.cells.push_back(mesh_.boundary_faces[at(i)].cell);
  std::sort(out.cells.begin(), out.cells.end());
  out.cells.erase(std::unique(out.cells.begin(), out.cells.end()), out.cells.end());
  for (const int c : out.cells) out.inverse.push_back(invert(eigen_of(sums[at(c)])));
  return out;
}

void Gradients::make_inverses() {
  velocity_ = at_boundary(velocity, information(velocity));
  inverse_ = information(scalar);
  const std::vector<SymmetricMat3> of_pressure = information(pressure);
  pressure_ = at_boundary(pressure, of_pressure);
  for (int c = 0; c < mesh_.own; ++c) {
    const Eigenvalues eigen = eigen_of(of_pressure[at(c)]);
    if (at_layer_[at(c)] && eigen.eigenvalues()[0] < poor_information * eigen.eigenvalues()[2])
      poor_[at(c)] = 1;
    for (int i = 0; i < 3; ++i)
      if (eigen.eigenvalues()[i] <= least_information * eigen.eigenvalues()[2]) {
        const Eigen::Vector3d across = eigen.eigenvectors().col(i);
        pinched_.push_back({c, {across.x(), across.y(), across.z()}});
      }
  }
  keep_between_walls(pinched_);
  inverse_.resize(at(mesh_.own));
  parallel_for(
      inverse_.size(), [&](std::size_t c) { inverse_[c] = invert(eigen_of(inverse_[c])); }, 4096);
}

/// What a face sees of a neighbour's error: the sum, over all neighbours of a cell, of the share of
/// their differences that its gradient carries to the face. A half in a cube; with few or lopsided
/// neighbours many times that, and the error grows from cell to cell (simplices need wider
/// stencils: Haider, Croisille, Courbet 2009). There convection takes only a share of it.
void Gradients::find_reach() {
  constexpr double most = 1.3;  // a cube has 0.5; chosen by bench/mesh_needs
  struct Way {
    Vec3 to_neighbour, to_face;
  };
  const Graph& g = mesh_.graph;
  std::vector<int> face_of(at(g.entries()) + 1), first_boundary(at(mesh_.own) + 1, 0),
      boundary_of(mesh_.boundary_faces.size());
  for (std::size_t f = 0; f < mesh_.faces(); ++f)
    for (const int k : {mesh_.slots.of_below[f], mesh_.slots.of_above[f]})
      face_of[at(k)] = static_cast<int>(f);
  for (const auto& b : mesh_.boundary_faces) ++first_boundary[at(b.cell) + 1];
  std::partial_sum(first_boundary.begin(), first_boundary.end(), first_boundary.begin());
  std::vector<int> next(first_boundary.begin(), first_boundary.end() - 1);
  for (std::size_t i = 0; i < mesh_.boundary_faces.size(); ++i)
    boundary_of[at(next[at(mesh_.boundary_faces[i].cell)]++)] = static_cast<int>(i);

  const auto ways_of = [&](std::size_t c, std::vector<Way>& ways) {
    ways.clear();
    for (int k = g.start[c]; k < g.start[c + 1]; ++k) {
      const auto f = at(face_of[at(k)]);
      const bool is_below = at(mesh_.below[f]) == c;
      const double w = mesh_.weight[f];
      const Vec3 d = mesh_.between(f), way = mesh_.along(f, c, d);
      ways.push_back(
          {is_below ? way : -way, mesh_.along(f, c, mesh_.skew[f] + d * (is_below ? 1 - w : -w))});
    }
    for (int k = first_boundary[c]; k < first_boundary[c + 1]; ++k) {
      const auto i = at(boundary_of[at(k)]);
      const ConditionKind kind = conditions_[at(boundary_of_[i])].kind;
      if (kind == ConditionKind::slip)
        ways.push_back({to_mirror(mesh_.boundary_faces[i]), {}});
      else if (has_value(kind, velocity))
        ways.push_back({mesh_.boundary_faces[i].centre - mesh_.centre[c], {}});
    }
  };
  reach_.assign(at(mesh_.cells), 1);
  std::vector<Way> ways;
  for_inverses(velocity_, [&](std::size_t c, const SymmetricMat3& inverse) {
    if (norm2(mesh_.across[c]) > 0) return;
    ways_of(c, ways);
    double worst = 0;
    for (const Way& face : ways) {
      const Vec3 seen = inverse * face.to_face;
      double sum = 0;
      for (const Way& k : ways) sum += std::abs(dot(seen, k.to_neighbour)) / norm2(k.to_neighbour);
      worst = std::max(worst, sum);
    }
    if (worst > most) reach_[c] = most / worst;
  });
}

/// Only walls on both sides hold the air; a cell in the corner of wall and stream is left alone.
void Gradients::keep_between_walls(std::vector<PinchedCell>& candidates) const {
  constexpr double facing = 0.5;  // cosine between a wall's normal and the direction across
  std::vector<int> first(at(mesh_.own), -1);
  for (std::size_t i = candidates.size(); i-- > 0;)
    first[at(candidates[i].cell)] = static_cast<int>(i);
  std::vector<char> sides(candidates.size(), 0);
  for (std::size_t p = 0; p < mesh_.boundaries.size(); ++p) {
    if (conditions_[p].kind != ConditionKind::wall) continue;
    for (int f = mesh_.boundaries[p].first;
         f < mesh_.boundaries[p].first + mesh_.boundaries[p].count; ++f) {
      const auto& b = mesh_.boundary_faces[at(f)];
      if (first[at(b.cell)] < 0) continue;
      for (auto i = at(first[at(b.cell)]); i < candidates.size() && candidates[i].cell == b.cell;
           ++i) {
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

void Gradients::of_velocity(const std::vector<Vec3>& u, const std::vector<Vec3>& boundary_velocity,
                            const std::vector<double>& wall_slope, std::vector<Mat3>& out) const {
  std::fill(out.begin(), out.end(), Mat3{});
  const std::size_t nf = mesh_.faces();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(mesh_.below[f]), b = at(mesh_.above[f]);
    const Vec3 du = u[b] - u[a];
    const auto part = [&](const Vec3& d) {
      const Vec3 w = d * (1 / norm2(d));
      return Mat3{{w * du.x, w * du.y, w * du.z}};
    };
    const Mat3 in_a = part(mesh_.along(f, a, mesh_.between(f)));
    out[a] += in_a;
    out[b] += mesh_.lateral[f] ? part(mesh_.along(f, b, mesh_.between(f))) : in_a;
  }
  for (std::size_t p = 0; p < mesh_.boundaries.size(); ++p) {
    const ConditionKind kind = conditions_[p].kind;
    for (int i = mesh_.boundaries[p].first;
         i < mesh_.boundaries[p].first + mesh_.boundaries[p].count; ++i) {
      const auto& b = mesh_.boundary_faces[at(i)];
      const Vec3& uc = u[at(b.cell)];
      Vec3 d, du;
      if (kind == ConditionKind::slip)
        d = to_mirror(b), du = b.normal * (-2 * dot(b.normal, uc));
      else if (has_value(kind, velocity))
        d = b.centre - mesh_.centre[at(b.cell)], du = boundary_velocity[at(i)] - uc;
      else
        continue;
      if (kind == ConditionKind::wall)
        du = du * wall_slope[at(i)] + b.normal * (dot(b.normal, du) * (1 - wall_slope[at(i)]));
      const Vec3 w = d * (1 / norm2(d));
      out[at(b.cell)] += Mat3{{w * du.x, w * du.y, w * du.z}};
    }
  }
  for_inverses(velocity_, [&](std::size_t c, const SymmetricMat3& inverse) {
    for (Vec3& row : out[c].row) row = inverse * row;
  });
  in_thin_cells(
      u,
      [&](int i) {
        const auto& b = mesh_.boundary_faces[at(i)];
        const ConditionKind kind = conditions_[at(boundary_of_[at(i)])].kind;
        const Vec3& uc = u[at(b.cell)];
        if (kind == ConditionKind::slip) return uc - b.normal * dot(b.normal, uc);
        if (!has_value(kind, velocity))
          return uc + out[at(b.cell)] * (b.centre - mesh_.centre[at(b.cell)]);
        Vec3 du = boundary_velocity[at(i)] - uc;
        if (kind == ConditionKind::wall)
          du = du * wall_slope[at(i)] + b.normal * (dot(b.normal, du) * (1 - wall_slope[at(i)]));
        return uc + du;
      },
      [](const Vec3& d, const Vec3& s) {
        return Mat3{{s * d.x, s * d.y, s * d.z}};
      },
      out);
  for (const auto& [c, share] : limited_) out[at(c)] = out[at(c)] * (1 - share);
}

template <std::size_t N>
void Gradients::scalar_gradients(const Scalars<N>& q, const AtBoundary& special, bool outflow_given,
                                 const Outputs<N>& out) const {
  for (auto* o : out) std::fill(o->begin(), o->end(), Vec3{});
  const std::size_t nf = mesh_.faces();
  for (std::size_t f = 0; f < nf; ++f) {
    const auto a = at(mesh_.below[f]), b = at(mesh_.above[f]);
    const auto over_square = [](const Vec3& d) { return d * (1 / norm2(d)); };
    const Vec3 in_a = over_square(mesh_.along(f, a, mesh_.between(f)));
    const Vec3 in_b = mesh_.lateral[f] ? over_square(mesh_.along(f, b, mesh_.between(f))) : in_a;
    for (std::size_t i = 0; i < N; ++i) {
      const double difference = (*q[i])[b] - (*q[i])[a];
      (*out[i])[a] += in_a * difference, (*out[i])[b] += in_b * difference;
    }
  }
  if (outflow_given)
    for (std::size_t p = 0; p < mesh_.boundaries.size(); ++p)
      if (conditions_[p].kind == ConditionKind::outflow)
        for (int i = mesh_.boundaries[p].first;
             i < mesh_.boundaries[p].first + mesh_.boundaries[p].count; ++i) {
          const auto& b = mesh_.boundary_faces[at(i)];
          const Vec3 d = b.centre - mesh_.centre[at(b.cell)];
          for (std::size_t k = 0; k < N; ++k)
            (*out[k])[at(b.cell)] +=
                d * ((conditions_[p].pressure - (*q[k])[at(b.cell)]) / norm2(d));
        }
  // A mirror image has the same value: it adds nothing here, but stands in the matrix.
  for_inverses(special, [&](std::size_t c, const SymmetricMat3& inverse) {
    for (auto* o : out) (*o)[c] = inverse * (*o)[c];
  });
  for (std::size_t k = 0; k < N; ++k) {
    const std::vector<double>& value = *q[k];
    std::vector<Vec3>& gradient = *out[k];
    in_thin_cells(
        value,
        [&](int i) {
          const BoundaryCondition& bc = conditions_[at(boundary_of_[at(i)])];
          const auto& b = mesh_.boundary_faces[at(i)];
          return outflow_given && bc.kind == ConditionKind::outflow
                     ? bc.pressure
                     : value[at(b.cell)] +
                           dot(gradient[at(b.cell)], b.centre - mesh_.centre[at(b.cell)]);
        },
        [](double d, const Vec3& s) { return s * d; }, gradient);
    for (const auto& [c, share] : limited_) gradient[at(c)] = gradient[at(c)] * (1 - share);
  }
}

void Gradients::of_pressure(const std::vector<double>& p, std::vector<Vec3>& out) const {
  scalar_gradients<1>({&p}, pressure_, true, {&out});
}
template <std::size_t N>
void Gradients::of_scalars(const Scalars<N>& quantities, const Outputs<N>& out) const {
  scalar_gradients<N>(quantities, {}, false, out);
}
template void Gradients::of_scalars<1>(const Scalars<1>&, const Outputs<1>&) const;
template void Gradients::of_scalars<2>(const Scalars<2>&, const Outputs<2>&) const;

}  // namespace dunefield
