#include <dunefield/look/flow_view.hpp>

#include <fmt/format.h>

#include <dunefield/base/display_units.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/wall_triangles.hpp>

namespace dunefield {

FlowView::FlowView(const Record& record, const Record* baseline)
    : record_(record), baseline_(baseline), rows_(faces_of_cells(*record.mesh)) {
  if (!baseline) return;
  const double length = record.vehicle.size().x, other = baseline->vehicle.size().x;
  constexpr double alike = 0.2;
  if (std::abs(length - other) > alike * std::max(length, other) ||
      record.run.half != baseline->run.half)
    throw InputError(
        "the records show different vehicles or halves: their difference means nothing",
        record.run.variant + " and " + baseline->run.variant, "take variants of one vehicle");
}

std::vector<double> FlowView::in_air(const std::string& quantity, Side side) const {
  std::vector<double> values = scalar_in_air(record_, quantity, side);
  if (!baseline_) return values;
  const std::vector<double> before = baseline_in_air(quantity, side);
  for (std::size_t i = 0; i < values.size(); ++i) values[i] -= before[i];
  return values;
}

std::vector<double> FlowView::on_wall(const std::string& quantity, Side side) const {
  std::vector<double> values = scalar_on_wall(record_, quantity, side);
  if (!baseline_) return values;
  const std::vector<double> before = baseline_on_wall(quantity, side);
  for (std::size_t i = 0; i < values.size(); ++i) values[i] -= before[i];
  return values;
}

/// Of the baseline at this record's cells; where the baseline has no air, that of its nearest cell.
std::vector<double> FlowView::baseline_in_air(const std::string& quantity, Side side) const {
  const std::vector<double> values = scalar_in_air(*baseline_, quantity, side);
  const CellFinder finder(*baseline_->mesh);
  const Sampler sampler(*baseline_->mesh);
  std::vector<double> out(static_cast<std::size_t>(mesh().cells));
  parallel_for(out.size(), [&](std::size_t c) {
    const Vec3& x = mesh().cell_centre[c];
    const int cell = finder.holding(x);
    out[c] = cell >= 0 ? sampler.value_in(cell, values, x) : values[at(finder.nearest(x))];
  });
  return out;
}

/// Of the baseline's nearest wall face.
std::vector<double> FlowView::baseline_on_wall(const std::string& quantity, Side side) const {
  const VolumeMesh& other = *baseline_->mesh;
  const std::vector<double> values = scalar_on_wall(*baseline_, quantity, side);
  const WallTriangles walls =
      wall_triangles(other, [](const Boundary& p) { return p.kind == BoundaryKind::part; });
  const NearestTree tree(walls.surface);
  const auto first = at(mesh().interior_faces());
  std::vector<double> out(mesh().face_centre.size() - first, 0);
  for (const Boundary& b : mesh().boundaries) {
    if (b.kind != BoundaryKind::part) continue;
    parallel_for(at(b.count), [&](std::size_t k) {
      const std::size_t f = at(b.first) + k;
      const auto found = tree.nearest(mesh().face_centre[f], 1e6);
      if (found.triangle >= 0)
        out[f - first] = values[at(walls.face_of[at(found.triangle)] - other.interior_faces())];
    });
  }
  return out;
}

int FlowView::cell_at(const Vec3& p) const {
  std::call_once(finder_wanted_, [&] { finder_.emplace(mesh()); });
  return finder_->holding(p);
}

int FlowView::nearest_cell(const Vec3& p) const {
  std::call_once(finder_wanted_, [&] { finder_.emplace(mesh()); });
  return finder_->nearest(p);
}

const PointWeights& FlowView::weights() const {
  std::call_once(weights_wanted_, [&] { weights_.emplace(mesh(), rows_, all_points(mesh())); });
  return *weights_;
}

const std::vector<Vec3>& FlowView::point_velocity() const {
  std::call_once(velocity_wanted_, [&] {
    velocity_ = weights().of(record_.fields.u);
    // Nothing flows through the vehicle, the road, the sides, the centre plane.
    const VolumeMesh& m = mesh();
    std::vector<Vec3> normal(m.points.size());
    for (const Boundary& b : m.boundaries) {
      if (b.kind == BoundaryKind::inflow || b.kind == BoundaryKind::outflow) continue;
      if (b.kind == BoundaryKind::side && record_.run.yaw != 0) continue;
      std::fill(normal.begin(), normal.end(), Vec3{});
      for (int f = b.first; f < b.first + b.count; ++f)
        for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k)
          normal[at(m.face_points[at(k)])] += m.face_area[at(f)];
      for (std::size_t p = 0; p < normal.size(); ++p)
        if (norm2(normal[p]) > 0) {
          const Vec3 n = unit(normal[p]);
          velocity_[p] -= n * dot(velocity_[p], n);
        }
    }
  });
  return velocity_;
}

std::string speed_in_words(const RunIdentity& run) {
  return display_units(run.units, "record").speed_text(run.speed);
}

std::string title_of(const Record& r) {
  std::string out = r.run.campaign.empty() ? r.run.variant : r.run.campaign + ", " + r.run.variant;
  out += ", " + speed_in_words(r.run);
  if (!r.run.settings.empty()) out += ", " + in_words(r.run.settings);
  if (r.status == RunStatus::stopped) out += fmt::format(", at iteration {}", r.history.size());
  return out;
}

}  // namespace dunefield
