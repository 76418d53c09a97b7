#include <dunefield/geometry/files/aerofoil.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/input_file.hpp>

namespace dunefield {
namespace {

using Point = std::array<double, 2>;

double turn(const Point& a, const Point& b, const Point& c) {
  return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
}

bool cross(const Point& a, const Point& b, const Point& c, const Point& d) {
  return turn(a, b, c) * turn(a, b, d) < 0 && turn(c, d, a) * turn(c, d, b) < 0;
}

void refuse_crossing_sides(const std::vector<Point>& p, const std::string& where) {
  for (std::size_t i = 0; i + 1 < p.size(); ++i)
    for (std::size_t j = i + 2; j + 1 < p.size(); ++j)
      if (cross(p[i], p[i + 1], p[j], p[j + 1]))
        throw InputError(
            fmt::format("the two sides of the section cross near {:.3f} of the chord", p[i][0]),
            where, "repair the section");
}

/// Both sides listed from the nose: turned into one way round.
std::vector<Point> joined_sides(const std::vector<Point>& p, std::size_t second) {
  std::vector<Point> out(p.begin(), p.begin() + static_cast<std::ptrdiff_t>(second));
  std::reverse(out.begin(), out.end());
  const bool nose_twice =
      std::abs(p[second][0] - p[0][0]) + std::abs(p[second][1] - p[0][1]) < 1e-9;
  out.insert(out.end(), p.begin() + static_cast<std::ptrdiff_t>(second + nose_twice), p.end());
  return out;
}

void normalise(std::vector<Point>& p) {
  double lo = 1e300, hi = -1e300;
  for (const Point& q : p) lo = std::min(lo, q[0]), hi = std::max(hi, q[0]);
  for (Point& q : p) q = {(q[0] - lo) / (hi - lo), q[1] / (hi - lo)};
  double area = 0;
  for (std::size_t i = 0; i < p.size(); ++i) {
    const Point &a = p[i], &b = p[(i + 1) % p.size()];
    area += 0.5 * (a[0] * b[1] - a[1] * b[0]);
  }
  if (area < 0) std::reverse(p.begin(), p.end());  // counter-clockwise: upper side first
}

}  // namespace

Aerofoil four_digit_section(const std::string& code, int n) {
  if (code.size() != 4 ||
      !std::all_of(code.begin(), code.end(), [](char c) { return c >= '0' && c <= '9'; }))
    throw InputError("'" + code + "' is not a four-digit section", "section",
                     "write four digits, like \"4412\"");
  const double m = (code[0] - '0') / 100.0, p = (code[1] - '0') / 10.0,
               t = std::stoi(code.substr(2)) / 100.0;
  if (!(t > 0) || (m > 0 && !(p > 0)))
    throw InputError("section '" + code + "' has no thickness or no place for its camber",
                     "section", "write a code like \"4412\"");
  const auto side = [&](double x, double sign) -> Point {
    // The last coefficient closes the trailing edge but for half a percent of the thickness.
    const double half = 5 * t *
                        (0.2969 * std::sqrt(x) - 0.1260 * x - 0.3516 * x * x + 0.2843 * x * x * x -
                         0.1030 * x * x * x * x);
    double camber = 0, slope = 0;
    if (m > 0 && x < p)
      camber = m / (p * p) * (2 * p * x - x * x), slope = 2 * m / (p * p) * (p - x);
    else if (m > 0)
      camber = m / ((1 - p) * (1 - p)) * (1 - 2 * p + 2 * p * x - x * x),
      slope = 2 * m / ((1 - p) * (1 - p)) * (p - x);
    const double angle = std::atan(slope);
    return {x - sign * half * std::sin(angle), camber + sign * half * std::cos(angle)};
  };
  Aerofoil a;
  a.name = code;
  for (int i = n; i >= 0; --i)
    a.points.push_back(side(0.5 * (1 - std::cos(std::numbers::pi * i / n)), 1));
  for (int i = 1; i <= n; ++i)
    a.points.push_back(side(0.5 * (1 - std::cos(std::numbers::pi * i / n)), -1));
  return a;
}

Aerofoil read_aerofoil(const std::filesystem::path& file) {
  InputFile input(file);
  TextScanner words(input);
  Aerofoil a;
  a.name = safe_text(file.stem().native());
  std::vector<Point> p;
  bool first_line = true;
  do {
    const std::string_view x = words.word_of_line(), y = words.word_of_line();
    const bool title =
        first_line && (x.empty() || x.find_first_not_of("+-.0123456789eE") != x.npos || y.empty());
    if (first_line && title && !x.empty()) a.name = safe_text(x);
    first_line = false;
    if (title || x.empty() || x[0] == '#') continue;
    const Point q = {words.number(x), words.number(y)};
    constexpr double farthest = 1e6;  // chords, or millimetres of one
    if (!(std::abs(q[0]) < farthest && std::abs(q[1]) < farthest))
      words.fail("a coordinate is not a finite number below a million");
    // a line with the number of points of each side
    if (p.empty() && q[0] > 1.5 && q[1] > 1.5) continue;
    constexpr std::size_t most = 10'000;  // each side is held against each other one
    if (p.size() >= most) words.fail("the section has more than 10 000 points", "thin it out");
    p.push_back(q);
  } while (words.next_line());
  const std::string where = file.string();
  if (p.size() < 6)
    throw InputError(fmt::format("has {} points, but a section needs six", p.size()), where,
                     "check the file");
  double lo = 1e300, hi = -1e300;
  for (const Point& q : p) lo = std::min(lo, q[0]), hi = std::max(hi, q[0]);
  if (!(hi - lo > 1e-9 * std::max(std::abs(lo), std::abs(hi))))
    throw InputError("all points lie at one place along the chord", where, "check the columns");
  // A jump back to the nose starts the second side.
  for (std::size_t i = 1; i + 1 < p.size(); ++i)
    if (p[i - 1][0] - p[i][0] > 0.5 * (hi - lo)) {
      p = joined_sides(p, i);
      break;
    }
  normalise(p);
  refuse_crossing_sides(p, where);
  a.points = std::move(p);
  return a;
}

}  // namespace dunefield
