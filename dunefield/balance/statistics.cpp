#include <dunefield/balance/statistics.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace dunefield {

WindowMean window_mean(std::span<const double> v) {
  WindowMean w;
  w.count = static_cast<int>(v.size());
  if (v.empty()) return w;
  w.mean = std::accumulate(v.begin(), v.end(), 0.0) / w.count;
  w.least = *std::min_element(v.begin(), v.end());
  w.most = *std::max_element(v.begin(), v.end());
  constexpr int batches = 5;
  constexpr double student = 2.776;  // 97.5 % point of Student's t for 4 degrees of freedom
  const std::size_t length = v.size() / batches;
  if (length == 0) return w.half_interval = w.most - w.least, w;
  double sum = 0;
  for (int b = 0; b < batches; ++b) {
    const auto first = v.end() - static_cast<std::ptrdiff_t>(length) * (batches - b);
    const double mean = std::accumulate(first, first + static_cast<std::ptrdiff_t>(length), 0.0) / static_cast<double>(length);
    sum += (mean - w.mean) * (mean - w.mean);
  }
  w.half_interval = student * std::sqrt(sum / (batches - 1) / batches);
  return w;
}

}  // namespace dunefield
