#include <dunefield/look/colour_scale.hpp>

#include <array>

namespace dunefield {
namespace {

template <std::size_t N>
Colour along(const std::array<Colour, N>& stops, double share) {
  const double x = std::clamp(share, 0.0, 1.0) * (N - 1);
  const auto i = std::min(static_cast<std::size_t>(x), N - 2);
  const double t = x - static_cast<double>(i);
  return stops[i] * (1 - t) + stops[i + 1] * t;
}

}  // namespace

Colour palette_colour(Palette palette, double share) {
  static const std::array<Colour, 6> dune = {{{0.09, 0.10, 0.28},
                                              {0.11, 0.28, 0.47},
                                              {0.13, 0.48, 0.53},
                                              {0.42, 0.66, 0.52},
                                              {0.83, 0.77, 0.50},
                                              {0.98, 0.93, 0.80}}};
  static const std::array<Colour, 7> balance = {{{0.13, 0.20, 0.50},
                                                 {0.24, 0.45, 0.73},
                                                 {0.62, 0.78, 0.88},
                                                 {0.95, 0.94, 0.91},
                                                 {0.95, 0.72, 0.55},
                                                 {0.80, 0.38, 0.27},
                                                 {0.50, 0.10, 0.15}}};
  if (!std::isfinite(share)) return {0.5, 0.5, 0.5};
  return palette == Palette::dune ? along(dune, share) : along(balance, share);
}

std::vector<double> round_marks(double least, double most, int wanted) {
  if (!(most > least)) return {least};
  const double raw = (most - least) / std::max(1, wanted),
               power = std::pow(10, std::floor(std::log10(raw)));
  double step = 10 * power;
  for (const double s : {1.0, 2.0, 5.0})
    if (s * power >= raw * 0.999) {
      step = s * power;
      break;
    }
  std::vector<double> marks;
  for (long i = std::lround(std::ceil(least / step - 1e-9)); i * step <= most + 1e-9 * step; ++i)
    marks.push_back(static_cast<double>(i) * step);
  return marks;
}

int round_bands(double least, double most) {
  constexpr int usual = 10, fewest = 5, many = 16;
  const double range = most - least;
  if (!(range > 0)) return usual;
  int best = 0;
  for (const int one : {1, 2, 5})
    for (double step = one * std::pow(10, std::floor(std::log10(range)) - 2); step < range;
         step *= 10) {
      const double steps = range / step;
      const int n = static_cast<int>(std::lround(steps));
      if (n < fewest || n > many || std::abs(steps - n) > 1e-6 * n) continue;
      if (best == 0 || std::abs(n - usual) < std::abs(best - usual)) best = n;
    }
  return best > 0 ? best : usual;
}

int bands_of(const ColourScale& s, int wanted) {
  return wanted == round_steps ? round_bands(s.least, s.most) : wanted;
}

std::vector<double> edges_of_bands(const ColourScale& s, int wanted) {
  const int bands = bands_of(s, wanted);
  std::vector<double> edges;
  for (int i = 1; i < bands; ++i) edges.push_back(s.least + (s.most - s.least) * i / bands);
  return edges;
}

std::vector<double> levels_inside(const ColourScale& s, int wanted) {
  std::vector<double> levels = round_marks(s.least, s.most, wanted);
  const double near = 1e-6 * (s.most - s.least);
  std::erase_if(levels, [&](double v) { return v < s.least + near || v > s.most - near; });
  return levels;
}

}  // namespace dunefield
