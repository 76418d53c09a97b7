#include <dunefield/balance/statistics.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

namespace dunefield {

namespace {

struct Batching {
  int count;
  /// 97.5 % point of Student's t for one degree of freedom less than there are batches
  double student;
};
/// Few batches are long enough to be independent of each other, many tell their variance better: no
/// one number does for swings of every length.
constexpr Batching batchings[] = {{5, 2.776}, {6, 2.571}, {8, 2.365}};

double half_interval_by(const Batching& batches, std::span<const double> v, double period) {
  std::size_t length = v.size() / static_cast<std::size_t>(batches.count);
  if (period >= 1 && static_cast<double>(length) >= period)
    length = static_cast<std::size_t>(std::floor(static_cast<double>(length) / period) * period);
  std::vector<double> means;
  for (std::size_t rest = length * static_cast<std::size_t>(batches.count); rest > 0;
       rest -= length) {
    const auto batch = v.last(rest).first(length);
    means.push_back(std::accumulate(batch.begin(), batch.end(), 0.0) / static_cast<double>(length));
  }
  const double mean = std::accumulate(means.begin(), means.end(), 0.0) / batches.count;
  double sum = 0;
  for (const double m : means) sum += (m - mean) * (m - mean);
  return batches.student * std::sqrt(sum / (batches.count - 1) / batches.count);
}

}  // namespace

WindowMean window_mean(std::span<const double> v, double period) {
  WindowMean w;
  w.count = static_cast<int>(v.size());
  if (v.empty()) return w;
  w.mean = std::accumulate(v.begin(), v.end(), 0.0) / w.count;
  w.least = *std::min_element(v.begin(), v.end());
  w.most = *std::max_element(v.begin(), v.end());
  if (w.count < batchings[0].count) return w.half_interval = w.most - w.least, w;
  for (const Batching& b : batchings)
    if (b.count == batchings[0].count || w.count >= b.count * std::max(1.0, period))
      w.half_interval = std::max(w.half_interval, half_interval_by(b, v, period));
  return w;
}

}  // namespace dunefield
