#include <dunefield/geometry/stance.hpp>

#include <array>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/geometry/health/symmetry.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {
namespace {

std::string axis_name(int axis, bool positive) {
  return fmt::format("{}{}", positive ? '+' : '-', static_cast<char>('x' + axis));
}

Vec3 axis_of(const std::string& text) {
  Vec3 v;
  v[text[1] - 'x'] = text[0] == '-' ? -1 : 1;
  return v;
}

/// Area that faces along an axis (one way) in the outermost tenth of the length at that end.
double flat_end(const Surface& s, const Box& box, int axis, bool positive) {
  const double edge =
      positive ? box.hi[axis] - 0.1 * box.size()[axis] : box.lo[axis] + 0.1 * box.size()[axis];
  double sum = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    const Vec3 a = s.area_vector(t);
    if ((positive ? s.centroid(t)[axis] > edge : s.centroid(t)[axis] < edge) &&
        std::abs(a[axis]) > 0.97 * norm(a))
      sum += norm(a);
  }
  return sum;
}

/// Height, from the far side of `up`, under which nearly all of the surface of the outermost tenth
/// at an end lies: bits of noise above do not count.
double end_height(const Surface& s, const Box& box, int axis, bool positive, int up,
                  bool up_positive) {
  std::vector<std::array<double, 2>> height;  // with its area
  double total = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    const Vec3 c = s.centroid(t);
    const double share = (c[axis] - box.lo[axis]) / box.size()[axis];
    if (positive ? share <= 0.88 : share >= 0.12) continue;
    height.push_back(
        {up_positive ? c[up] - box.lo[up] : box.hi[up] - c[up], norm(s.area_vector(t))});
    total += height.back()[1];
  }
  std::sort(height.begin(), height.end());
  double below = 0;
  for (const auto& [h, area] : height)
    if ((below += area) > 0.93 * total) return h;
  return 0;
}

/// Every so many triangles, for a first impression of a large surface.
Surface thinned(const Surface& s) {
  constexpr std::size_t enough = 400'000;
  const std::size_t step = s.size() / enough + 1;
  if (step == 1) return s;
  Surface out;
  out.part_names = s.part_names;
  for (std::size_t t = 0; t < s.size(); t += step) {
    const int n = static_cast<int>(out.points.size());
    for (int k = 0; k < 3; ++k) out.points.push_back(s.corner(t, k));
    out.triangles.push_back({n, n + 1, n + 2});
    out.part_of.push_back(s.part_of[t]);
  }
  return out;
}

/// Pieces and parts whose box is round seen from the side: without any there can be no wheel.
bool anything_round(const Surface& s, const Pieces& pieces, int along, int up) {
  std::vector<Box> box(static_cast<std::size_t>(pieces.count) + s.part_names.size());
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; k < 3; ++k) {
      box[at(pieces.of_triangle[t])].include(s.corner(t, k));
      box[at(pieces.count + s.part_of[t])].include(s.corner(t, k));
    }
  return std::any_of(box.begin(), box.end(), [&](const Box& b) {
    return !b.empty() && std::abs(b.size()[along] - b.size()[up]) < 0.1 * b.size()[up];
  });
}

constexpr double alike = 0.01;  // of the box's diagonal

/// How far the two sides along each axis differ, over the box's diagonal.
std::array<double, 3> asymmetries(const Surface& all, const Box& box) {
  const Surface s = thinned(all);
  const RayScene rays(s);
  std::array<double, 3> share{};
  for (int axis = 0; axis < 3; ++axis)
    share[at(axis)] = asymmetry(s, rays, axis, 600).mean / (norm(box.size()) + 1e-300);
  return share;
}

int find_across(const std::array<double, 3>& asymmetry, Stance& stance) {
  int across = 1;
  double best = asymmetry[1];
  constexpr double rounding = 1e-4;
  for (const int axis : {0, 2})  // y unless another is clearly better
    if (best > rounding && asymmetry[at(axis)] < 0.5 * best)
      best = asymmetry[at(axis)], across = axis;
  if (best < alike) {
    stance.reasons.push_back(fmt::format("{} goes across: there the two sides are alike",
                                         static_cast<char>('x' + across)));
    return across;
  }
  stance.reasons.push_back("no axis has two sides alike: y is taken to go across");
  return 1;
}

/// The axis and sense of up on which most wheels stand; without wheels the axis given, upward.
void find_up(const Surface& s, int across, int& along, int& up, bool& positive, Stance& stance) {
  const Vec3 size = bounds(s).size();
  const Pieces pieces = connected_pieces(s);
  std::size_t most = 0;
  const int axes[2] = {up, along};
  for (const int axis : axes) {
    const int other = 3 - across - axis;
    constexpr double tallest = 1.3;  // height over length of any road vehicle
    if (size[axis] > tallest * size[other] || !anything_round(s, pieces, other, axis)) continue;
    for (const bool sense : {true, false}) {
      Surface turned = s;
      turn_upright(turned, axis_name(other, false), axis_name(axis, sense));
      separate_wheels(turned);
      const std::size_t wheels = find_wheels(turned).size();
      if (wheels > most) most = wheels, up = axis, along = other, positive = sense;
    }
  }
  stance.reasons.push_back(
      most
          ? fmt::format("{} is up: {} wheels then stand on the road", axis_name(up, positive), most)
          : fmt::format("no wheels tell which way is up: {} is taken", axis_name(up, positive)));
}

