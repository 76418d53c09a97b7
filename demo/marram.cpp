// The van's body is one skin lofted through cross sections; the wheel houses are steps in those
// sections.
#include <cmath>
#include <numbers>

#include <demo/build.hpp>
#include <demo/garage.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>

namespace dunefield::garage {
namespace {

constexpr double pi = std::numbers::pi;

// Metres, in vehicle axes: x rearward from mid-wheelbase, z up from the road.
constexpr double nose_x = -2.5, tail_x = 2.7, half_width = 0.95, floor_z = 0.20;
constexpr double nose_length = 0.5, nose_z = 0.55, nose_exponent = 2.6;
constexpr double tail_rounding = 0.012;  // a trip edge: where the flow leaves is not left to chance
constexpr double axle_x = 1.6, half_track = 0.80;
constexpr double tyre_radius = 0.335, tyre_width = 0.215, sunk = 0.008;
constexpr double arch_radius = 0.42, arch_inner_y = 0.62, belt_z = 0.8;

double roof_line(double x) {
  static const std::vector<std::array<double, 2>> line = {
      {-2.5, 0.98}, {-2.1, 1.07}, {-1.75, 1.20}, {-1.35, 1.58}, {-0.95, 1.97},
      {-0.5, 2.15}, {0.2, 2.20},  {1.2, 2.20},   {2.2, 2.19},   {2.7, 2.16}};
  return through(line, x);
}

struct Section {
  /// `arch`: height of the wheel house's roof; equal to `bottom` away from it
  double x, half_width, top, bottom, arch;
};

Section section_at(double x, double arch) {
  const double s = std::min(1.0, (x - nose_x) / nose_length),
               t = std::min(1.0, (tail_x - x) / tail_rounding);
  const double fullness = std::pow(1 - std::pow(1 - s, nose_exponent), 1 / nose_exponent);
  const double shrink = tail_rounding * (1 - std::sqrt(1 - (1 - t) * (1 - t)));
  Section c;
  c.x = x;
  c.half_width = half_width * std::max(fullness, 0.02) - shrink;
  c.top = nose_z + (roof_line(x) - nose_z) * std::max(fullness, 0.02) - shrink;
  c.bottom = nose_z + (floor_z - nose_z) * std::max(fullness, 0.02) + shrink;
  c.arch = std::max(arch, c.bottom);
  return c;
}

/// Right half from the middle of the floor to the middle of the roof, then the left half back.
std::vector<Vec3> ring_of(const Section& c) {
  std::vector<Vec3> half;
  const auto add = [&](double y, double z) { half.push_back({c.x, y, z}); };
  const auto side = [&](double z) {
    const double lean = std::clamp((z - 0.9) / 1.3, 0.0, 1.0);
    return c.half_width * (1 - 0.05 * lean * lean);
  };
  const bool arch = c.arch > c.bottom;
  const double height = c.top - c.bottom;
  const double sill = arch ? 0 : std::min(0.06, 0.2 * height),
               cant = std::min({0.16, 0.35 * height, 0.5 * c.half_width});
  const double inner = std::min(arch_inner_y, 0.8 * c.half_width);
  for (int i = 0; i < 3; ++i) add(inner * i / 3, c.bottom);
  for (int i = 0; i < 4; ++i) add(inner, c.bottom + (c.arch - c.bottom) * i / 4);
  const double outer = c.half_width - sill;
  for (int i = 0; i < 3; ++i) add(inner + (outer - inner) * i / 3, c.arch);
  for (int i = 0; i <= 3; ++i) {
    const double a = 0.5 * pi * i / 3;
    add(outer + sill * std::sin(a), c.arch + sill * (1 - std::cos(a)));
  }
  // Heights in the flank are the same for sections at the same x: a wheel house begins and ends
  // without folds there.
  const double low = c.arch + sill, high = c.top - cant,
               belt = std::clamp(belt_z, low + 0.1 * (high - low), high - 0.1 * (high - low));
  const bool common = low < 0.45 && belt == belt_z;
  for (int i = 1; i <= 3; ++i) {
    const double z = common ? belt - 0.15 * (3 - i) : low + (belt - low) * i / 3;
    add(side(z), z);
  }
  for (int i = 1; i <= 5; ++i) {
    const double z = belt + (high - belt) * i / 5;
    add(side(z), z);
  }
  const double roof_y = side(high) - cant;
  for (int i = 1; i <= 5; ++i) {
    const double a = 0.5 * pi * i / 5;
    add(roof_y + cant * std::cos(a), high + cant * std::sin(a));
  }
  for (int i = 1; i <= 4; ++i) add(roof_y * (4 - i) / 4, c.top);
  std::vector<Vec3> ring = half;
  for (std::size_t i = half.size() - 2; i > 0; --i)
    ring.push_back({half[i].x, -half[i].y, half[i].z});
  return ring;
}

Surface body() {
  std::vector<Section> sections;
  const auto span = [&](double from, double to, int steps, bool closed) {
    for (int i = 0; i < steps + closed; ++i)
      sections.push_back(section_at(from + (to - from) * i / steps, 0));
  };
  const auto wheel_house = [&](double at) {
    sections.push_back(section_at(at - arch_radius, 0));
    constexpr int steps = 12;
    for (int i = 0; i <= steps; ++i) {
      const double a = pi * i / steps;
      sections.push_back(
          section_at(at - arch_radius * std::cos(a), tyre_radius + arch_radius * std::sin(a)));
    }
    sections.push_back(section_at(at + arch_radius, 0));
  };
  for (int i = 0; i < 10; ++i)
    sections.push_back(section_at(nose_x + (0.46) * (1 - std::cos(0.5 * pi * i / 10)), 0));
  wheel_house(-axle_x);
  span(-axle_x + arch_radius + 0.06, axle_x - arch_radius - 0.06, 22, true);
  wheel_house(axle_x);
  span(axle_x + arch_radius + 0.06, tail_x - tail_rounding, 6, false);
  for (int i = 0; i <= 2; ++i)
    sections.push_back(section_at(tail_x - tail_rounding * (1 - std::sin(0.5 * pi * i / 2)), 0));
  std::vector<std::vector<Vec3>> rings;
  for (const Section& c : sections) rings.push_back(ring_of(c));
  return loft("body", rings);
}

Surface wheel(const std::string& part, double x, double y) {
  constexpr double half = tyre_width / 2, shoulder = 0.035;
  std::vector<std::array<double, 2>> outer = {{-half + 0.025, 0},
                                              {-half + 0.025, 0.12},
                                              {-half + 0.03, 0.215},
                                              {-half + 0.004, 0.225},
                                              {-half, 0.26}};
  for (int i = 0; i <= 4; ++i) {
    const double a = 0.5 * pi * i / 4;
    outer.push_back(
        {-half + shoulder * (1 - std::cos(a)), tyre_radius - shoulder * (1 - std::sin(a))});
  }
  std::vector<std::array<double, 2>> profile = outer;
  for (std::size_t i = outer.size(); i-- > 0;) profile.push_back({-outer[i][0], outer[i][1]});
  return revolve(part, profile, {x, y, tyre_radius - sunk}, {0, 1, 0}, 48);
}

/// A rounded housing on an arm that reaches into the door.
Surface mirror(const std::string& part, double side) {
  Surface housing = sphere(part, {0, 0, 0}, 1, 24);
  for (Vec3& p : housing.points)
    p = {-1.02 + 0.07 * p.x, side * (1.09 + 0.10 * p.y), 1.30 + 0.15 * p.z};
  Surface arm = rounded_box(part, {{-1.05, 0.88, 1.19}, {-0.99, 1.06, 1.24}}, 0.015, 2);
  for (Vec3& p : arm.points) p.y *= side;
  append(housing, arm);
  if (side < 0)
    for (auto& t : housing.triangles) std::swap(t[1], t[2]);
  return housing;
}

}  // namespace

Surface marram() {
  Surface van = body();
  append(van, wheel("wheel front left", -axle_x, -half_track));
  append(van, wheel("wheel front right", -axle_x, half_track));
  append(van, wheel("wheel rear left", axle_x, -half_track));
  append(van, wheel("wheel rear right", axle_x, half_track));
  append(van, mirror("mirror left", -1));
  append(van, mirror("mirror right", 1));
  return van;
}

Surface marram_wheel_covers() {
  Surface covers;
  for (const double x : {-axle_x, axle_x})
    for (const double side : {-1.0, 1.0}) {
      // A shallow dome over the rim, turning with the wheel: part of the wheel by name.
      const double y = side * (half_track + 0.5 * tyre_width - 0.03);
      Surface cover = revolve(
          std::string("wheel ") + (x < 0 ? "front" : "rear") + (side < 0 ? " left" : " right"),
          {{0, 0.225}, {0.012, 0.225}, {0.022, 0.20}, {0.030, 0.12}, {0.033, 0}},
          {x, y, tyre_radius - sunk}, {0, side, 0}, 48);
      append(covers, cover);
    }
  return covers;
}

Surface marram_tapered_tail() {
  // The tail's section, drawn in over 0.55 m: sides by 9, roof by 12 degrees, floor up by 5.
  constexpr double length = 0.55, side_in = 0.1584, roof_in = 0.2126, floor_in = 0.0875;
  const Section tail = section_at(tail_x - tail_rounding, 0);
  std::vector<std::vector<Vec3>> rings;
  constexpr int steps = 10;
  for (int i = 0; i <= steps; ++i) {
    const double way = length * i / steps;
    Section c = tail;
    c.x = tail_x - tail_rounding - 0.01 + way;
    c.half_width -= side_in * way, c.top -= roof_in * way, c.bottom += floor_in * way,
        c.arch = c.bottom;
    rings.push_back(ring_of(c));
  }
  return loft("tapered tail", rings);
}

Surface marram_side_skirts() {
  constexpr double end = axle_x - arch_radius - 0.04;
  Surface skirts = rounded_box("side skirts", {{-end, 0.895, 0.09}, {end, 0.93, 0.28}}, 0.012, 3);
  append(skirts, rounded_box("side skirts", {{-end, -0.93, 0.09}, {end, -0.895, 0.28}}, 0.012, 3));
  return skirts;
}

}  // namespace dunefield::garage
