// A saloon as an assembly export delivers it: about a hundred pieces, most of them open, none of
// them joined. Panels are single sheets with shut lines between them, the cabin is open inside, the
// rims are spokes in a tube, trim crosses what it is fixed to, and the left side is not quite the
// mirror image of the right.
#include <demo/build.hpp>
#include <demo/garage.hpp>
#include <dunefield/geometry/shapes/wing.hpp>

namespace dunefield::garage {
namespace {

constexpr double front_axle = -1.36, rear_axle = 1.34, radius = 0.335, sunk = 0.008;
constexpr double wheel_y = 0.79, wheel_width = 0.225;

/// The facets for which `keep` is true, with points of their own.
template <class Keep>
Surface cut_out(const Surface& s, const Keep& keep) {
  Surface out;
  out.part_names = {""};
  out.points = s.points;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (keep(s.centroid(t))) out.triangles.push_back(s.triangles[t]), out.part_of.push_back(0);
  drop_unused_points(out);
  return out;
}

bool in_wheel_house(const Vec3& p) {
  for (const double axle : {front_axle, rear_axle})
    if (std::abs(p.y) > 0.6 && std::hypot(p.x - axle, p.z - 0.34) < 0.40) return true;
  return false;
}

/// Outer skin below the waist, nose to tail.
Surface lower_skin() {
  return body_through("",
                      {{-2.28, 0.55, 0.30, 0.52, 3.0},
                       {-2.22, 0.74, 0.22, 0.62, 3.6},
                       {-1.90, 0.86, 0.18, 0.74, 4.5},
                       {-1.00, 0.90, 0.17, 0.88, 5.0},
                       {0.40, 0.91, 0.17, 0.93, 5.0},
                       {1.40, 0.90, 0.18, 0.95, 4.8},
                       {2.05, 0.84, 0.24, 0.96, 4.2},
                       {2.24, 0.72, 0.34, 0.90, 3.4}},
                      14, 120);
}

/// Screens, pillars and roof above it.
Surface cabin_skin() {
  return body_through("",
                      {{-1.02, 0.70, 0.74, 0.90, 3.2},
                       {-0.55, 0.72, 0.70, 1.17, 3.2},
                       {-0.10, 0.68, 0.70, 1.40, 3.4},
                       {0.55, 0.67, 0.70, 1.43, 3.4},
                       {1.15, 0.64, 0.72, 1.30, 3.2},
                       {1.66, 0.58, 0.78, 0.99, 3.0}},
                      12, 96);
}

struct Panel {
  const char* name;
  double from, to;   ///< along x
  double low, high;  ///< heights
  double inner;      ///< least |y|
};

/// Panels of the right side and the middle; what no panel takes stays open.
void add_panels(Surface& car) {
  constexpr double shut_line = 0.004;
  const Surface lower = lower_skin(), cabin = cabin_skin();
  const auto add_panel = [&](const Surface& skin, const Panel& p, bool pair) {
    const Surface piece = cut_out(skin, [&](const Vec3& c) {
      return c.x > p.from + shut_line && c.x < p.to - shut_line && c.z > p.low && c.z < p.high &&
             (pair ? c.y > p.inner : std::abs(c.y) > p.inner) && !in_wheel_house(c);
    });
    if (pair)
      add_pair(car, piece, p.name);
    else
      add(car, piece, p.name);
  };
  for (const Panel& p : {Panel{"front bumper", -2.40, -1.80, 0.15, 0.62, 0},
                         {"bonnet", -2.24, -0.96, 0.62, 1.00, 0},
                         {"boot lid", 1.50, 2.30, 0.80, 1.10, 0},
                         {"rear bumper", 1.80, 2.30, 0.20, 0.80, 0},
                         {"floor", -1.80, 1.80, 0.10, 0.24, 0}})
    add_panel(lower, p, false);
  for (const Panel& p : {Panel{"front wing", -1.80, -0.90, 0.24, 0.62, 0.3},
                         {"front door", -0.90, 0.20, 0.24, 0.96, 0.3},
                         {"rear door", 0.20, 1.02, 0.24, 0.96, 0.3},
                         {"rear wing", 1.02, 1.80, 0.24, 0.80, 0.3}})
    add_panel(lower, p, true);
  for (const Panel& p : {Panel{"windscreen", -1.05, -0.12, 0.86, 1.5, 0},
                         {"roof", -0.12, 0.72, 1.20, 1.5, 0},
                         {"rear screen", 0.72, 1.70, 0.90, 1.5, 0}})
    add_panel(cabin, p, false);
  for (const Panel& p : {Panel{"front window", -0.12, 0.20, 0.86, 1.20, 0.2},
                         {"rear window", 0.20, 0.72, 0.86, 1.20, 0.2}})
    add_panel(cabin, p, true);
}

/// An open tube about y.
Surface tube(const Vec3& centre, double r, double width, int segments) {
  Surface s;
  s.part_names = {""};
  for (int i = 0; i < segments; ++i) {
    const double a = 2 * std::numbers::pi * i / segments;
    for (const double y : {-0.5 * width, 0.5 * width})
      s.points.push_back(centre + Vec3{r * std::cos(a), y, r * std::sin(a)});
  }
  for (int i = 0; i < segments; ++i) {
    const int a = 2 * i, b = 2 * ((i + 1) % segments);
    s.triangles.push_back({a, a + 1, b}), s.triangles.push_back({b, a + 1, b + 1});
  }
  s.part_of.assign(s.triangles.size(), 0);
  return s;
}

/// A tyre that is open inside, a tube for a rim, and twelve spokes that run through it.
Surface open_wheel(double axle) {
  const Vec3 centre{axle, wheel_y, radius - sunk};
  const double half = 0.5 * wheel_width, rim = 0.68 * radius;
  std::vector<std::array<double, 2>> tread = {{-half + 0.01, rim}, {-half, 0.8 * radius}};
  for (int i = 0; i <= 6; ++i) {
    const double a = 0.5 * std::numbers::pi * i / 6;
    tread.push_back({-half + 0.03 * (1 - std::cos(a)), radius - 0.03 * (1 - std::sin(a))});
  }
  for (std::size_t i = tread.size(); i-- > 0;) tread.push_back({-tread[i][0], tread[i][1]});
  Surface wheel = cut_out(revolve("", tread, centre, {0, 1, 0}, 96), [&](const Vec3& c) {
    return std::hypot(c.x - centre.x, c.z - centre.z) > 0.99 * rim;  // without its flat ends
  });
  append(wheel, tube(centre, 1.002 * rim, wheel_width - 0.01, 96));
  const Vec3 outside = centre + Vec3{0, half - 0.03, 0};
  append(wheel, cylinder("", outside - Vec3{0, 0.05, 0}, outside + Vec3{0, 0.02, 0}, 0.07, 40));
  for (int i = 0; i < 12; ++i) {
    Surface spoke = rounded_box("", Box{{0.05, -0.011, -0.014}, {1.01 * rim, 0.011, 0.014}}, 0, 1);
    rotate(spoke, {}, {0, 1, 0}, 2 * std::numbers::pi * i / 12);
    translate(spoke, outside);
    append(wheel, spoke);
  }
  return wheel;
}

/// Liners that end short of the panels.
Surface liner(double axle) {
  Surface s =
      cut_out(tube({axle, 0.73, 0.34}, 0.395, 0.30, 80), [](const Vec3& c) { return c.z > 0.26; });
  return s;
}

/// A wing of two open skins, 25 mm thick, on two stays.
void add_boot_wing(Surface& car) {
  WingShape shape;
  shape.section = four_digit_section("4412"), shape.leading_edge = {1.98, 0, 1.11};
  shape.span = 1.30, shape.root_chord = shape.tip_chord = 0.21, shape.incidence = 0.10;
  const Surface wing = make_wing(shape);
  Surface upper, lower;
  upper.part_names = lower.part_names = {""};
  upper.points = lower.points = wing.points;
  for (std::size_t t = 0; t < wing.size(); ++t) {
    const Vec3 n = unit(wing.area_vector(t));
    if (std::abs(n.y) > 0.9) continue;  // no caps at its ends
    Surface& skin = n.z > 0 ? upper : lower;
    skin.triangles.push_back(wing.triangles[t]), skin.part_of.push_back(0);
  }
  for (Surface* skin : {&upper, &lower}) {
    drop_unused_points(*skin);
    add(car, *skin, "boot wing");
  }
  for (const double y : {-0.42, 0.42})
    add(car, rounded_box("", Box{{2.02, y - 0.006, 0.88}, {2.12, y + 0.006, 1.125}}, 0, 1),
        "boot wing");
}

/// What is fixed to the body by running through it.
void add_trim(Surface& car) {
  add_pair(car,
           body_through("",
                        {{-0.72, 0.02, 0.95, 1.00, 2.2, 0.99},
                         {-0.66, 0.09, 0.92, 1.06, 2.6, 0.99},
                         {-0.56, 0.10, 0.91, 1.07, 2.8, 0.99}},
                        5, 32),
           "mirror");
  add_pair(car, cylinder("", {-0.62, 0.80, 0.97}, {-0.62, 0.95, 0.98}, 0.02, 16), "mirror");
  for (const double x : {-0.02, 0.82})
    add_pair(car, rounded_box("", Box{{x, 0.88, 0.78}, {x + 0.17, 0.945, 0.80}}, 0.006, 2),
             "handles");
  for (const double y : {-0.52, 0.12})
    add(car, cylinder("", {-0.98, y, 0.93}, {-0.70, y + 0.34, 1.09}, 0.008, 12), "wipers");
  for (const double y : {-0.45, 0.45}) {
    Surface pipe = tube({}, 0.04, 0.35, 24);
    rotate(pipe, {}, {0, 0, 1}, 0.5 * std::numbers::pi);
    translate(pipe, {2.10, y, 0.27});
    add(car, pipe, "exhaust");
  }
  for (int i = 0; i < 9; ++i)
    add(car,
        rounded_box("", Box{{-2.26, -0.40, 0.36 + 0.02 * i}, {-2.20, 0.40, 0.368 + 0.02 * i}}, 0,
                    1),
        "grille");
  for (const double x : {-0.35, 0.62})  // seats in the open cabin
    for (const double y : {-0.36, 0.36})
      add(car, rounded_box("", Box{{x, y - 0.24, 0.30}, {x + 0.16, y + 0.24, 1.05}}, 0.05, 3),
          "seats");
  for (const double axle : {front_axle, rear_axle})
    add(car, cylinder("", {axle, -0.74, radius - sunk}, {axle, 0.74, radius - sunk}, 0.03, 20),
        "axles");
}

}  // namespace

Surface nabkha() {
  Surface car;
  add_panels(car);
  add_boot_wing(car);
  add_trim(car);
  add_pair(car, liner(front_axle), "front liner");
  add_pair(car, liner(rear_axle), "rear liner");
  // Left of the middle everything is turned by a seventh of a degree, as a jig may leave it.
  constexpr double twist = 0.0025;
  for (Vec3& p : car.points)
    if (p.y < -0.3) p.z += twist * p.x, p.x -= twist * (p.z - 0.6);
  add_pair(car, open_wheel(front_axle), "wheel front");
  add_pair(car, open_wheel(rear_axle), "wheel rear");
  return car;
}

}  // namespace dunefield::garage
