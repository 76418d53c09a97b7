// Convection and diffusion of a quantity that cannot be negative, through one face.
#pragma once

#include <algorithm>
#include <cmath>

#include <dunefield/flow/flow_mesh.hpp>

namespace dunefield {

/// A face between two cells, as convection and diffusion of a quantity see it.
struct TransportFace {
  std::size_t a, b, up;  ///< cells below, above, upwind
  double phi, w;         ///< flux; weight of a
  double out_a, out_b;   ///< flux out of each, 0 or more
  double reach;          ///< of the line of centres, from the upwind cell to the face, signed
  double g;
  Vec3 line, aside_a, aside_b;

  TransportFace(const FlowMesh& m, std::size_t f, double flux)
      : a(at(m.below[f])),
        b(at(m.above[f])),
        up(flux >= 0 ? a : b),
        phi(flux),
        w(m.weight[f]),
        out_a(std::max(flux, 0.0)),
        out_b(std::max(-flux, 0.0)),
        reach(flux >= 0 ? 1 - w : -w),
        g(m.g[f]) {
    const Vec3 d = m.between(f), aside = m.area[f] - d * g;
    // Out of a thin cell through its top or bottom, the slope behind the cell would be that of the
    // steep profile at the wall, extrapolated: k or omega of single cells then flips between two
    // values in each iteration. Little is carried there; diffusion rules.
    if (!m.lateral[f] && norm2(m.across[up]) > 0) reach = 0;
    line = m.along(f, up, d), aside_a = m.along(f, a, aside), aside_b = m.along(f, b, aside);
  }

  struct Carried {
    double into_a, into_b;  ///< second order, in delta form
    double diffusion;       ///< coefficient of the difference
  };
  /// @param slope of the quantity across the face over that of a straight line between the cells
  Carried carried(const std::vector<double>& q, const std::vector<Vec3>& grad,
                  const std::vector<double>& gamma, double slope = 1) const {
    const double ahead = q[b] - q[a];
    double behind = 2 * dot(grad[up], line) - ahead;
    // The value as far behind as the neighbour is ahead was not negative either.
    behind = up == a ? std::min(behind, q[a]) : std::max(behind, -q[b]);
    const double qf = q[up] + reach * smooth_slope(behind, ahead);
    const double mu = (w * gamma[a] + (1 - w) * gamma[b]) * slope, diffusion = mu * g;
    const double across = mu * (w * dot(grad[a], aside_a) + (1 - w) * dot(grad[b], aside_b));
    const double gradient = diffusion * ahead + std::clamp(across, -most_taken * diffusion * q[a],
                                                           most_taken * diffusion * q[b]);
    return {gradient - phi * (qf - q[a]), phi * (qf - q[b]) - gradient, diffusion};
  }

  /// The slope of a quantity that falls like the inverse square of the wall distance: its inverse
  /// root is linear there. A straight line would carry two thirds too much from the first cell to
  /// the second.
  double slope_of_inverse_square(const std::vector<double>& q) const {
    constexpr double even = 0.2;  // closer than that a straight line does
    if (std::abs(q[a] - q[b]) < even * std::min(q[a], q[b])) return 1;
    const double ga = 1 / std::sqrt(q[a]), gb = 1 / std::sqrt(q[b]),
                 at_face = w * ga + (1 - w) * gb;
    return 2 * ga * ga * gb * gb / (at_face * at_face * at_face * (ga + gb));
  }

 private:
  // Of what diffusion alone takes from a cell into empty neighbours. If the correction for oblique
  // faces took more, it would empty cells next to walls, where omega falls by its own size from
  // cell to cell.
  static constexpr double most_taken = 0.5;

  /// Smooth mean of two neighbouring slopes that vanishes at an extremum (van Albada, van Leer,
  /// Roberts 1982): without it second-order upwinding empties cells in which k is at a minimum.
  static double smooth_slope(double behind, double ahead) {
    if (behind * ahead <= 0) return 0;
    const double b2 = behind * behind, a2 = ahead * ahead;
    return (behind * a2 + ahead * b2) / (a2 + b2);
  }
};

}  // namespace dunefield
