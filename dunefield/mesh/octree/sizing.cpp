#include <dunefield/mesh/octree/sizing.hpp>

#include <algorithm>
#include <numbers>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/mesh/dual/sharp_lines.hpp>
#include <dunefield/mesh/octree/leading_edges.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double slack = 1.001;  // rounding of sizes that were meant to be equal
// cells of each size around what asks for smaller leaves than its surface
constexpr double fine_spread = 2;
constexpr double nose_spread = 4;      // the same around leading edges
constexpr double least_nose = 0.25;    // radius of a leading edge over its leaves: else a plate's
constexpr double just_off = 0.05;      // leaves: so far from a sheet there is air on both its sides
constexpr double facing = 0.5;         // cosine from which on two surfaces face each other
constexpr double surely_open = 1.5;    // leaves across a gap: a narrower one may be closed
constexpr double surely_closed = 0.8;  // the same: a narrower one is not opened, or in places only

}  // namespace

Sizing::Sizing(const Surface& vehicle, const SolidField& solid, const MeshOptions& o)
    : options_(o), smallest_(o.surface_size) {
  if (o.smallest_size > 0)
    levels_ = std::max(
        0, static_cast<int>(std::floor(std::log2(o.surface_size / o.smallest_size) + 1e-6)));
  near_parts(vehicle);
  if (levels_ > 0) {
    const RayScene rays(vehicle);
    constexpr double flat = 1e-3;  // rad: rounding of the file's coordinates
    const std::vector<Fold> folds = folds_of(vehicle, flat, folded_angle);
    if (o.cells_per_turn > 0 || o.edge_size > 0) near_edges(vehicle, folds);
    if (o.leading_halvings > 0) near_leading_edges(vehicle, folds, rays, solid);
    if (o.gap_cells > 0 || o.thin_cells > 0) in_narrow_places(vehicle, rays, solid);
  }
  for (const Group& g : groups_) smallest_ = std::min(smallest_, g.size);
  for (const auto& b : o.boxes) smallest_ = std::min(smallest_, b.size);
  if (o.field) smallest_ = std::min(smallest_, o.field->smallest());
}

int Sizing::level_of_gap(double width) const {
  const double smallest = options_.surface_size / std::exp2(levels_);
  const bool slot = width < surely_open * smallest &&
                    width > surely_closed * smallest / std::exp2(options_.slot_halvings);
  return slot ? levels_ + options_.slot_halvings : level_of(width / options_.gap_cells);
}

int Sizing::halvings_to(double size) const {
  return static_cast<int>(
      std::ceil(std::log2(options_.surface_size / std::max(size, 1e-9)) - 0.05));
}

int Sizing::level_of(double size) const { return std::min(levels_, halvings_to(size)); }

void Sizing::near_parts(const Surface& vehicle) {
  std::map<double, std::vector<bool>> parts_of_size;
  for (std::size_t p = 0; p < vehicle.part_names.size(); ++p) {
    const auto it = options_.part_size.find(vehicle.part_names[p]);
    auto& keep = parts_of_size[it == options_.part_size.end() ? options_.surface_size : it->second];
    keep.resize(vehicle.part_names.size());
    keep[p] = true;
  }
  for (const auto& [size, keep] : parts_of_size)
    groups_.push_back({NearestTree(select_parts(vehicle, keep)), size, options_.spread});
}

void Sizing::add_groups(const std::vector<Surface>& of_level, double spread) {
  for (std::size_t level = 1; level < of_level.size(); ++level)
    if (of_level[level].size() > 0)
      groups_.push_back({NearestTree(of_level[level]),
                         options_.surface_size / std::pow(2.0, static_cast<double>(level)),
                         spread});
}

