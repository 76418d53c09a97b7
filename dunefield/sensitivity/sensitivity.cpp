#include <dunefield/sensitivity/sensitivity.hpp>

#include <algorithm>
#include <chrono>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/flow/flow_mesh.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double usual_radius = 0.03;  // of the vehicle's length
constexpr std::size_t most_regions = 10;
constexpr double mm = 1e-3;
constexpr double most_doubt = 0.3;

struct NamedLoad {
  WallWeight weight;
  bool sideways = false;
};

/// @param length of reference, m
NamedLoad load_named(const std::string& name, double length) {
  const double sign = name.starts_with('-') ? -1 : 1;
  const std::string of = sign < 0 ? name.substr(1) : name;
  const Vec3 up{0, 0, sign}, nose_up{0, sign / length, 0};
  if (of == "CD") return {{{sign, 0, 0}, {}}};
  if (of == "CL") return {{up, {}}};
  if (of == "CPM") return {{{}, nose_up}};
  if (of == "CLF") return {{up * 0.5, nose_up}};
  if (of == "CLR") return {{up * 0.5, nose_up * -1.0}};
  if (of == "CY") return {{{0, sign, 0}, {}}, true};
  throw InputError("'" + name + "' has no sensitivity", "--of",
                   "choose CD, CL, CPM, CLF, CLR or CY, with a minus for less of it");
}

/// What the adjoints come to: the last one's value, and what the one before differs by.
struct Told {
  double value = 0, doubt = 0;
};
Told told(const std::vector<double>& by_adjoint, double factor) {
  const double value = by_adjoint.back() * factor;
  return {value, by_adjoint.size() > 1 ? std::abs(value - by_adjoint.front() * factor) : 0};
}

/// The bumps that do most, each with those of the same sign next to it on its part.
std::vector<RewardingRegion> rewarding(const std::vector<Bump>& bumps, double radius, double factor,
                                       const VolumeMesh& mesh) {
  constexpr double reach = 2, alike = 0.3;  // radii; least cosine
  std::vector<std::size_t> order(bumps.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  const auto does = [&](std::size_t i) { return bumps[i].density.back() * bumps[i].area; };
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return std::pair{-std::abs(does(a)), a} < std::pair{-std::abs(does(b)), b};
  });
  std::vector<char> taken(bumps.size(), 0);
  std::vector<RewardingRegion> all;
  for (const std::size_t top : order) {
    if (taken[top] || all.size() == 3 * most_regions) continue;
    const Bump& b = bumps[top];
    RewardingRegion region{mesh.boundaries[at(b.part)].name, b.place, b.normal, 0, 0, 0};
    for (std::size_t i = 0; i < bumps.size(); ++i) {
      const Bump& other = bumps[i];
      if (taken[i] || other.part != b.part || norm(other.place - b.place) > reach * radius ||
          dot(other.normal, b.normal) < alike || does(i) * does(top) < 0)
        continue;
      taken[i] = 1;
      const Told one = told(other.density, factor * other.area * mm);
      region.area += other.area, region.change += one.value, region.doubt += one.doubt;
    }
    all.push_back(region);
  }
  std::sort(all.begin(), all.end(), [](const RewardingRegion& a, const RewardingRegion& b) {
    return std::abs(a.change) > std::abs(b.change);
  });
  if (all.size() > most_regions) all.resize(most_regions);
  return all;
}

/// The bumps' densities on the wall's faces, and by how much both adjoints differ there.
void put_on_wall(const std::vector<Bump>& bumps, double radius, double factor, const Record& record,
                 Sensitivity& out) {
  const VolumeMesh& m = *record.mesh;
  const std::size_t first = at(m.interior_faces());
  out.on_wall.assign(at(m.faces()) - first, 0);
  std::vector<double> before(out.on_wall.size(), 0);
  for (std::size_t p = 0; p < m.boundaries.size(); ++p) {
    const Boundary& b = m.boundaries[p];
    if (b.kind != BoundaryKind::part) continue;
    parallel_for(static_cast<std::size_t>(b.count), [&](std::size_t i) {
      const std::size_t f = at(b.first) + i;
      const Vec3 normal = unit(m.face_area[f]) * -1.0;
      const auto density = [&](std::size_t which) {
        return density_at(bumps, radius, static_cast<int>(p), m.face_centre[f], normal, which) *
               factor * mm;
      };
      const std::size_t last = bumps.front().density.size() - 1;
      out.on_wall[f - first] = density(last), before[f - first] = density(0);
    });
  }
  double differ = 0, whole = 0;
  for (std::size_t i = 0; i < before.size(); ++i) {
    const double area = norm(m.face_area[first + i]), value = out.on_wall[i];
    differ += area * (value - before[i]) * (value - before[i]), whole += area * value * value;
  }
  out.doubt = whole > 0 ? std::sqrt(differ / whole) : 0;
}

}  // namespace

Sensitivity sensitivity(const Record& record, const FlowCase& flow_case,
                        const std::vector<NamedDisplacement>& displacements,
                        const SensitivityOptions& options, const Progress& progress) {
  const auto began = std::chrono::steady_clock::now();
  const NamedLoad load = load_named(options.of, record.reference.length);
  if (load.sideways && record.run.half)
    throw InputError("a half model has no " + options.of, "--of", "run the whole model");
  const VolumeMesh& m = *record.mesh;
  const std::vector<double> distance = wall_distances(m, flow_case.conditions);
  SoloCommunicator solo;
  const FlowMesh share = distribute(&m, &distance, solo);
  FrozenFlow flow(share, flow_case, solo, record.fields);
  flow.residual();
  std::vector<Adjoint> adjoints;
  {
    const TransposedFlow transposed(flow);
    adjoints = solve_adjoint(flow, transposed, transposed.load_gradient(load.weight),
                             options.adjoint, progress);
  }
  if (adjoints.empty())
    throw FlowError("no sensitivity: the flow fluctuates, and its adjoint does not converge",
                    record.run.variant,
                    "flows that end steady have one: sections, laminar flow, bodies with a fixed "
                    "separation");
  Sensitivity out;
  out.of = options.of;
  out.iterations = adjoints.back().iterations,
  out.damping_courant = adjoints.back().damping_courant;
  const Vec3 size = record.vehicle.size();
  out.radius =
      options.radius > 0 ? options.radius : usual_radius * std::max({size.x, size.y, size.z});
  const AdjointFlow adjoint{m, flow_case, record.fields, distance, load.weight, adjoints};
  const ReferenceValues& r = record.reference;
  const double sides = record.run.half ? 2 : 1,
               factor = sides * r.density / (r.dynamic_pressure() * r.frontal_area);
  for (const NamedDisplacement& d : displacements) {
    const Told one = told(displacement_gradient(adjoint, d.way), factor);
    out.predicted.push_back({d.name, one.value, one.doubt});
  }
  const std::vector<Bump> bumps = bump_gradients(adjoint, out.radius, progress);
  if (bumps.empty())
    throw InputError("the vehicle has no walls in this mesh", record.run.variant,
                     "check its parts");
  put_on_wall(bumps, out.radius, factor, record, out);
  if (out.doubt > most_doubt)
    throw FlowError(fmt::format("no sensitivity: the flow fluctuates, and damping its adjoint "
                                "changes the map by {:.0f} %",
                                100 * out.doubt),
                    record.run.variant, "flows that end steady have one");
  out.regions = rewarding(bumps, out.radius, factor, m);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
  return out;
}

}  // namespace dunefield
