// Flows whose exact solution is known.
#include <gtest/gtest.h>

#include <numbers>

#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

constexpr double pi = std::numbers::pi;

/// Vortices in the unit square with no flow through its sides; the body force makes them steady.
struct Manufactured {
  double nu = 0.05;
  static Vec3 u(const Vec3& x) {
    return {std::sin(pi * x.x) * std::cos(pi * x.y), -std::cos(pi * x.x) * std::sin(pi * x.y), 0};
  }
  static double p(const Vec3& x) { return std::cos(pi * x.x) * std::cos(pi * x.y); }
  Vec3 force(const Vec3& x) const {
    const double sx = std::sin(pi * x.x), cx = std::cos(pi * x.x), sy = std::sin(pi * x.y),
                 cy = std::cos(pi * x.y);
    const Vec3 convection = {pi * sx * cx, pi * sy * cy, 0};
    const Vec3 pressure = {-pi * sx * cy, -pi * cx * sy, 0};
    return convection + pressure + u(x) * (2 * pi * pi * nu);
  }
  FlowCase flow_case() const {
    const auto given = [] { return stream([](const Vec3& x) { return u(x); }); };
    FlowCase c = laminar(nu, {given(), given(), given(), given(), slip(), slip()});
    c.options.body_force = [*this](const Vec3& x) { return force(x); };
    return c;
  }
};

struct Errors {
  double u, p;
};

Errors manufactured_errors(const VolumeMesh& mesh) {
  const Manufactured m;
  const Solution s = solve(mesh, m.flow_case(), 3000, 1e-6);
  std::vector<double> p = s.fields.p;
  double mean = 0, volume = 0;
  for (std::size_t c = 0; c < p.size(); ++c)
    mean += (p[c] - Manufactured::p(mesh.cell_centre[c])) * mesh.cell_volume[c],
        volume += mesh.cell_volume[c];
  for (double& v : p) v -= mean / volume;
  return {rms_error(mesh, s.fields.u, [](const Vec3& x) { return Manufactured::u(x); }),
          rms_error(mesh, p, Manufactured::p)};
}

VolumeMesh sheared(int n) {
  // Interior points wander, the sides stay.
  return structured_mesh(n, n, 1, [n](const Vec3& a) {
    const double bump = 0.05 * std::sin(pi * a.x) * std::sin(pi * a.y);
    return Vec3{a.x + bump * std::sin(2 * pi * a.y), a.y + bump, a.z / n};
  });
}

VolumeMesh octree_graded(double h) {
  MeshOptions o;
  o.surface_size = h, o.largest_size = 2 * h;
  o.box_margin_cells = 0;
  o.boxes.push_back({"middle", Box{{0.25, 0.25, 0}, {0.6, 0.7, 1}}, h});
  return build_mesh(Surface{}, Box{{0, 0, 0}, {1, 1, 4 * h}},
                    [&] {
                      o.half = true;
                      return o;
                    }())
      .mesh;
}

double order(double coarse, double fine) { return std::log2(coarse / fine); }

TEST(ManufacturedSolution, IsSecondOrderOnUniformMeshes) {
  const auto box = [](int n) {
    return structured_mesh(n, n, 1, [n](const Vec3& a) { return Vec3{a.x, a.y, a.z / n}; });
  };
  const Errors coarse = manufactured_errors(box(16)), fine = manufactured_errors(box(32));
  EXPECT_GE(order(coarse.u, fine.u), 1.9) << coarse.u << " " << fine.u;
  EXPECT_GE(order(coarse.p, fine.p), 1.5) << coarse.p << " " << fine.p;
}

TEST(ManufacturedSolution, IsSecondOrderOnShearedMeshes) {
  const Errors coarse = manufactured_errors(sheared(16)), fine = manufactured_errors(sheared(32));
  EXPECT_GE(order(coarse.u, fine.u), 1.7) << coarse.u << " " << fine.u;
  EXPECT_GE(order(coarse.p, fine.p), 1.5) << coarse.p << " " << fine.p;
}

TEST(ManufacturedSolution, IsSecondOrderOnOctreeGradedMeshes) {
  const Errors coarse = manufactured_errors(octree_graded(1.0 / 40)),
               fine = manufactured_errors(octree_graded(1.0 / 80));
  EXPECT_GE(order(coarse.u, fine.u), 1.7) << coarse.u << " " << fine.u;
  EXPECT_GE(order(coarse.p, fine.p), 1.5) << coarse.p << " " << fine.p;
}

TEST(Poiseuille, IsAParabolaToSecondOrder) {
  const auto profile = [](const Vec3& x) { return Vec3{4 * x.y * (1 - x.y), 0, 0}; };
  const auto error = [&](int n) {
    const VolumeMesh mesh = structured_mesh(n, n, 1, [n](const Vec3& a) {
      return Vec3{2 * a.x, a.y, a.z / n};
    });
    FlowCase c = laminar(0.1, {stream(profile), outflow(), wall(), wall(), slip(), slip()});
    return rms_error(mesh, solve(mesh, c, 2500, 1e-8).fields.u, profile);
  };
  const double coarse = error(16), fine = error(32);
  EXPECT_GE(order(coarse, fine), 1.9) << coarse << " " << fine;
}

