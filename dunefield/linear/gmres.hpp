// Flexible GMRES (Saad 1993) with restarts that remember what the last ones changed (Baker, Jessup,
// Manteuffel 2005), for vectors of any kind.
#pragma once

#include <cmath>
#include <deque>
#include <vector>

namespace dunefield {

struct GmresReport {
  int iterations = 0;
  double reduction = 1;  ///< norm of the residual over that of the right-hand side
};

/// Solves A x = b from x as it is. A vector type needs `dot(a, b)`, `add(a, factor, b)` and a copy.
/// @param apply gives A v
/// @param precondition gives about A^-1 v; may differ from call to call
/// @param proceed is told the reduction after each iteration; false stops
template <class Vector, class Apply, class Precondition, class Proceed>
GmresReport gmres(const Apply& apply, const Precondition& precondition, const Vector& b, Vector& x,
                  double reduction, int most_iterations, int kept, const Proceed& proceed) {
  GmresReport report;
  const double size = std::sqrt(dot(b, b));
  if (!(size > 0)) return {0, 0};
  const std::size_t m = static_cast<std::size_t>(kept);
  bool stopped = false;
  constexpr std::size_t remembered = 3;
  std::deque<Vector> changes;
  while (report.iterations < most_iterations && !stopped) {
    Vector r = apply(x);
    add(r, -2, r);  // -A x
    add(r, 1, b);
    const double beta = std::sqrt(dot(r, r));
    report.reduction = beta / size;
    if (report.reduction < reduction || !std::isfinite(beta)) break;
    add(r, 1 / beta - 1, r);
    std::vector<Vector> v = {std::move(r)}, z;
    std::vector<std::vector<double>> h;  // columns, turned to a triangle as they come
    std::vector<double> cosine, sine, g = {beta};
    for (std::size_t j = 0; j < m && report.iterations < most_iterations; ++j) {
      ++report.iterations;
      const bool old = j + changes.size() >= m;
      z.push_back(old ? changes[j + changes.size() - m] : precondition(v[j]));
      Vector w = apply(z[j]);
      std::vector<double> column(j + 2);
      for (std::size_t i = 0; i <= j; ++i) column[i] = dot(w, v[i]), add(w, -column[i], v[i]);
      column[j + 1] = std::sqrt(dot(w, w));
      const double next = column[j + 1];
      for (std::size_t i = 0; i < j; ++i) {  // Givens rotations of before
        const double upper = cosine[i] * column[i] + sine[i] * column[i + 1];
        column[i + 1] = cosine[i] * column[i + 1] - sine[i] * column[i], column[i] = upper;
      }
      const double length = std::hypot(column[j], column[j + 1]);
      cosine.push_back(column[j] / length), sine.push_back(column[j + 1] / length);
      column[j] = length;
      g.push_back(-sine[j] * g[j]), g[j] *= cosine[j];
      h.push_back(std::move(column));
      report.reduction = std::abs(g[j + 1]) / size;
      stopped = !proceed(report);
      if (stopped || report.reduction < reduction || !(next > 0)) break;
      add(w, 1 / next - 1, w);
      v.push_back(std::move(w));
    }
    std::vector<double> y(h.size());
    for (std::size_t i = h.size(); i-- > 0;) {
      y[i] = g[i];
      for (std::size_t k = i + 1; k < h.size(); ++k) y[i] -= h[k][i] * y[k];
      y[i] /= h[i][i];
    }
    Vector change = z[0];
    add(change, y[0] - 1, change);
    for (std::size_t i = 1; i < h.size(); ++i) add(change, y[i], z[i]);
    add(x, 1, change);
    const double length = std::sqrt(dot(change, change));
    if (length > 0) add(change, 1 / length - 1, change);
    if (changes.size() == remembered) changes.pop_front();
    changes.push_back(std::move(change));
    if (report.reduction < reduction) break;
  }
  return report;
}

}  // namespace dunefield