void Sizing::near_edges(const Surface& s, const std::vector<Fold>& folds) {
  std::vector<Surface> of_level(at(levels_) + 1);
  for (const Fold& fold : folds) {
    double size = 1e300;
    if (fold.angle > sharp_angle) {
      if (options_.edge_size > 0) size = options_.edge_size;
    } else if (options_.cells_per_turn > 0) {
      size = 2 * std::numbers::pi * fold.radius() / options_.cells_per_turn;
    }
    if (const int level = level_of(size); level > 0)
      add_line(of_level[at(level)], s.points[at(fold.low)], s.points[at(fold.high)]);
  }
  add_groups(of_level, fine_spread);
}

/// Their suction makes the lift, and its loss is drag: on leaves that are as large as the nose's
/// radius a wing of aspect ratio 6 has a fifth less lift and twice the drag (docs/validation.md).
/// What lies around a nose counts as much as its curvature.
void Sizing::near_leading_edges(const Surface& s, const std::vector<Fold>& folds,
                                const RayScene& rays, const SolidField& solid) {
  const double finest = options_.surface_size / std::exp2(options_.leading_halvings),
               a_turn = std::max(options_.cells_per_turn, 1.0) / (2 * std::numbers::pi);
  std::vector<Surface> of_level(at(options_.leading_halvings) + 1);
  for (const LeadingEdge& e :
       leading_edges(s, folds, rays, solid, least_nose * finest, a_turn * options_.surface_size)) {
    const int level = std::min(options_.leading_halvings, halvings_to(e.radius / a_turn));
    if (level > 0) add_line(of_level[at(level)], e.from, e.to);
  }
  add_groups(of_level, nose_spread);
}

void Sizing::in_narrow_places(const Surface& s, const RayScene& rays, const SolidField& solid) {
  const double h = options_.surface_size,
               widest = h * std::max(options_.gap_cells, options_.thin_cells),
               off = 1e-6 * norm(bounds(s).size());
  constexpr double samples_along_leaf = 2;
  const double area = total_area(s);  // bounds the number of samples to between 1000 and 2 million
  const auto samples = pierced_surface(
      s, std::clamp(h / samples_along_leaf, std::sqrt(area / 2e6), std::sqrt(area / 1e3)));
  std::vector<int> level(samples.size(), 0);
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        const Vec3 n = unit(s.area_vector(at(samples[i].triangle))), &p = samples[i].point;
        if (options_.thin_cells > 0 && solid.is_sheet(p, {just_off * h, h})) level[i] = levels_;
        for (const Vec3& d : {n, -n}) {
          const auto hit = rays.first_crossing(p + d * off, p + d * widest);
          if (!hit || std::abs(dot(hit->normal, d)) <= facing) continue;
          const double width = hit->distance + off;
          const int in_gap = options_.gap_cells > 0 ? level_of_gap(width) : 0,
                    in_plate = options_.thin_cells > 0 ? level_of(width / options_.thin_cells) : 0;
          if (std::max(in_gap, in_plate) <= level[i]) continue;
          const bool air = !solid.inside(p + d * off, 0);
          if (!air && solid.inside(p - d * off, 0)) continue;  // hidden in another part
          level[i] = std::max(level[i], air ? in_gap : in_plate);
        }
      },
      64);
  std::vector<Surface> of_level(at(levels_ + options_.slot_halvings) + 1);
  for (std::size_t i = 0; i < samples.size(); ++i)
    if (level[i] > 0) add_line(of_level[at(level[i])], samples[i].point, samples[i].point);
  add_groups(of_level, fine_spread);
}

bool Sizing::too_large(const Vec3& centre, double edge) const {
  if (edge > options_.largest_size * slack) return true;
  const double half_diagonal = 0.5 * std::sqrt(3.0) * edge;
  for (const Group& g : groups_)
    if (edge > g.size * slack &&
        g.nearest.within(centre, half_diagonal + g.spread * (edge - g.size)))
      return true;
  for (const auto& b : options_.boxes)
    if (edge > b.size * slack &&
        b.box.contains(centre, 0.5 * edge + options_.box_margin_cells * (edge - b.size)))
      return true;
  return options_.field && options_.field->too_large(centre, edge);
}

}  // namespace dunefield
