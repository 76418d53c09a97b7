// A hill-climb single-seater with front and rear wings and open wheels. Metres, origin
// mid-wheelbase.
#include <demo/build.hpp>
#include <demo/garage.hpp>
#include <dunefield/geometry/shapes/wing.hpp>

namespace dunefield::garage {
namespace {

constexpr double degree = std::numbers::pi / 180;
constexpr double front_axle = -1.35, rear_axle = 1.35, sunk = 0.006;
constexpr double front_radius = 0.275, rear_radius = 0.290, front_track = 1.50, rear_track = 1.42;

void add_body(Surface& car) {
  add(car,
      body_through("",
                   {{-2.28, 0.05, 0.20, 0.26, 2.0},
                    {-2.20, 0.11, 0.15, 0.31, 2.3},
                    {-1.80, 0.17, 0.13, 0.40, 2.6},
                    {-1.20, 0.23, 0.10, 0.52, 3.0},
                    {-0.60, 0.31, 0.07, 0.60, 3.4},
                    {0.00, 0.36, 0.06, 0.58, 3.6},
                    {0.60, 0.36, 0.06, 0.56, 3.2},
                    {1.20, 0.28, 0.08, 0.50, 2.8},
                    {1.75, 0.17, 0.14, 0.42, 2.4},
                    {2.00, 0.10, 0.20, 0.36, 2.2}},
                   9, 72),
      "body");
  // Cockpit surround, headrest and engine cover with the airbox.
  add(car,
      body_through("",
                   {{-0.62, 0.20, 0.45, 0.60, 2.4},
                    {-0.40, 0.27, 0.44, 0.66, 2.6},
                    {0.00, 0.28, 0.44, 0.68, 2.6},
                    {0.20, 0.26, 0.44, 0.72, 2.4}},
                   8, 56),
      "cockpit surround");
  add(car,
      body_through("",
                   {{0.16, 0.17, 0.46, 0.90, 2.4},
                    {0.28, 0.17, 0.46, 0.96, 2.4},
                    {0.70, 0.14, 0.44, 0.86, 2.3},
                    {1.20, 0.09, 0.40, 0.66, 2.2},
                    {1.70, 0.04, 0.34, 0.46, 2.0}},
                   9, 56),
      "engine cover");
  Surface helmet = sphere("", {}, 1, 40);
  for (Vec3& p : helmet.points) p = {-0.02 + 0.15 * p.x, 0.125 * p.y, 0.745 + 0.14 * p.z};
  add(car, helmet, "helmet");
  add_pair(car,
           body_through("",
                        {{-0.42, 0.13, 0.10, 0.42, 3.0, 0.53},
                         {-0.30, 0.16, 0.08, 0.45, 3.4, 0.53},
                         {0.20, 0.17, 0.06, 0.42, 3.6, 0.52},
                         {0.80, 0.15, 0.06, 0.30, 3.0, 0.46},
                         {1.15, 0.08, 0.06, 0.17, 2.6, 0.38}},
                        8, 48),
           "sidepod");
  add(car, rounded_box("", Box{{-0.70, -0.69, 0.035}, {1.02, 0.69, 0.050}}, 0.005, 2), "floor");
  // Diffuser: an upswept plate behind the floor with three strakes.
  add(car,
      plate(
          "",
          {{1.00, -0.50, 0.0425}, {1.30, -0.50, 0.075}, {1.60, -0.50, 0.125}, {1.85, -0.50, 0.180}},
          {0, 1.0, 0}, 0.010),
      "diffuser");
  for (const double y : {-0.45, -0.2, 0.2, 0.45})
    add(car, plate("", {{1.05, y, 0.050}, {1.84, y, 0.110}}, {0, 0, 0.04}, 0.008), "diffuser");
}

void add_wings(Surface& car) {
  WingShape main;
  main.part = "front wing", main.section = four_digit_section("4412"),
  main.leading_edge = {-2.42, 0, 0.125};
  main.span = 1.42, main.root_chord = 0.30, main.tip_chord = 0.28, main.incidence = 3 * degree;
  main.end_plates = EndPlates{0.52, 0.20, 0.008, 0.02, 0.15};
  add(car, make_wing(main), "front wing");
  WingShape flap = main;
  flap.leading_edge = {-2.135, 0, 0.165}, flap.root_chord = 0.17, flap.tip_chord = 0.17,
  flap.incidence = 24 * degree, flap.end_plates.reset();
  flap.section = four_digit_section("6409");
  add(car, make_wing(flap), "front wing flap");
  add(car, rounded_box("", Box{{-2.30, -0.045, 0.135}, {-2.06, -0.033, 0.26}}, 0.004, 2),
      "front wing pylons");
  add(car, rounded_box("", Box{{-2.30, 0.033, 0.135}, {-2.06, 0.045, 0.26}}, 0.004, 2),
      "front wing pylons");
  WingShape rear = main;
  rear.part = "rear wing", rear.leading_edge = {1.62, 0, 0.86}, rear.span = 1.20,
  rear.root_chord = rear.tip_chord = 0.36, rear.incidence = 8 * degree;
  rear.section = four_digit_section("6412"),
  rear.end_plates = EndPlates{0.66, 0.42, 0.010, 0.04, 0.24};
  add(car, make_wing(rear), "rear wing");
  WingShape rear_flap = rear;
  rear_flap.leading_edge = {1.96, 0, 0.932}, rear_flap.root_chord = rear_flap.tip_chord = 0.20,
  rear_flap.incidence = 32 * degree, rear_flap.section = four_digit_section("6409"),
  rear_flap.end_plates.reset();
  add(car, make_wing(rear_flap), "rear wing flap");
  for (const double y : {-0.13, 0.13})
    add(car, plate("", {{1.60, y, 0.36}, {1.68, y, 0.875}}, {0.17, 0, 0}, 0.012),
        "rear wing pylons");
}

/// Wishbones and a pushrod from the hub of the right wheel to the body.
Surface arms(double axle, double hub_y, double hub_z, double inner_y) {
  Surface s;
  const auto rod = [&](const Vec3& a, const Vec3& b, double r) {
    Surface c = cylinder("", a, b, r, 20);
    append(s, c);
  };
  for (const double dz : {-0.09, 0.10})
    for (const double dx : {-0.24, 0.24})
      rod({axle, hub_y, hub_z + dz}, {axle + dx, inner_y, hub_z + 0.7 * dz + 0.01}, 0.012);
  rod({axle + 0.02, hub_y, hub_z - 0.07}, {axle + 0.03, inner_y, hub_z + 0.19}, 0.010);
  rod({axle, hub_y - 0.02, hub_z}, {axle, hub_y + 0.10, hub_z}, 0.055);
  return s;
}

}  // namespace

Surface barchan() {
  Surface car;
  add_body(car);
  add_wings(car);
  add_pair(car,
           road_wheel("", {front_axle, 0.5 * front_track, front_radius - sunk}, front_radius, 0.22,
                      unit({0.004, 1, -0.035})),
           "wheel front");
  add_pair(car,
           road_wheel("", {rear_axle, 0.5 * rear_track, rear_radius - sunk}, rear_radius, 0.32,
                      unit({-0.003, 1, -0.017})),
           "wheel rear");
  add_pair(car, arms(front_axle, 0.5 * front_track - 0.16, front_radius, 0.20), "suspension front");
  add_pair(car, arms(rear_axle, 0.5 * rear_track - 0.21, rear_radius, 0.20), "suspension rear");
  Surface mirror = sphere("", {}, 1, 20);
  for (Vec3& p : mirror.points) p = {-0.46 + 0.05 * p.x, 0.46 + 0.075 * p.y, 0.66 + 0.035 * p.z};
  append(mirror, cylinder("", {-0.45, 0.24, 0.58}, {-0.46, 0.42, 0.655}, 0.008, 12));
  add_pair(car, mirror, "mirror");
  return car;
}

}  // namespace dunefield::garage
