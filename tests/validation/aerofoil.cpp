// Aerofoil NACA 0012 at a Reynolds number of six million: in a mesh made by hand with 150 chords of
// air around it, and in one of our mesher.
#include <cmath>
#include <complex>
#include <numbers>

#include <fmt/format.h>

#include <dunefield/geometry/shapes/shapes.hpp>

#include "validation.hpp"

namespace dunefield::validation {
namespace {

using std::numbers::pi;
constexpr double span = 0.01;
using Complex = std::complex<double>;

/// The thickness formula with a sharp trailing edge at x = 1.
double half_thickness(double x) {
  return 0.594689181 * (0.298222773 * std::sqrt(x) - 0.127125232 * x - 0.357907906 * x * x +
                        0.291984971 * x * x * x - 0.105174606 * x * x * x * x);
}

/// The map of von Karman and Trefftz (1918), which opens the aerofoil, its trailing edge included,
/// into nearly a circle.
struct Map {
  double tail = 1, focus = 0.0079, power;
  double tail_image, focus_image;
  Map() {
    const double slope = (half_thickness(1 - 1e-6) - half_thickness(1)) / 1e-6;
    power = 2 - 2 * std::atan(slope) / pi;
    const double middle = 0.5;
    tail_image = middle + (tail - focus) / (2 * power),
    focus_image = middle - (tail - focus) / (2 * power);
  }
  Complex to_circle(Complex z) const {
    const Complex w = std::pow((z - tail) / (z - focus), 1 / power);
    return (tail_image - focus_image * w) / (1.0 - w);
  }
  Complex from_circle(Complex s) const {
    const Complex q = std::pow((s - tail_image) / (s - focus_image), power);
    return (tail - focus * q) / (1.0 - q);
  }
};

/// A ring of cells around the aerofoil, clockwise from the trailing edge.
VolumeMesh ring_around(int around, int across, double first, double far) {
  const Map map;
  constexpr int samples = 4000;
  // angle from 0 (trailing edge) to pi, and radius, of the upper side's image
  std::vector<std::pair<double, double>> polar;
  const Complex centre(0.5 * (map.tail_image + map.to_circle(Complex(0, 0)).real()), 0);
  for (int i = 0; i <= samples; ++i) {
    const double x = 0.5 * (1 + std::cos(pi * i / samples));
    const Complex s =
        map.to_circle(i == 0 ? Complex(1 + 1e-12, 0) : Complex(x, half_thickness(x))) - centre;
    polar.push_back({i == 0 ? 0 : i == samples ? pi : std::arg(s), std::abs(s)});
  }
  const auto radius = [&](double angle) {
    const double a = std::abs(std::remainder(angle, 2 * pi));
    auto above = std::lower_bound(polar.begin(), polar.end(), std::pair{a, 0.0});
    if (above == polar.begin()) return above->second;
    if (above == polar.end()) return polar.back().second;
    const auto below = above - 1;
    return below->second + (above->second - below->second) * (a - below->first) /
                               std::max(1e-300, above->first - below->first);
  };
  // Growth that brings `across` cells from the first height to the far side.
  const double mean = 0.5 * (radius(0) + radius(pi));
  double low = 1.0001, high = 2;
  for (int i = 0; i < 60; ++i) {
    const double g = 0.5 * (low + high);
    (first * (std::pow(g, across) - 1) / (g - 1) < far ? low : high) = g;
  }
  return structured_mesh(
      around, across, 1,
      [&](const Vec3& a) {
        const double angle = -2 * pi * a.x,
                     out = first * (std::pow(low, std::round(a.y * across)) - 1) / (low - 1);
        // From the image of the aerofoil to a circle: what sets them apart fades within a chord.
        const double r = out + mean + (radius(angle) - mean) * std::exp(-out / 0.3);
        const Complex z = map.from_circle(centre + std::polar(r, angle));
        return Vec3{z.real(), z.imag(), span * a.z};
      },
      true);
}

Vec3 direction(double degrees) {
  return {std::cos(degrees * pi / 180), std::sin(degrees * pi / 180), 0};
}

/// The stream with what a vortex at the quarter chord, of the lift's circulation, adds to it: even
/// at 150 chords that turns it by half a thousandth, which times the lift is five per cent of the
/// drag. @param up axis of the lift
std::function<Vec3(const Vec3&)> stream_with_vortex(const Vec3& stream, double cl, int up) {
  return [stream, circulation = 0.5 * cl, up](const Vec3& x) {
    const double dx = x.x - 0.25, dy = x[up];
    Vec3 u = stream;
    u.x += circulation / (2 * pi) * dy / (dx * dx + dy * dy);
    u[up] -= circulation / (2 * pi) * dx / (dx * dx + dy * dy);
    return u;
  };
}

Result aerofoil(double degrees, double cl, double cd) {
  constexpr int around = 256, across = 110;
  const Vec3 stream = direction(degrees);
  // First cells, in the plane of the circle, whose centres are at y+ of about 0.8; the aerofoil is
  // twice as long as the circle is wide.
  VolumeMesh mesh = ring_around(around, across, 4e-6, 150);
  // The stream leaves through 30 degrees each way of where it points to: the first and the last
  // faces of the ring. Elsewhere it is given.
  part_boundary(mesh, 1, around / 12 - static_cast<int>(std::lround(around * degrees / 360)),
                "far side");
  part_boundary(mesh, 2, around - around / 6, "outflow above");
  const auto far = stream_with_vortex(stream, cl, 1);
  FlowCase c = test::laminar(1 / 6e6, {test::wall(), test::outflow(), test::stream(far),
                                       test::outflow(), test::slip(), test::slip()});
  c.options.turbulence = TurbulenceModel::sst;
  c.options.courant = 10;
  c.initial_velocity = stream;
  Solver solver(mesh, c);
  const auto lift = [&] {
    return dot(solver.force(0), Vec3{-stream.y, stream.x, 0}) / (0.5 * span);
  };
  const auto drag = [&] { return dot(solver.force(0), stream) / (0.5 * span); };
  const int iterations = solver.until_steady([&] { return drag() + lift(); }, 1e-4, 8000, 200);
  return {{{fmt::format("CL at {:.0f} degrees", degrees), cl, 0.03, lift(), cl == 0 ? 1.0 : 0},
           {fmt::format("CD at {:.0f} degrees", degrees), cd, 0.1, drag()}},
          mesh.cells,
          iterations};
}

/// A piece of the wing, its nose turned up about the quarter chord, that sticks out of both side
/// walls of a tunnel of one root cube's width.
Surface wing_through(double width, const Vec3& turned) {
  constexpr int points = 400;
  std::vector<std::vector<Vec3>> rings;
  for (const double y : {-0.5 * width, 1.5 * width}) {
    std::vector<Vec3> ring;
    for (int i = 0; i < 2 * points; ++i) {  // over the upper side forward, back along the lower
      const double x = 0.5 * (1 + std::cos(pi * i / points));
      const double z = (i < points ? 1 : -1) * half_thickness(std::clamp(x, 0.0, 1.0)),
                   ahead = x - 0.25;
      ring.push_back({0.25 + ahead * turned.x + z * turned.y, y, z * turned.x - ahead * turned.y});
    }
    rings.push_back(ring);
  }
  return loft("wing", rings);
}

/// In our own mesh: leaves of 1/256 chord, along the nose of 1/512, six layers whose first has its
/// centre at y+ of about 30; 20 chords of air.
Result meshed_aerofoil(double degrees, double cl, double cd) {
  constexpr double far_side = 20, width = 0.125;
  const Vec3 stream{1, 0, 0};
  MeshOptions o;
  o.surface_size = 1.0 / 256, o.largest_size = width, o.half = true;
  o.smallest_size = o.edge_size = o.surface_size / 2, o.cells_per_turn = 32, o.spread = 6;
  o.layers.count = 6, o.layers.growth = 1.4, o.layers.first_height = 2.5e-4;
  o.boxes.push_back({"around", Box{{-1, 0, -1}, {2.5, width, 1}}, 1.0 / 32});
  const MeshResult m = build_mesh(wing_through(width, direction(degrees)),
                                  Box{{-far_side, 0, -far_side}, {far_side, width, far_side}}, o);
  const auto far = stream_with_vortex(stream, cl, 2);
  FlowCase c = test::laminar(1 / 6e6, {});
  std::size_t wing = 0;
  for (std::size_t i = 0; i < m.mesh.boundaries.size(); ++i) {
    const BoundaryKind kind = m.mesh.boundaries[i].kind;
    if (kind == BoundaryKind::part) wing = i;
    c.conditions.push_back(kind == BoundaryKind::part      ? test::wall()
                           : kind == BoundaryKind::outflow ? test::outflow()
                           : kind == BoundaryKind::side || kind == BoundaryKind::centre_plane
                               ? test::slip()
                               : test::stream(far));
  }
  c.options.turbulence = TurbulenceModel::sst;
  c.initial_velocity = stream;
  Solver solver(m.mesh, c);
  const auto lift = [&] { return solver.force(wing).z / (0.5 * width); };
  const auto drag = [&] { return solver.force(wing).x / (0.5 * width); };
  const int iterations = solver.until_steady([&] { return drag() + lift(); }, 1e-4, 2000, 100);
  return {{{fmt::format("CL at {:.0f} degrees", degrees), cl, 0.03, lift(), cl == 0 ? 1.0 : 0},
           {fmt::format("CD at {:.0f} degrees", degrees), cd, 0.1, drag()}},
          m.mesh.cells,
          iterations};
}

/// Without friction, at a Mach number; 0: of constant density.
struct Frictionless {
  double cl = 0, cl_karman_tsien = 0, stagnation = 0;
  int cells = 0, iterations = 0;
};

Frictionless frictionless(double degrees, double mach, double karman_tsien_at) {
  constexpr int around = 193, across = 72;  // odd: the middle of a face lies where the air rests
  const Vec3 stream = direction(degrees);
  VolumeMesh mesh = ring_around(around, across, 1e-3, 60);
  part_boundary(mesh, 1, around / 12, "far side");
  part_boundary(mesh, 2, around - around / 6, "outflow above");
  const auto far = stream_with_vortex(stream, degrees * 0.14, 1);
  FlowCase c = test::laminar(1e-8, {test::slip(), test::outflow(), test::stream(far),
                                    test::outflow(), test::slip(), test::slip()});
  c.initial_velocity = stream;
  if (mach > 0) {
    c.fast = FastAir{};
    c.fast->temperature = 1, c.fast->gas_constant = 1 / (c.fast->heat_ratio * mach * mach);
  }
  Solver solver(mesh, c);
  const auto lift = [&] {
    const Vec3 f = solver.force(0);
    return (f.y * stream.x - f.x * stream.y) / (0.5 * span);
  };
  Frictionless out;
  out.iterations = solver.until_steady([&] { return lift() + 1; }, 1e-5, 3000);
  out.cells = mesh.cells, out.cl = lift();
  const FlowState& s = solver->state();
  const double beta = std::sqrt(1 - karman_tsien_at * karman_tsien_at);
  const Boundary& body = solver.share().boundaries[0];
  for (int i = body.first; i < body.first + body.count; ++i) {
    const double cp = 2 * s.boundary_pressure[at(i)];
    out.stagnation = std::max(out.stagnation, cp);
    // Karman 1941, Tsien 1939
    const double compressed =
        cp / (beta + karman_tsien_at * karman_tsien_at / (1 + beta) * 0.5 * cp);
    const Vec3 f = solver.share().boundary_faces[at(i)].area * compressed;
    out.cl_karman_tsien += (f.y * stream.x - f.x * stream.y) / span;
  }
  return out;
}

/// Cp where the air comes to rest (isentropic).
double stagnation_cp(double mach) {
  return (std::pow(1 + 0.2 * mach * mach, 3.5) - 1) / (0.7 * mach * mach);
}

Result fast_aerofoil() {
  const Frictionless slow = frictionless(2, 0, 0.5), fast = frictionless(2, 0.5, 0.5),
                     at_03 = frictionless(0, 0.3, 0.3), at_06 = frictionless(0, 0.6, 0.6);
  const double glauert = slow.cl / std::sqrt(0.75), tsien = slow.cl_karman_tsien,
               middle = 0.5 * (glauert + tsien);
  return {{{"CL at Mach 0.5 (between Prandtl-Glauert and Karman-Tsien)", middle,
            std::abs(tsien - glauert) / 2 / middle + 0.02, fast.cl},
           {"CL of constant density", 0.2416, 0, slow.cl},
           {"Cp where the air rests, Mach 0.3", stagnation_cp(0.3), 0.005, at_03.stagnation},
           {"Cp where the air rests, Mach 0.6", stagnation_cp(0.6), 0.005, at_06.stagnation}},
          fast.cells,
          fast.iterations};
}

}  // namespace

std::vector<Case> aerofoil_cases() {
  const std::string ours = "NACA 0012, Re 6e6, SST, our mesher, wall law, 20 chords";
  const std::string by_hand = "NACA 0012, Re 6e6, SST, 150 chords";
  return {
      {"aerofoil-0", by_hand, [] { return aerofoil(0, 0, 0.0081); }},
      {"aerofoil-10", by_hand, [] { return aerofoil(10, 1.07, 0.0123); }},
      {"aerofoil-meshed-0", ours, [] { return meshed_aerofoil(0, 0, 0.0081); }},
      {"aerofoil-meshed-10", ours, [] { return meshed_aerofoil(10, 1.07, 0.0123); }},
      {"aerofoil-fast", "NACA 0012 without friction, 2 degrees, Mach 0.5; nose at Mach 0.3 and 0.6",
       fast_aerofoil}};
}

}  // namespace dunefield::validation
