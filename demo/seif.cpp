// A two-axle box truck, cab over the front axle, twin tyres behind. Metres, origin mid-wheelbase.
#include <demo/build.hpp>
#include <demo/garage.hpp>

namespace dunefield::garage {
namespace {

constexpr double front_axle = -2.35, rear_axle = 2.35, radius = 0.48, sunk = 0.012;
constexpr double half_width = 1.25, box_from = -2.05, box_to = 4.55, box_floor = 1.12,
                 box_roof = 3.62;
constexpr double cab_nose = -3.62, cab_back = -2.18, cab_floor = 0.92, cab_roof = 2.62;

/// Vertical front with a raked screen: a profile seen from the side, swept across, its corners
/// rounded in plan.
Surface cab() {
  const std::vector<std::array<double, 2>> front = {
      {cab_floor, -3.58}, {1.25, cab_nose}, {1.60, cab_nose}, {1.95, -3.56},
      {2.35, -3.40},      {2.56, -3.26},    {cab_roof, -3.08}};
  std::vector<std::vector<Vec3>> rings;
  constexpr int levels = 28;
  for (int i = 0; i <= levels; ++i) {
    const double z = cab_floor + (cab_roof - cab_floor) * i / levels, nose = through(front, z);
    const double lean = 0.06 * std::max(0.0, (z - 1.7) / (cab_roof - 1.7)),
                 half = half_width - 0.03 - lean, corner = 0.22;
    // From the right front corner over the nose to the left one, then back along the rear wall.
    std::vector<Vec3> ring;
    for (int k = 10; k >= 0; --k) {
      const double a = 0.5 * std::numbers::pi * k / 10;
      ring.push_back({nose + corner * (1 - std::cos(a)), half - corner + corner * std::sin(a), z});
    }
    for (int k = 0; k <= 10; ++k) {
      const double a = 0.5 * std::numbers::pi * k / 10;
      ring.push_back(
          {nose + corner * (1 - std::cos(a)), -(half - corner + corner * std::sin(a)), z});
    }
    for (int k = 0; k <= 6; ++k) ring.push_back({cab_back, -half + 2 * half * k / 6, z});
    rings.push_back(ring);
  }
  return loft("cab", rings);
}

}  // namespace

Surface seif() {
  Surface truck = cab();
  add(truck,
      rounded_box("box body",
                  Box{{box_from, -half_width, box_floor}, {box_to, half_width, box_roof}}, 0.03, 4),
      "box body");
  for (const double y : {-0.42, 0.42})
    add(truck, rounded_box("", Box{{-3.40, y - 0.04, 0.72}, {4.35, y + 0.04, 1.14}}, 0), "chassis");
  for (const double x : {-1.2, 0.2, 1.4, 3.4})
    add(truck, rounded_box("", Box{{x - 0.05, -0.40, 0.78}, {x + 0.05, 0.40, 1.06}}, 0), "chassis");
  add(truck, rounded_box("", Box{{-3.66, -1.20, 0.33}, {-3.28, 1.20, 0.90}}, 0.05, 4), "bumper");
  add_pair(truck, rounded_box("", Box{{-1.35, 0.62, 0.42}, {0.15, 1.18, 0.98}}, 0.06, 4), "tank");
  add(truck, rounded_box("", Box{{4.38, -1.15, 0.45}, {4.48, 1.15, 0.60}}, 0.02, 3),
      "underrun bar");
  for (const double y : {-0.7, 0.7})
    add(truck, rounded_box("", Box{{4.36, y - 0.04, 0.55}, {4.44, y + 0.04, 1.14}}, 0),
        "underrun bar");
  add(truck, cylinder("", {front_axle, -0.95, radius}, {front_axle, 0.95, radius}, 0.06, 24),
      "axles");
  add(truck, cylinder("", {rear_axle, -0.75, radius}, {rear_axle, 0.75, radius}, 0.09, 24),
      "axles");
  add_pair(truck, road_wheel("", {front_axle, 1.06, radius - sunk}, radius, 0.28), "wheel front");
  add_pair(truck, road_wheel("", {rear_axle, 1.09, radius - sunk}, radius, 0.25),
           "wheel rear outer");
  add_pair(truck, road_wheel("", {rear_axle, 0.77, radius - sunk}, radius, 0.25),
           "wheel rear inner");
  Surface mirror = rounded_box("", Box{{-3.42, 1.30, 1.72}, {-3.30, 1.52, 2.24}}, 0.04, 4);
  append(mirror, cylinder("", {-3.36, 1.10, 2.15}, {-3.36, 1.40, 2.15}, 0.018, 16));
  append(mirror, cylinder("", {-3.36, 1.10, 1.80}, {-3.36, 1.40, 1.80}, 0.018, 16));
  add_pair(truck, mirror, "mirror");
  return truck;
}

Surface seif_roof_fairing() {
  // From the cab's roof up to the box: a cap whose section grows rearward.
  std::vector<std::vector<Vec3>> rings;
  constexpr int steps = 18, across = 28;
  for (int i = 0; i <= steps; ++i) {
    const double s = i / static_cast<double>(steps), x = -3.10 + 0.92 * s;
    const double top = cab_roof +
                       (box_roof - cab_roof - 0.02) *
                           std::pow(std::sin(0.5 * std::numbers::pi * s), 0.85) +
                       0.02,
                 half = 1.02 + 0.18 * s, low = cab_roof - 0.06;
    std::vector<Vec3> ring;
    for (int k = 0; k <= across; ++k) {
      const double a = std::numbers::pi * k / across, c = std::cos(a), sn = std::sin(a);
      ring.push_back({x, half * std::copysign(std::pow(std::abs(c), 0.45), c),
                      low + (top - low) * std::pow(sn, 0.45)});
    }
    rings.push_back(ring);
  }
  return loft("roof fairing", rings);
}

}  // namespace dunefield::garage
