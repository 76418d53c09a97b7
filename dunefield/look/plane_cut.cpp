#include <dunefield/look/plane_cut.hpp>

#include <algorithm>
#include <unordered_map>

#include <dunefield/base/index.hpp>

namespace dunefield {
PlaneCut::PlaneCut(const FlowView& view, Plane plane) : view_(view), plane_(plane) {
  const Record& r = view.record();
  if (view.half() && std::abs(std::abs(plane_.normal.y) - 1) < 1e-9 &&
      std::abs(plane_.point.y) < 1e-9)
    plane_.point.y = 1e-4 * std::max(0.1, r.vehicle.size().x);
  start_ = {0};
  cut(plane_, Side::meshed);
  mirrored_from_ = corners_.size(), mirrored_cells_from_ = cell_.size();
  if (view.half()) cut({in_mirror(plane_.point), in_mirror(plane_.normal)}, Side::mirrored);
}

void PlaneCut::cut(Plane plane, Side side) {
  const VolumeMesh& m = view_.mesh();
  const CellFaces& rows = view_.rows();
  const PlaneAxes axes(plane.normal);
  std::unordered_map<std::uint64_t, int> known;
  std::vector<int> own;
  std::vector<std::pair<double, int>> round;
  for (const int c : cut_cells(m, plane)) {
    own.clear(), round.clear();
    Vec3 mean;
    visit_crossings(m, rows, c, plane, [&](int a, int b, double share) {
      const auto [it, fresh] = known.try_emplace(edge_key(a, b), static_cast<int>(points_.size()));
      if (fresh) {
        const Vec3 p = m.points[at(a)] + (m.points[at(b)] - m.points[at(a)]) * share;
        points_.push_back(side == Side::meshed ? p : in_mirror(p));
        corners_.push_back({a, b, share});
      }
      if (std::find(own.begin(), own.end(), it->second) == own.end()) own.push_back(it->second);
    });
    if (own.size() < 3) continue;
    const auto place = [&](int i) {
      return side == Side::meshed ? points_[at(i)] : in_mirror(points_[at(i)]);
    };
    for (const int i : own) mean += place(i) / static_cast<double>(own.size());
    for (const int i : own)
      round.push_back(
          {std::atan2(dot(place(i) - mean, axes.up), dot(place(i) - mean, axes.across)), i});
    std::sort(round.begin(), round.end());
    for (const auto& [angle, i] : round) polygon_.push_back(i);
    start_.push_back(static_cast<int>(polygon_.size()));
    cell_.push_back(c);
  }
}

/// @param of values of the mesh's cells on one side
template <class T, class Of>
std::vector<T> PlaneCut::at_corners(const Of& of) const {
  std::vector<T> out(corners_.size());
  for (const Side side : {Side::meshed, Side::mirrored}) {
    const bool meshed = side == Side::meshed;
    const std::size_t first = meshed ? 0 : mirrored_from_,
                      last = meshed ? mirrored_from_ : corners_.size();
    if (first == last) continue;
    auto& weights = weights_[meshed ? 0 : 1];
    if (!weights) {
      std::vector<int> needed;
      for (std::size_t i = first; i < last; ++i)
        needed.push_back(corners_[i].a), needed.push_back(corners_[i].b);
      std::sort(needed.begin(), needed.end());
      needed.erase(std::unique(needed.begin(), needed.end()), needed.end());
      weights.emplace(view_.mesh(), view_.rows(), std::move(needed));
    }
    const std::vector<T> at_points = weights->of(of(side));
    const std::vector<int>& points = weights->points();
    const auto value = [&](int point) {
      return at_points[static_cast<std::size_t>(
          std::lower_bound(points.begin(), points.end(), point) - points.begin())];
    };
    for (std::size_t i = first; i < last; ++i) {
      const Corner& c = corners_[i];
      out[i] = value(c.a) * (1 - c.share) + value(c.b) * c.share;
    }
  }
  return out;
}

/// Each cut is a fan of triangles about the mean of its corners.
template <class T>
void PlaneCut::with_middles(std::vector<T>& values) const {
  values.reserve(values.size() + cell_.size());
  for (std::size_t i = 0; i < cell_.size(); ++i) {
    T sum{};
    for (int k = start_[i]; k < start_[i + 1]; ++k) sum += values[at(polygon_[at(k)])];
    values.push_back(sum * (1.0 / (start_[i + 1] - start_[i])));
  }
}

Sheet PlaneCut::sheet_of(std::vector<double> values) const {
  Sheet s;
  s.lit = false;
  s.points = points_;
  with_middles(s.points);
  s.values = std::move(values);
  for (std::size_t i = 0; i < cell_.size(); ++i) {
    const int n = start_[i + 1] - start_[i], middle = static_cast<int>(points_.size() + i);
    for (int k = 0; k < n; ++k)
      s.triangles.push_back(
          {middle, polygon_[at(start_[i] + k)], polygon_[at(start_[i] + (k + 1) % n)]});
  }
  return s;
}

Sheet PlaneCut::sheet(const std::string& quantity, bool as_cells) const {
  const auto of = [&](Side side) { return view_.in_air(quantity, side); };
  std::vector<double> values;
  if (as_cells) {  // the first corner of each triangle is its cell's middle
    values.assign(points_.size(), 0);
    const std::vector<double> here = of(Side::meshed),
                              there = view_.half() ? of(Side::mirrored) : std::vector<double>();
    for (std::size_t i = 0; i < cell_.size(); ++i)
      values.push_back((i < mirrored_cells_from_ ? here : there)[at(cell_[i])]);
  } else {
    values = at_corners<double>(of);
    with_middles(values);
  }
  Sheet s = sheet_of(std::move(values));
  s.quantity = quantity, s.facets = as_cells;
  return s;
}

std::vector<Vec3> PlaneCut::velocity() const {
  std::vector<Vec3> u = at_corners<Vec3>([&](Side side) {
    std::vector<Vec3> all = view_.record().fields.u;
    if (side == Side::mirrored)
      for (Vec3& v : all) v = in_mirror(v);
    return all;
  });
  with_middles(u);
  return u;
}

Bundle PlaneCut::outlines() const {
  Bundle b;
  b.name = "cells", b.lit = false;
  for (std::size_t i = 0; i < cell_.size(); ++i) {
    Strand& s = b.strands.emplace_back();
    for (int k = start_[i]; k < start_[i + 1]; ++k)
      s.points.push_back(points_[at(polygon_[at(k)])]);
    s.points.push_back(s.points.front());
  }
  return b;
}

double PlaneCut::area() const {
  const Sheet s = sheet_of(std::vector<double>(points_.size() + cell_.size(), 1));
  double sum = 0;
  for (const auto& t : s.triangles)
    sum += 0.5 * norm(cross(s.points[at(t[1])] - s.points[at(t[0])],
                            s.points[at(t[2])] - s.points[at(t[0])]));
  return sum;
}

double PlaneCut::integral(const std::string& quantity) const {
  const Sheet s = sheet(quantity);
  double sum = 0;
  for (const auto& t : s.triangles)
    sum += 0.5 *
           norm(cross(s.points[at(t[1])] - s.points[at(t[0])],
                      s.points[at(t[2])] - s.points[at(t[0])])) *
           (s.values[at(t[0])] + s.values[at(t[1])] + s.values[at(t[2])]) / 3;
  return sum;
}

}  // namespace dunefield
