#include <dunefield/run/adaptation.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/parallel/parallel_for.hpp>
#include <dunefield/record/sampler.hpp>
#include <dunefield/run/run.hpp>

namespace dunefield {
namespace {

constexpr double thin = 0.4;         // of a cell's width: neighbours across a layer are nearer
constexpr double least_jump = 1e-6;  // what is less is rounding

/// What an error does to the vehicle's forces falls with its distance from the vehicle's box, as
/// the adjoint of a body in a stream does. Measured on the bluff body and the van
/// (docs/theory/method.md).
double weight_at(const Vec3& x, const Box& vehicle) {
  constexpr double near = 0.1, power = 3;  // of the vehicle's diagonal
  Vec3 away;
  for (int i = 0; i < 3; ++i) away[i] = std::max({0.0, vehicle.lo[i] - x[i], x[i] - vehicle.hi[i]});
  return std::pow(1 + norm(away) / (near * norm(vehicle.size())), -power);
}

/// What cells say of the flow at their faces: velocity over that of the stream, and pressure over
/// twice the dynamic pressure.
class Carried {
 public:
  explicit Carried(const Record& r)
      : mesh_(*r.mesh), fields_(r.fields), over_speed_(1 / r.reference.speed) {
    const Sampler sampler(mesh_);
    slope_u_.resize(at(mesh_.cells)), slope_p_.resize(at(mesh_.cells));
    parallel_for(at(mesh_.cells), [&](std::size_t c) {
      slope_u_[c] = sampler.gradient(static_cast<int>(c), fields_.u);
      slope_p_[c] = sampler.gradient(static_cast<int>(c), fields_.p);
    });
  }

  /// Between both sides of an interior face.
  double jump(std::size_t face) const {
    const auto a = at(mesh_.cell_below[face]), b = at(mesh_.cell_above[face]);
    const Vec3 to_a = mesh_.face_centre[face] - mesh_.cell_centre[a],
               to_b = mesh_.face_centre[face] - mesh_.cell_centre[b];
    const Vec3 u = fields_.u[a] + slope_u_[a] * to_a - fields_.u[b] - slope_u_[b] * to_b;
    const double p = fields_.p[a] + dot(slope_p_[a], to_a) - fields_.p[b] - dot(slope_p_[b], to_b);
    return norm(u) * over_speed_ + std::abs(p) * over_speed_ * over_speed_;
  }

 private:
  const VolumeMesh& mesh_;
  const Fields& fields_;
  double over_speed_;
  std::vector<Mat3> slope_u_;
  std::vector<Vec3> slope_p_;
};

/// Leaf edges that the octree of these options can have.
struct Edges {
  double smallest, largest;
  /// The one nearest to a size.
  double nearest(double size) const {
    const double halvings = std::round(std::log2(std::clamp(size, smallest, largest) / smallest));
    return smallest * std::exp2(halvings);
  }
};

Edges edges_of(const MeshOptions& o) {
  const double least =
      o.smallest_size > 0 ? std::min(o.smallest_size, o.surface_size) : o.surface_size;
  return {o.surface_size / std::exp2(std::floor(std::log2(o.surface_size / least) + 1e-6)),
          o.largest_size};
}

SizeField field_of(const std::vector<SizeField::Wish>& relative, double factor,
                   const Edges& edges) {
  std::vector<SizeField::Wish> wishes;
  wishes.reserve(relative.size());
  for (const SizeField::Wish& w : relative)
    wishes.push_back({w.centre, w.width, edges.nearest(w.size * factor)});
  return {edges.smallest, edges.largest, wishes};
}

}  // namespace

std::vector<SizeField::Wish> sizes_by_error(const Record& record) {
  const VolumeMesh& m = *record.mesh;
  const CellFaces rows = faces_of_cells(m);
  const Carried carried(record);
  std::vector<SizeField::Wish> wishes(at(m.cells));
  parallel_for(at(m.cells), [&](std::size_t c) {
    SizeField::Wish& wish = wishes[c];
    wish.centre = m.cell_centre[c];
    for (int i = rows.start[c]; i < rows.start[c + 1]; ++i)
      wish.width =
          std::max(wish.width, 2 * norm(m.face_centre[at(rows.face[at(i)])] - m.cell_centre[c]));
    double jump = 0;
    for (int i = rows.start[c]; i < rows.start[c + 1]; ++i) {
      const std::size_t f = at(rows.face[at(i)]);
      if (f >= at(m.interior_faces())) continue;
      const Vec3 way = m.cell_centre[at(m.cell_below[f])] - m.cell_centre[at(m.cell_above[f])];
      if (norm(way) > thin * wish.width) jump = std::max(jump, carried.jump(f));
    }
    const double error = jump * weight_at(wish.centre, record.vehicle);
    wish.size = std::pow(wish.width * wish.width / std::max(error, least_jump), 0.2);
  });
  return wishes;
}

std::shared_ptr<const SizeField> adapted_sizes(const RunSetup& setup, const Record& sketch,
                                               const Progress& progress) {
  const Adaptation& from = *setup.adaptation;
  if (!sketch.usable())
    throw FlowError("no adapted mesh: the sketch of the flow has not converged", setup.where,
                    "remove [mesh] adapt, or put another speed first");
  const std::vector<SizeField::Wish> relative = sizes_by_error(sketch);
  RunSetup adapted = *from.plain;
  adapted.recipe.adapt = true;
  const Surface& vehicle = from.plain->vehicle.surface;
  const Box tunnel = from.plain->tunnel_box();
  const double wanted = predict_cells(vehicle, tunnel, from.plain->mesh_options());
  MeshOptions options = adapted.mesh_options();
  const Edges edges = edges_of(options);
  std::vector<double> sizes;
  for (const SizeField::Wish& w : relative) sizes.push_back(w.size);
  std::nth_element(sizes.begin(), sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() / 2),
                   sizes.end());
  double factor = options.surface_size / sizes[sizes.size() / 2];
  // The number of cells falls with the size's power of 2 to 3.
  constexpr int most_tries = 10;
  constexpr double near_enough = 0.02;
  for (int i = 0; i < most_tries; ++i) {
    progress.check();
    progress("sizes by the flow", double(i) / most_tries);
    auto field = std::make_shared<const SizeField>(field_of(relative, factor, edges));
    options.field = field;
    const double cells = predict_cells(vehicle, tunnel, options);
    if (std::abs(cells / wanted - 1) < near_enough) break;
    factor *= std::clamp(std::pow(cells / wanted, 0.4), 0.5, 2.0);
  }
  return options.field;
}

Record run_sketch(const RunSetup& setup, int threads, const Progress& progress) {
  struct Watcher : RunWatcher {
    Watcher(const Progress& p, int m) : progress(p), most(m) {}
    void iterated(const HistoryRow& row, double) override {
      progress("sketch of the flow", double(row.iteration) / most);
    }
    const Progress& progress;
    const double most;
  };
  const RunSetup& sketch = *setup.adaptation->sketch;
  RunOptions options;
  options.threads = threads, options.progress = progress;
  Watcher watcher(progress, sketch.limits.iterations);
  return run(sketch, std::make_shared<const MeshResult>(build_mesh(sketch, progress)), options,
             watcher);
}

}  // namespace dunefield