struct Unit {
  const char *name, *word;
  double penalty;
  double metres() const { return length_unit(name, "unit"); }
};
constexpr Unit units[] = {{"m", "metres", 0},
                          {"mm", "millimetres", 0},
                          {"cm", "centimetres", 0.8},
                          {"in", "inches", 1.2},
                          {"ft", "feet", 1.6}};

/// Says of the unit why, and of others in which it would be a vehicle from car to road train, too.
void tell_unit(const Vec3& sides, Stance& stance) {
  const auto [shortest, longest] = std::minmax({sides.x, sides.y, sides.z});
  stance.reasons.push_back(
      fmt::format("the longest side is {:.4g} in the file, the shortest {:.4g}: that fits {}",
                  longest, shortest, stance.unit));
  for (const Unit& u : units) {
    const double length = longest * u.metres(), least = shortest * u.metres();
    if (u.name != stance.unit && length > 3 && length < 30 && least > 1.1 && least < 3)
      stance.reasons.push_back(
          fmt::format("in {} it would be {:.1f} m long, which fits as well", u.word, length));
  }
}

}  // namespace

std::string likely_unit(const Vec3& sides) {
  const auto [shortest, longest] = std::minmax({sides.x, sides.y, sides.z});
  constexpr double widest = 4, too_wide = 3;  // m; penalty: neither so wide nor so high
  std::string best = "m";
  double least = 1e300;
  for (const Unit& u : units) {
    const double away = std::abs(std::log(longest * u.metres() / 4.5)) + u.penalty +
                        (shortest * u.metres() > widest ? too_wide : 0);
    if (away < least) least = away, best = u.name;
  }
  return best;
}

Stance guess_stance(const Surface& s, const std::string& unit) {
  Stance stance;
  const Box box = bounds(s);
  const Vec3 size = box.size();
  stance.unit = unit.empty() ? likely_unit(size) : unit;
  if (unit.empty()) tell_unit(size, stance);
  const std::array<double, 3> asymmetry = asymmetries(s, box);
  const int across = find_across(asymmetry, stance);
  int along = across == 0 ? 1 : 0, up = 3 - across - along;
  // z is up when both would do, as for a body of revolution along x, however short
  if (up != 2 ? size[up] > 0.8 * size[along] : size[up] > size[along] && asymmetry[2] > alike)
    std::swap(along, up);
  bool up_positive = true;
  find_up(s, across, along, up, up_positive, stance);
  double votes = 0;  // for the nose at the low end of the axis
  const double low = end_height(s, box, along, false, up, up_positive),
               high = end_height(s, box, along, true, up, up_positive);
  const double narrow = 0.45;  // width over length of a two-wheeler with its rider
  if (size[across] < narrow * size[along] && size[up] > 0.7 * size[along]) {
    // On a two-wheeler the rider's head is ahead of the middle.
    double sum = 0, weight = 0;
    for (std::size_t t = 0; t < s.size(); ++t) {
      const Vec3 c = s.centroid(t);
      const double height = up_positive ? c[up] - box.lo[up] : box.hi[up] - c[up],
                   area = norm(s.area_vector(t));
      if (height > 0.88 * size[up]) sum += area * (c[along] - box.centre()[along]), weight += area;
    }
    if (weight > 0)
      votes += sum < 0 ? 2 : -2, stance.reasons.push_back(fmt::format(
                                     "what is highest, a rider's head, is nearer to the {} end",
                                     axis_name(along, sum > 0)));
  } else if (std::abs(low - high) > 0.1 * size[up]) {
    votes += low < high ? 2 : -2;
    stance.reasons.push_back(
        fmt::format("the {} end is the lower one", axis_name(along, low > high)));
  }
  const double flat_low = flat_end(s, box, along, false), flat_high = flat_end(s, box, along, true),
               section = size[across] * size[up];
  if (std::abs(flat_low - flat_high) > 0.1 * section) {
    votes += flat_low < flat_high ? 1.5 : -1.5;
    stance.reasons.push_back(fmt::format("the {} end is cut off flat like a tail",
                                         axis_name(along, flat_high > flat_low)));
  }
  stance.nose_is_clear = std::abs(votes) >= 1.5;
  if (!stance.nose_is_clear) stance.reasons.push_back("nothing tells the nose from the tail");
  stance.nose = axis_name(along, votes < 0);
  stance.up = axis_name(up, up_positive);
  return stance;
}

void turn_upright(Surface& s, const std::string& nose, const std::string& up_text) {
  const Vec3 rearward = -axis_of(nose), up = axis_of(up_text), right = cross(up, rearward);
  for (Vec3& p : s.points) p = Vec3{dot(p, rearward), dot(p, right), dot(p, up)};
}

}  // namespace dunefield
