#include <dunefield/balance/spectrum.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr std::size_t fewest = 16;

/// Adds the periodogram of one piece, less its mean.
void add_piece(std::span<const double> piece, double step, std::vector<double>& density) {
  const std::size_t n = piece.size();
  double mean = 0, squares = 0;
  for (const double v : piece) mean += v / static_cast<double>(n);
  std::vector<double> windowed(n);
  for (std::size_t i = 0; i < n; ++i) {
    const double w = 0.5 - 0.5 * std::cos(2 * std::numbers::pi * (static_cast<double>(i) + 0.5) /
                                          static_cast<double>(n));
    windowed[i] = w * (piece[i] - mean), squares += w * w;
  }
  for (std::size_t k = 1; k <= density.size(); ++k) {
    double re = 0, im = 0;
    const double turn = 2 * std::numbers::pi * static_cast<double>(k) / static_cast<double>(n);
    for (std::size_t i = 0; i < n; ++i) {
      re += windowed[i] * std::cos(turn * static_cast<double>(i));
      im += windowed[i] * std::sin(turn * static_cast<double>(i));
    }
    density[k - 1] += 2 * (re * re + im * im) * step / squares;
  }
}

}  // namespace

double Spectrum::peak() const {
  const auto top = std::max_element(density.begin(), density.end());
  const auto i = static_cast<std::size_t>(top - density.begin());
  if (i == 0 || i + 1 == density.size()) return frequency[i];
  const double a = density[i - 1], b = density[i], c = density[i + 1], bend = a - 2 * b + c;
  const double off = bend < 0 ? 0.5 * (a - c) / bend : 0;
  return frequency[i] + off * (frequency[1] - frequency[0]);
}

Spectrum spectrum_of(std::span<const double> values, double step, int pieces) {
  if (values.size() < fewest)
    throw InputError("there are too few values for a spectrum", "spectrum", "run it for longer");
  if (!(step > 0)) throw InputError("the values have no time between them", "spectrum", "give one");
  // Pieces that overlap by half: n values make 2 n / length - 1 of them.
  std::size_t length = 2 * values.size() / static_cast<std::size_t>(std::max(1, pieces) + 1);
  length = std::clamp(length & ~std::size_t(1), fewest, values.size() & ~std::size_t(1));
  Spectrum s;
  s.density.assign(length / 2, 0.0);
  for (std::size_t from = 0; from + length <= values.size(); from += length / 2, ++s.pieces)
    add_piece(values.subspan(from, length), step, s.density);
  for (std::size_t k = 1; k <= s.density.size(); ++k) {
    s.density[k - 1] /= s.pieces;
    s.frequency.push_back(static_cast<double>(k) / (static_cast<double>(length) * step));
  }
  return s;
}

}  // namespace dunefield
