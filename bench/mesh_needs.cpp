// What a mesh must be like for the flow solver: a channel whose exact flow is known, with ever
// worse faces across its middle. For each measure of mesh quality: the error against that of the
// regular mesh, and the iterations until the residual has fallen a thousandfold.
//   build/release/bin/mesh_needs
// The limits in mesh/quality come from its table (docs/theory/method.md, "What a mesh must be
// like").
#include <cmath>
#include <cstdio>
#include <functional>

#include <fmt/format.h>

#include <dunefield/dunefield.hpp>

namespace {

using namespace dunefield;

using Map = std::function<Vec3(const Vec3&)>;
constexpr double nu = 0.02;
/// Of the channel, which is 1 high and 36 by 16 cells: regular cells are 4/3 and 16/3 as long as
/// high.
constexpr double short_channel = 3, long_channel = 12;

/// Fully developed flow between plates 1 apart, mean velocity 1.
Vec3 exact(const Vec3& x) { return {6 * x.z * (1 - x.z), 0, 0}; }

struct Outcome {
  double error = 0;    ///< root mean square of the velocity, over the mean one
  int iterations = 0;  ///< 0: diverged, or never fell that far
};

FlowCase channel(const VolumeMesh& mesh) {
  FlowCase c;
  c.options.turbulence = TurbulenceModel::laminar;
  c.air.kinematic_viscosity = nu;
  c.initial_velocity = {1, 0, 0};
  for (const Boundary& b : mesh.boundaries) {
    BoundaryCondition bc;
    if (b.name == "x-") bc.kind = ConditionKind::stream, bc.profile = exact;
    if (b.name == "x+") bc.kind = ConditionKind::outflow;
    if (b.name == "z-" || b.name == "z+") bc.kind = ConditionKind::wall;
    c.conditions.push_back(bc);
  }
  return c;
}

Outcome solve(const VolumeMesh& mesh) {
  constexpr int most = 1500;
  SoloCommunicator solo;
  const FlowCase c = channel(mesh);
  std::vector<bool> walls;
  for (const Boundary& b : mesh.boundaries) walls.push_back(b.name == "z-" || b.name == "z+");
  const std::vector<double> distance = wall_distances(mesh, walls);
  const FlowMesh share = distribute(&mesh, &distance, solo);
  FlowSolver solver(share, c, solo);
  solver.start();
  Outcome out;
  double first = 0;
  try {
    for (int i = 1; i <= most && out.iterations == 0; ++i) {
      const double residual = solver.iterate().momentum_residual;
      first = std::max(first, i <= 5 ? residual : 0.0);
      if (residual < 1e-3 * first) out.iterations = i;
    }
  } catch (const FlowError&) {
    return out;
  }
  double volume = 0;
  for (std::size_t i = 0; i < mesh.cell_volume.size(); ++i) {
    out.error += mesh.cell_volume[i] * norm2(solver.state().u[i] - exact(mesh.cell_centre[i]));
    volume += mesh.cell_volume[i];
  }
  out.error = std::sqrt(out.error / volume);
  return out;
}

VolumeMesh mesh_of(const Map& map) {
  VolumeMesh m = structured_mesh(36, 3, 16, map);
  m.derive();
  return m;
}

void table(Measure which, double length, const std::vector<double>& strengths,
           const std::function<Map(double)>& family) {
  const Outcome regular = solve(mesh_of([length](const Vec3& a) {
    return Vec3{length * a.x, 0.25 * a.y, a.z};
  }));
  for (const double s : strengths) {
    const VolumeMesh mesh = mesh_of(family(s));
    const MeshQuality q = measure_quality(mesh);
    const MeasureSummary& m = q.of(which);
    const Outcome o = solve(mesh);
    fmt::print("{:14} worst {:8.3g}: {}\n", m.name, m.worst_value(),
               o.iterations == 0
                   ? std::string("did not converge")
                   : fmt::format("{} iterations ({} on the regular mesh), error {:.2f} times that",
                                 o.iterations, regular.iterations, o.error / regular.error));
    std::fflush(stdout);
  }
}

/// Only columns in the middle third are changed.
double inside(double x) { return x > 1.0 / 3 && x < 2.0 / 3 ? 1 : 0; }

/// The point of the regular mesh, moved along the channel.
Vec3 moved(const Vec3& a, double length, double by) { return {length * a.x + by, 0.25 * a.y, a.z}; }
bool is_odd(double share, int count) { return std::lround(share * count) % 2 == 1; }

}  // namespace

int main() {
  // Rows sheared gently: lines of centres oblique to the faces between them.
  table(Measure::obliquity, long_channel, {1, 2, 3, 4, 5, 6, 7}, [](double s) -> Map {
    return [s](const Vec3& a) {
      const double here = std::sin(3.14159265 * a.x);
      return moved(a, long_channel, s * here * here * (a.z - 0.5));
    };
  });
  // Every other line of points moved along: faces beside their lines of centres.
  table(Measure::offset, long_channel, {0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8},
        [](double s) -> Map {
          return [s](const Vec3& a) {
            const double by = is_odd(a.z, 16) ? inside(a.x) * s * long_channel / 36 : 0;
            return moved(a, long_channel, by);
          };
        });
  // Thin columns beside wide ones: sizes that jump, faces near one of their centres.
  for (const Measure which : {Measure::one_sidedness, Measure::size_step})
    table(which, short_channel, {0.5, 0.8, 0.9, 0.91, 0.92, 0.93, 0.94, 0.95}, [](double s) -> Map {
      return [s](const Vec3& a) {
        const double by = is_odd(a.x, 36) ? inside(a.x) * s * short_channel / 36 : 0;
        return moved(a, short_channel, by);
      };
    });
  // Points moved to and fro: warped faces.
  table(Measure::warp, short_channel, {0.1, 0.2, 0.3, 0.4}, [](double s) -> Map {
    return [s](const Vec3& a) {
      const bool odd = is_odd(a.x, 36) != (is_odd(a.y, 3) != is_odd(a.z, 16));
      const double by = inside(a.x) * s * (odd ? 1 : -1);
      Vec3 x = moved(a, short_channel, by * short_channel / 36);
      if (a.z > 0 && a.z < 1) x.z += by / 16;
      return x;
    };
  });
}
