#include <dunefield/look/streamlines.hpp>

#include <cmath>

#include <dunefield/look/tetrahedra.hpp>

namespace dunefield {
namespace {

/// One line, one way. All places are on the meshed side.
class Tracer {
 public:
  Tracer(const FlowView& view, const StreamlineOptions& options, double sign)
      : view_(view),
        m_(view.mesh()),
        u_(view.record().fields.u),
        point_u_(view.point_velocity()),
        options_(options),
        sign_(sign),
        slow_(1e-4 * view.record().reference.speed) {}

  void trace(const InCell& start, const Vec3& seed, Streamline& line) {
    InCell here = start;
    Vec3 x = seed;
    double way = 0, time = 0;
    double step = 0.25 * size(here.cell);
    constexpr int most_steps = 20'000;
    for (int i = 0; i < most_steps; ++i) {
      if (options_.length > 0 && way >= options_.length) return;
      const Vec3 u = velocity(here);
      const double speed = norm(u);
      if (!(speed > slow_)) return stop(line);
      step = std::clamp(step, 1e-3 * size(here.cell), 0.7 * size(here.cell));
      if (options_.length > 0) step = std::min(step, options_.length - way + 1e-12);
      auto next = advance(here, x, u, step);
      if (!next) next = slide(here, x, u);
      if (!next) next = leap(here, x, u);
      if (!next) return left_or_stopped(here, x, u, step, line);
      way += norm(next->x - x), time += sign_ * norm(next->x - x) / speed;
      x = next->x, here = next->in, step = next->wanted;
      line.points.push_back(x), line.time.push_back(time), line.cell.push_back(here.cell);
    }
    stop(line);
  }

 private:
  struct Next {
    Vec3 x;
    InCell in;
    double wanted;  ///< size of the step after
  };

  double size(int cell) const { return std::cbrt(m_.cell_volume[at(cell)]); }
  Vec3 velocity(const InCell& in) const { return value_at(m_, in, u_, point_u_); }
  Vec3 way_at(const InCell& in) const { return unit(velocity(in)) * sign_; }

  /// A step of Bogacki and Shampine (1989), third order with an error of second; shorter until it
  /// is exact enough and lies in the air.
  std::optional<Next> advance(const InCell& here, const Vec3& x, const Vec3& u, double step) const {
    const Vec3 k1 = unit(u) * sign_;
    const double tolerance = options_.error * size(here.cell);
    for (int attempt = 0; attempt < 12; ++attempt, step *= 0.5) {
      const InCell two = walk_to(m_, view_.rows(), here.cell, x + k1 * (0.5 * step));
      if (!two.inside) continue;
      const Vec3 k2 = way_at(two);
      const InCell three = walk_to(m_, view_.rows(), two.cell, x + k2 * (0.75 * step));
      if (!three.inside) continue;
      const Vec3 k3 = way_at(three);
      const Vec3 end = x + (k1 * (2.0 / 9) + k2 * (1.0 / 3) + k3 * (4.0 / 9)) * step;
      const InCell four = walk_to(m_, view_.rows(), three.cell, end);
      if (!four.inside) continue;
      const Vec3 k4 = way_at(four);
      const double error = step * norm(k1 * (2.0 / 9 - 7.0 / 24) + k2 * (1.0 / 3 - 0.25) +
                                       k3 * (4.0 / 9 - 1.0 / 3) - k4 * 0.125);
      if (error > tolerance && attempt < 8) continue;
      const double better = error > 0 ? std::cbrt(tolerance / error) : 3;
      return Next{end, four, step * std::clamp(0.9 * better, 0.3, 3.0)};
    }
    return std::nullopt;
  }

