// A time-trial cyclist on a bicycle with a disc behind and a deep rim in front, in two postures.
// Metres, origin mid-wheelbase.
#include <demo/build.hpp>
#include <demo/garage.hpp>
#include <dunefield/geometry/shapes/capsules.hpp>

namespace dunefield::garage {
namespace {

constexpr double front_axle = -0.50, rear_axle = 0.50, radius = 0.335, tyre = 0.025, sunk = 0.003;
const Vec3 bracket{0.075, 0, 0.27};  // where the cranks turn

/// A thin wheel: tyre, and inwards either a disc to the hub or a deep rim with a web of 2 mm that
/// stands for its spokes.
Surface thin_wheel(double x, bool disc) {
  std::vector<std::array<double, 2>> side = {{-0.030, 0}, {-0.030, 0.018}};
  if (disc)
    side.insert(side.end(), {{-0.022, 0.03}, {-0.016, 0.18}, {-0.0115, 0.30}});
  else
    side.insert(side.end(),
                {{-0.012, 0.03}, {-0.004, 0.04}, {-0.004, 0.235}, {-0.010, 0.25}, {-0.0125, 0.29}});
  for (int i = 0; i <= 8; ++i) {
    const double a = std::numbers::pi * (-0.25 + 0.75 * i / 8);
    side.push_back({-0.5 * tyre * std::cos(a), radius - 0.5 * tyre + 0.5 * tyre * std::sin(a)});
  }
  std::vector<std::array<double, 2>> profile = side;
  for (std::size_t i = side.size() - 1; i-- > 0;) profile.push_back({-side[i][0], side[i][1]});
  return revolve("", profile, {x, 0, radius - sunk}, {0, 1, 0}, 120);
}

/// An aerofoil tube between two points: thickness across, depth along the stream.
Surface blade(const Vec3& a, const Vec3& b, double depth, double width) {
  std::vector<std::vector<Vec3>> rings;
  for (const Vec3& c : {a, b}) {
    std::vector<Vec3> ring;
    for (int i = 0; i < 28; ++i) {
      const double t = 2 * std::numbers::pi * i / 28;
      ring.push_back({c.x - 0.5 * depth * std::cos(t),
                      c.y + 0.5 * width * std::sin(t) * (1 + 0.25 * std::cos(t)), c.z});
    }
    rings.push_back(ring);
  }
  return loft("", rings);
}

void add_bicycle(Surface& s) {
  add(s, thin_wheel(front_axle, false), "wheel front");
  add(s, thin_wheel(rear_axle, true), "wheel rear");
  const Vec3 head_low{-0.40, 0, 0.74}, head_high{-0.365, 0, 0.86}, seat{0.22, 0, 0.80},
      saddle{0.24, 0, 0.955};
  add(s, blade(head_low + Vec3{0, 0, -0.02}, head_high, 0.085, 0.042), "frame");
  // Cells of a quarter of the radius: with coarser ones facets of thin tubes bend by as much as
  // sharp edges do.
  const auto tube = [&](const Vec3& a, const Vec3& b, double r) {
    add(s, blend_capsules("", {{a, b, r, r}}, 0.01, 0.25 * r), "frame");
  };
  tube(head_low, bracket, 0.030), tube(head_high + Vec3{0.01, 0, -0.04}, seat, 0.022);
  add(s, blade(bracket, seat, 0.075, 0.036), "frame");
  add(s, blade(seat + Vec3{0, 0, -0.03}, saddle, 0.055, 0.028), "frame");
  for (const double y : {-1.0, 1.0}) {
    add(s, blade({front_axle + 0.005, y * 0.052, 0.32}, {-0.41, y * 0.040, 0.735}, 0.055, 0.016),
        "fork");
    tube({rear_axle, y * 0.062, 0.335}, {0.105, y * 0.036, 0.275}, 0.013);
    tube({rear_axle, y * 0.062, 0.335}, {0.185, y * 0.022, 0.66}, 0.010);
    add(s,
        blend_capsules("",
                       {{{-0.47, 0.0, 0.865}, {-0.47, y * 0.20, 0.865}, 0.013, 0.012},
                        {{-0.47, y * 0.20, 0.865}, {-0.58, y * 0.205, 0.865}, 0.012, 0.012}},
                       0.01, 0.003),
        "handlebar");
    add(s,
        blend_capsules("",
                       {{{-0.40, y * 0.06, 0.905}, {-0.76, y * 0.05, 0.955}, 0.012, 0.012},
                        {{-0.42, y * 0.06, 0.87}, {-0.42, y * 0.06, 0.92}, 0.015, 0.015}},
                       0.01, 0.003),
        "handlebar");
  }
  add(s,
      cylinder("", {front_axle, -0.058, radius - sunk}, {front_axle, 0.058, radius - sunk}, 0.010,
               20),
      "fork");
  add(s,
      cylinder("", {rear_axle, -0.066, radius - sunk}, {rear_axle, 0.066, radius - sunk}, 0.010,
               20),
      "frame");
  add(s,
      blend_capsules("",
                     {{saddle + Vec3{-0.13, 0, 0.015}, saddle + Vec3{0.10, 0, 0.02}, 0.022, 0.045}},
                     0.01, 0.007),
      "saddle");
  // Cranks level, right foot forward.
  for (const double y : {-1.0, 1.0})
    add(s,
        cylinder("", bracket + Vec3{0, y * 0.045, 0}, bracket + Vec3{-y * 0.172, y * 0.085, 0},
                 0.013, 16),
        "cranks");
  add(s, cylinder("", bracket + Vec3{0, -0.06, 0}, bracket + Vec3{0, 0.06, 0}, 0.022, 24),
      "cranks");
  add(s, revolve("", {{0, 0.10}, {0.006, 0.10}}, bracket + Vec3{0, 0.042, 0}, {0, 1, 0}, 64),
      "cranks");
}

/// Where joints are; the right side, mirrored for the left but for the legs.
struct Posture {
  Vec3 shoulder, elbow, hand, neck, head;
  double helmet_tilt;
};

void add_rider(Surface& s, const Posture& p) {
  const Vec3 hip{0.22, 0.085, 0.985}, waist{0.06, 0, 0.5 * (hip.z + p.shoulder.z) + 0.055};
  std::vector<Capsule> c;
  const auto left = [](const Vec3& v) { return Vec3{v.x, -v.y, v.z}; };
  const Vec3 chest{p.shoulder.x + 0.05, 0, p.shoulder.z - 0.02};
  c.push_back({hip + Vec3{0, -0.02, 0}, left(hip) + Vec3{0, 0.02, 0}, 0.118, 0.118});
  c.push_back({{hip.x, 0, hip.z + 0.01}, waist, 0.125, 0.128});
  c.push_back({waist, chest, 0.128, 0.125});
  for (const double y : {-1.0, 1.0}) {
    const auto side = [&](const Vec3& v) { return y > 0 ? v : left(v); };
    c.push_back({{chest.x + 0.02, y * 0.05, chest.z}, side(p.shoulder), 0.105, 0.062});
    c.push_back({side(p.shoulder), side(p.elbow), 0.056, 0.044});
    c.push_back({side(p.elbow), side(p.hand), 0.043, 0.031});
    c.push_back({side(p.hand), side(p.hand) + Vec3{-0.05, 0, 0.015}, 0.034, 0.030});
    // Leg: the right foot forward, the left one back.
    const Vec3 pedal = bracket + Vec3{-y * 0.172, y * 0.115, 0},
               ankle = pedal + Vec3{0.085, 0, 0.105};
    const Vec3 knee = y > 0 ? Vec3{-0.165, 0.100, 0.735} : Vec3{-0.085, -0.100, 0.700};
    c.push_back({side(hip), knee, 0.098, 0.060});
    c.push_back({knee, knee + (ankle - knee) * 0.4, 0.057, 0.058});
    c.push_back({knee + (ankle - knee) * 0.4, ankle, 0.058, 0.038});
    c.push_back({ankle + Vec3{0.025, 0, -0.055}, pedal + Vec3{-0.075, 0, 0.03}, 0.041, 0.030});
  }
  c.push_back({chest, p.neck, 0.085, 0.062});
  c.push_back({p.neck, p.head, 0.062, 0.085});
  add(s, blend_capsules("", c, 0.045, 0.0105), "rider");
  // A helmet drawn out rearward.
  const double t = p.helmet_tilt;
  const Vec3 back{std::cos(t), 0, std::sin(t)};
  add(s,
      blend_capsules("",
                     {{p.head + Vec3{-0.015, 0, 0.025},
                       p.head + Vec3{-0.015, 0, 0.025} + back * 0.09, 0.108, 0.100},
                      {p.head + back * 0.06 + Vec3{0, 0, 0.03},
                       p.head + back * 0.24 + Vec3{0, 0, 0.01}, 0.085, 0.030}},
                     0.05, 0.009),
      "helmet");
}

}  // namespace

Surface rill(RillPosture posture) {
  Surface s;
  add_bicycle(s);
  if (posture == RillPosture::tucked)
    add_rider(s, {{-0.36, 0.165, 1.245},
                  {-0.405, 0.115, 0.985},
                  {-0.715, 0.055, 0.985},
                  {-0.43, 0, 1.275},
                  {-0.525, 0, 1.315},
                  -0.12});
  else
    add_rider(s, {{-0.235, 0.185, 1.365},
                  {-0.33, 0.225, 1.095},
                  {-0.560, 0.205, 0.900},
                  {-0.275, 0, 1.435},
                  {-0.345, 0, 1.535},
                  0.10});
  return s;
}

}  // namespace dunefield::garage
