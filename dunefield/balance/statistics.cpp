#include <dunefield/balance/statistics.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

namespace dunefield {
namespace {

double mean_of(std::span<const double> v) {
  return std::accumulate(v.begin(), v.end(), 0.0) / static_cast<double>(v.size());
}

/// Sum of the autocorrelations of deviations from their mean, both ways, until they are lost in the
/// noise.
double memory_of(std::span<const double> deviations) {
  constexpr double none = 0.05;
  const std::size_t n = deviations.size();
  const auto covariance = [&](std::size_t lag) {
    return std::inner_product(deviations.begin(),
                              deviations.end() - static_cast<std::ptrdiff_t>(lag),
                              deviations.begin() + static_cast<std::ptrdiff_t>(lag), 0.0);
  };
  const double at_once = covariance(0);
  double sum = 1;
  for (std::size_t lag = 1; lag < n / 2; ++lag) {
    const double c = covariance(lag) / at_once;
    if (c < none) break;
    sum += 2 * c;
  }
  return sum;
}

}  // namespace

double student_t(double nu) {
  constexpr double z = 1.959964, z2 = z * z;
  const double g1 = z * (z2 + 1) / 4, g2 = z * ((5 * z2 + 16) * z2 + 3) / 96,
               g3 = z * (((3 * z2 + 19) * z2 + 17) * z2 - 15) / 384,
               g4 = z * ((((79 * z2 + 776) * z2 + 1482) * z2 - 1920) * z2 - 945) / 92160;
  return z + (g1 + (g2 + (g3 + g4 / nu) / nu) / nu) / nu;
}

WindowMean window_mean(std::span<const double> v, double least_memory) {
  WindowMean w;
  w.count = static_cast<int>(v.size());
  if (v.empty()) return w;
  w.mean = mean_of(v);
  w.least = *std::min_element(v.begin(), v.end());
  w.most = *std::max_element(v.begin(), v.end());
  std::vector<double> deviations(v.begin(), v.end());
  double squares = 0;
  for (double& d : deviations) d -= w.mean, squares += d * d;
  if (!(squares > 0)) return w;
  const auto n = static_cast<double>(v.size());
  w.memory = std::max(least_memory, memory_of(deviations));
  // Deviations are from the values' own mean, which takes one from them.
  w.deviation = std::sqrt(squares / (n - std::min(w.memory, n / 2)));
  // With fewer than two values' worth there is no telling; the range is what is known.
  if (n < 2 * w.memory) return w.half_interval = w.most - w.least, w;
  w.half_interval = student_t(n / w.memory - 1) * w.deviation * std::sqrt(w.memory / n);
  return w;
}

}  // namespace dunefield
