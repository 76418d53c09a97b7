#include <dunefield/flow/turbulence/curvature.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

// Smirnov and Menter 2009, equations 3 to 10.
constexpr double c1 = 1, c2 = 2, c3 = 1, most = 1.25;

/// xx, yy, zz, xy, xz, yz
using Symmetric = std::array<double, 6>;

Symmetric strain_of(const Mat3& g) {
  return {g.row[0].x,
          g.row[1].y,
          g.row[2].z,
          0.5 * (g.row[0].y + g.row[1].x),
          0.5 * (g.row[0].z + g.row[2].x),
          0.5 * (g.row[1].z + g.row[2].y)};
}

/// Omega_ik S_jk R_ij, Omega the antisymmetric part of the gradient, S and R symmetric.
double turning(const Mat3& g, const Symmetric& s, const Symmetric& rate) {
  constexpr int place[3][3] = {{0, 3, 4}, {3, 1, 5}, {4, 5, 2}};
  double sum = 0;
  for (int i = 0; i < 3; ++i)
    for (int k = 0; k < 3; ++k) {
      const double spin = 0.5 * (g.row[i][k] - g.row[k][i]);
      for (int j = 0; j < 3; ++j) sum += spin * s[at(place[j][k])] * rate[at(place[i][j])];
    }
  return sum;
}

double correction(double strain, double spin, double strain_turns) {
  const double ratio = strain / std::max(spin, 1e-300);
  const double f =
      (1 + c1) * 2 * ratio / (1 + ratio) * (1 - c3 * std::atan(c2 * strain_turns)) - c1;
  return std::clamp(f, 0.0, most);
}

}  // namespace

CurvatureCorrection::CurvatureCorrection(const FlowState& s)
    : factor_(at(s.mesh.own), 1.0), convected_(at(s.mesh.cells)) {}

/// What a cell's air meets along its way: the sum over its faces of flux times the strain there,
/// less its own. Nothing comes from the boundaries, where the strain beyond is not known.
void CurvatureCorrection::update(const FlowState& s, const std::vector<double>& strain2) {
  const FlowMesh& m = s.mesh;
  std::fill(convected_.begin(), convected_.end(), Symmetric{});
  for (std::size_t f = 0; f < m.faces(); ++f) {
    const std::size_t a = at(m.below[f]), b = at(m.above[f]);
    const double w = m.weight[f];
    const Symmetric in_a = strain_of(s.grad_u[a]), in_b = strain_of(s.grad_u[b]);
    for (std::size_t i = 0; i < 6; ++i) {
      const double difference = s.flux[f] * (in_b[i] - in_a[i]);
      convected_[a][i] += (1 - w) * difference, convected_[b][i] += w * difference;
    }
  }
  for (std::size_t c = 0; c < at(m.own); ++c) {
    const Mat3& g = s.grad_u[c];
    const Vec3 rotation{g.row[2].y - g.row[1].z, g.row[0].z - g.row[2].x, g.row[1].x - g.row[0].y};
    const double spin = norm(rotation), strain = std::sqrt(strain2[c]);
    const double d2 = std::max(strain2[c], 0.09 * s.omega[c] * s.omega[c]);
    const double turns = 2 * turning(g, strain_of(g), convected_[c]) / m.volume[c];
    const double scale = spin * d2 * std::sqrt(d2);
    factor_[c] = scale > 0 ? correction(strain, spin, turns / scale) : 1;
  }
}

}  // namespace dunefield