  /// A short way along the wall that no step gets past: on a curved one the velocity between its
  /// points looks a little into it. None where the flow does not go along.
  std::optional<Next> slide(const InCell& here, const Vec3& x, const Vec3& u) const {
    const double h = size(here.cell);
    const InCell ahead = walk_to(m_, view_.rows(), here.cell, x + unit(u) * (0.3 * sign_ * h));
    if (ahead.inside || ahead.face < m_.interior_faces() || !is_wall(ahead.face))
      return std::nullopt;
    const Vec3 out = unit(m_.face_area[at(ahead.face)]);
    const Vec3 along = u - out * dot(u, out);
    constexpr double hardly = 0.05;
    if (norm(along) < hardly * norm(u)) return std::nullopt;
    for (const double share : {0.25, 0.1, 0.04}) {
      const Vec3 y = x + (unit(along) * sign_ - out * 0.5) * (share * h);
      const InCell in = walk_to(m_, view_.rows(), here.cell, y);
      if (in.inside) return Next{y, in, share * h};
    }
    return std::nullopt;
  }
  /// Over a place where cells are so bent that their tetrahedra leave something out: to the next
  /// one that a cell holds for sure.
  std::optional<Next> leap(const InCell& here, const Vec3& x, const Vec3& u) const {
    const double h = size(here.cell);
    for (const double share : {0.3, 0.7, 1.2}) {
      const Vec3 y = x + unit(u) * (share * sign_ * h);
      const int cell = view_.cell_at(y);
      if (cell < 0) continue;
      InCell in = place_in_cell(m_, view_.rows(), cell, y);
      if (in.face < 0) continue;
      double sum = 0;
      for (double& s : in.share) s = std::max(0.0, s), sum += s;
      for (double& s : in.share) s /= sum;
      in.inside = true;
      return Next{y, in, 0.3 * h};
    }
    return std::nullopt;
  }
  bool is_wall(int face) const {
    for (const Boundary& b : m_.boundaries)
      if (face >= b.first && face < b.first + b.count)
        return b.kind == BoundaryKind::part || b.kind == BoundaryKind::road ||
               b.kind == BoundaryKind::centre_plane;
    return false;
  }

  void stop(Streamline& line) const { line.stopped = true; }

  /// No step lies in the air: it leaves the tunnel, or stands before a wall.
  void left_or_stopped(const InCell& here, const Vec3& x, const Vec3& u, double step,
                       Streamline& line) const {
    const Vec3 ahead = x + unit(u) * (sign_ * std::max(step, 0.5 * size(here.cell)));
    const InCell out = walk_to(m_, view_.rows(), here.cell, ahead);
    if (out.face >= m_.interior_faces() && !is_wall(out.face)) return;
    stop(line);
  }

  const FlowView& view_;
  const VolumeMesh& m_;
  const std::vector<Vec3>&u_, &point_u_;
  const StreamlineOptions& options_;
  double sign_, slow_;
};

Streamline one_line(const FlowView& view, const Vec3& seed, const StreamlineOptions& options) {
  Streamline line;
  const bool other_side = view.half() && seed.y < 0;
  const Vec3 x = other_side ? in_mirror(seed) : seed;
  const int cell = view.cell_at(x);
  const InCell in = cell < 0 ? InCell{} : walk_to(view.mesh(), view.rows(), cell, x);
  if (!in.inside) {
    line.in_air = false;
    return line;
  }
  if (options.direction != Direction::forward) {
    Tracer(view, options, -1).trace(in, x, line);
    std::reverse(line.points.begin(), line.points.end());
    std::reverse(line.time.begin(), line.time.end());
    std::reverse(line.cell.begin(), line.cell.end());
  }
  line.points.push_back(x), line.time.push_back(0), line.cell.push_back(in.cell);
  if (options.direction != Direction::backward) Tracer(view, options, 1).trace(in, x, line);
  if (other_side)
    for (Vec3& p : line.points) p = in_mirror(p);
  return line;
}

}  // namespace

std::vector<Streamline> streamlines(const FlowView& view, const std::vector<Vec3>& seeds,
                                    const StreamlineOptions& options, const Progress& progress) {
  view.point_velocity();
  std::vector<Streamline> lines(seeds.size());
  parallel_for(
      seeds.size(),
      [&](std::size_t i) {
        progress.check();
        lines[i] = one_line(view, seeds[i], options);
      },
      1);
  return lines;
}

AlongLines::AlongLines(const FlowView& view, const std::string& quantity) : view_(view) {
  cells_ = view.in_air(quantity);
  points_ = view.weights().of(cells_);
  if (!view.half() || !differs_in_mirror(view.record(), quantity)) return;
  mirrored_cells_ = view.in_air(quantity, Side::mirrored);
  mirrored_points_ = view.weights().of(mirrored_cells_);
}

std::vector<double> AlongLines::of(const Streamline& line) const {
  std::vector<double> out;
  out.reserve(line.points.size());
  for (std::size_t i = 0; i < line.points.size(); ++i) {
    const bool other = view_.half() && line.points[i].y < 0,
               turned = other && !mirrored_cells_.empty();
    const Vec3 x = other ? in_mirror(line.points[i]) : line.points[i];
    const InCell in = place_in_cell(view_.mesh(), view_.rows(), line.cell[i], x);
    out.push_back(value_at(view_.mesh(), in, turned ? mirrored_cells_ : cells_,
                           turned ? mirrored_points_ : points_));
  }
  return out;
}

}  // namespace dunefield