TEST(Couette, IsLinearToRounding) {
  const int n = 12;
  const VolumeMesh mesh = structured_mesh(n, n, 1, [n](const Vec3& a) {
    return Vec3{a.x, std::pow(a.y, 1.3), a.z / n};
  });
  const auto line = [](const Vec3& x) { return Vec3{x.y, 0, 0}; };
  const Solution s =
      solve(mesh, laminar(0.1, {stream(line), outflow(), wall(), wall({1, 0, 0}), slip(), slip()}),
            600, 1e-11);
  EXPECT_LT(rms_error(mesh, s.fields.u, line), 1e-8);
}

TEST(Couette, IsLinearAlongInclinedWallsOfOurMesher) {
  // Two slabs, turned by 17 degrees about the crosswise axis, leave a channel of height 1 along t,
  // from n . x = 0 to 1.
  const double angle = 17 * pi / 180;
  const Vec3 t{std::cos(angle), 0, std::sin(angle)}, n{-std::sin(angle), 0, std::cos(angle)},
      low{0, 0, 2.5};
  const auto slab = [&](const std::string& part, double from, double to) {
    Surface s = rounded_box(part, Box{{-9, -3, from}, {9, 3, to}}, 0);
    for (Vec3& p : s.points) p = low + t * p.x + n * p.z + Vec3{0, p.y, 0};
    return s;
  };
  Surface slabs = slab("lower", -9, 0);
  append(slabs, slab("upper", 1, 9));
  MeshOptions o;
  o.surface_size = 0.11, o.largest_size = 0.22;
  const MeshResult m = build_mesh(slabs, Box{{-1, -0.4, 0}, {1, 0.4, 6}}, o);
  const auto line = [&](const Vec3& x) { return t * dot(n, x - low); };
  std::vector<BoundaryCondition> conditions;
  for (const Boundary& p : m.mesh.boundaries) {
    if (p.name == "lower")
      conditions.push_back(wall());
    else if (p.name == "upper")
      conditions.push_back(wall(t));
    else if (p.kind == BoundaryKind::side)
      conditions.push_back(slip());
    else
      conditions.push_back(stream(line));
  }
  EXPECT_GT(m.quality.cells, 1000);
  // Without convection all operators are exact for a linear velocity, whatever the cells look like.
  const Solution creeping = solve(m.mesh, laminar(1e4, conditions), 4000, 1e-9);
  EXPECT_LT(rms_error(m.mesh, creeping.fields.u, line), 1e-8);
  // With it, the midpoint rule on faces oblique to the stream leaves a second-order error.
  const Solution inert = solve(m.mesh, laminar(0.1, conditions), 300, 1e-6);
  EXPECT_LT(rms_error(m.mesh, inert.fields.u, line), 2e-4);
}

TEST(RotatingCylinders, HaveTheExactProfileAndTorque) {
  constexpr double r1 = 1, r2 = 2, w = 1, nu = 0.1;
  const int around = 96, across = 24;
  const VolumeMesh mesh = structured_mesh(
      around, across, 1,
      [&](const Vec3& a) {
        const double r = r1 + (r2 - r1) * a.y, angle = -2 * pi * a.x;
        return Vec3{r * std::cos(angle), r * std::sin(angle), 0.1 * a.z};
      },
      true);
  BoundaryCondition inner = wall();
  inner.spin = {0, 0, w};
  const Solution s = solve(mesh, laminar(nu, {inner, wall(), slip(), slip()}), 4000, 1e-7);
  const double a = -w * r1 * r1 / (r2 * r2 - r1 * r1),
               b = w * r1 * r1 * r2 * r2 / (r2 * r2 - r1 * r1);
  const auto exact = [&](const Vec3& x) {
    const double r = std::hypot(x.x, x.y), u = a * r + b / r;
    return Vec3{-u * x.y / r, u * x.x / r, 0};
  };
  EXPECT_LT(rms_error(mesh, s.fields.u, exact), 0.005 * w * r1);
  const double torque = -s.balance.parts[0].total().moment.z / 0.1;
  EXPECT_NEAR(torque / (4 * pi * nu * w * r1 * r1 * r2 * r2 / (r2 * r2 - r1 * r1)), 1, 0.01);
}

class EmptyTunnel : public testing::TestWithParam<double> {};

TEST_P(EmptyTunnel, LeavesAUniformStreamUnchanged) {
  const double yaw = GetParam() * pi / 180;
  const Vec3 u{20 * std::cos(yaw), 20 * std::sin(yaw), 0};
  MeshOptions o;
  o.surface_size = 0.5, o.largest_size = 2;
  o.boxes.push_back({"middle", Box{{-2, -1, 0}, {2, 1, 1}}, 0.5});
  const VolumeMesh mesh = build_mesh(Surface{}, Box{{-8, -4, 0}, {8, 4, 6}}, o).mesh;
  const bool turned = yaw != 0;
  FlowCase c;
  c.conditions = {stream(u), outflow(), turned ? stream(u) : slip(), turned ? outflow() : slip(),
                  wall(u),   slip()};
  c.reference_speed = norm(u);
  c.initial_velocity = u;
  for (const TurbulenceModel model : {TurbulenceModel::laminar, TurbulenceModel::sst}) {
    c.options.turbulence = model;
    const Solution s = solve(mesh, c, 20, 0);
    EXPECT_LT(rms_error(mesh, s.fields.u, [&](const Vec3&) { return u; }), 1e-11 * norm(u));
    EXPECT_LT(rms_error(mesh, s.fields.p, [](const Vec3&) { return 0.0; }), 1e-11 * norm2(u));
  }
}

INSTANTIATE_TEST_SUITE_P(Yaw, EmptyTunnel, testing::Values(0.0, 10.0));

}  // namespace
}  // namespace dunefield::test
