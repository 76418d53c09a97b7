#include <cmath>
#include <cstdio>
#include <numbers>

#include "validation.hpp"

#include <dunefield/base/index.hpp>

namespace dunefield::validation {

Solver::Solver(const VolumeMesh& mesh, const FlowCase& flow_case)
    : mesh_(mesh),
      distance_(wall_distances(mesh, flow_case.conditions)),
      share_(distribute(&mesh_, &distance_, comm_)),
      solver_(share_, flow_case, comm_) {
  solver_.start();
}

Vec3 Solver::force(std::size_t boundary) const {
  const auto loads = solver_.state().loads;
  Vec3 sum;
  for (int i = share_.boundaries[boundary].first;
       i < share_.boundaries[boundary].first + share_.boundaries[boundary].count; ++i)
    sum += loads[at(i)].pressure + loads[at(i)].friction;
  return sum;
}

int Solver::step_in_time(double fall, int most) {
  solver_.next_moment();
  const double first = solver_.iterate().momentum_residual;
  for (int i = 1; i < most; ++i)
    if (solver_.iterate().momentum_residual < fall * first) return i + 1;
  return most;
}

int Solver::until_steady(const std::function<double()>& value, double change, int most, int every) {
  double before = value();
  for (int i = 1; i <= most; ++i) {
    solver_.iterate();
    if (i % every) continue;
    const double now = value();
    if (trace) std::fprintf(stderr, "%6d  %.6g\n", i, now);
    if (std::abs(now - before) < change * std::abs(now)) return i;
    before = now;
  }
  return most;
}

VolumeMesh ring_around_cylinder(int around, int across) {
  using std::numbers::pi;
  constexpr double far = 60;
  VolumeMesh mesh = structured_mesh(
      around, across, 1,
      [&](const Vec3& a) {
        const double r = 0.5 * std::pow(2 * far, a.y), angle = pi / 2 - 2 * pi * a.x;
        return Vec3{r * std::cos(angle), r * std::sin(angle), 0.1 * a.z};
      },
      true);
  part_boundary(mesh, 1, around / 2, "inflow");
  return mesh;
}

void part_boundary(VolumeMesh& mesh, std::size_t boundary, int count, const std::string& name) {
  Boundary& p = mesh.boundaries[boundary];
  const Boundary rest{name, p.kind, p.first + count, p.count - count};
  p.count = count;
  mesh.boundaries.insert(mesh.boundaries.begin() + static_cast<std::ptrdiff_t>(boundary) + 1, rest);
}

std::vector<double> graded(double first, double growth, double largest, double end) {
  std::vector<double> y = {0};
  for (double h = first; y.back() < end; h = std::min(h * growth, largest))
    y.push_back(y.back() + h);
  // Of the surplus each cell but the first gives up its share.
  const double keep = (end - first) / (y.back() - first);
  for (std::size_t i = 2; i < y.size(); ++i) y[i] = first + (y[i] - first) * keep;
  return y;
}

}  // namespace dunefield::validation
