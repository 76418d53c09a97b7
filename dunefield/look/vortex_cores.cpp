#include <dunefield/look/vortex_cores.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <set>

#include <dunefield/look/picture.hpp>
#include <dunefield/look/tetrahedra.hpp>

namespace dunefield {
namespace {

class CoreFinder {
 public:
  CoreFinder(const FlowView& view, const VortexOptions& options)
      : view_(view),
        m_(view.mesh()),
        o_(options),
        q_(scalar_in_air(view.record(), "Q")),
        w_(vector_in_air(view.record(), "vorticity")),
        q_points_(view.weights().of(q_)),
        w_points_(view.weights().of(w_)),
        region_(surroundings(view.record())) {}

  std::vector<VortexCore> find() {
    std::vector<VortexCore> cores;
    constexpr std::size_t most_seeds = 1500;
    std::vector<int> all = seeds();
    if (all.size() > most_seeds) all.resize(most_seeds);
    for (const int seed : all) {
      if (near_a_line(m_.cell_centre[at(seed)])) continue;
      VortexCore core = follow(seed);
      const bool again = mostly_near(core);
      for (const Vec3& p : core.points) passed_.insert(box_of(p));
      if (again || !long_enough(core)) continue;
      measure(core);
      if (std::abs(core.circulation) > weakest()) cores.push_back(std::move(core));
    }
    std::sort(cores.begin(), cores.end(), [](const VortexCore& a, const VortexCore& b) {
      return std::abs(a.circulation) > std::abs(b.circulation);
    });
    if (static_cast<int>(cores.size()) > o_.most) cores.resize(at(o_.most));
    return cores;
  }

 private:
  double size(int cell) const { return std::cbrt(m_.cell_volume[at(cell)]); }
  double weakest() const {
    const ReferenceValues& r = view_.record().reference;
    return o_.weakest * r.speed * std::sqrt(r.frontal_area);
  }
  bool long_enough(const VortexCore& core) const {
    double length = 0;
    for (std::size_t i = 1; i < core.points.size(); ++i)
      length += norm(core.points[i] - core.points[i - 1]);
    return length > o_.shortest * view_.record().vehicle.size().x;
  }

  /// Cells that turn faster than all round them, the fastest first; not those at walls, where shear
  /// looks like turning.
  std::vector<int> seeds() const {
    std::vector<char> out(at(m_.cells), 0);
    for (int f = m_.interior_faces(); f < m_.faces(); ++f) out[at(m_.cell_below[at(f)])] = 1;
    for (int f = 0; f < m_.interior_faces(); ++f) {
      const auto a = at(m_.cell_below[at(f)]), b = at(m_.cell_above[at(f)]);
      out[q_[a] < q_[b] ? a : b] = 1;
    }
    const double slow =
        view_.record().reference.speed / std::sqrt(view_.record().reference.frontal_area);
    std::vector<int> found;
    for (int c = 0; c < m_.cells; ++c)
      if (!out[at(c)] && q_[at(c)] > 0.1 * slow * slow && region_.contains(m_.cell_centre[at(c)]))
        found.push_back(c);
    std::sort(found.begin(), found.end(), [&](int a, int b) {
      // Large turning bodies of air first: size counts as much as speed.
      return q_[at(a)] * std::pow(size(a), 2) > q_[at(b)] * std::pow(size(b), 2);
    });
    return found;
  }

  /// Space in boxes of a fiftieth of the length: where a line has passed, no other begins.
  std::array<int, 3> box_of(const Vec3& x) const {
    const double edge = 0.02 * view_.record().vehicle.size().x;
    return {static_cast<int>(std::floor(x.x / edge)), static_cast<int>(std::floor(x.y / edge)),
            static_cast<int>(std::floor(x.z / edge))};
  }
  bool near_a_line(const Vec3& x) const {
    const auto b = box_of(x);
    for (int i = -1; i <= 1; ++i)
      for (int j = -1; j <= 1; ++j)
        for (int k = -1; k <= 1; ++k)
          if (passed_.count({b[0] + i, b[1] + j, b[2] + k})) return true;
    return false;
  }
  bool mostly_near(const VortexCore& core) const {
    const auto near = std::count_if(core.points.begin(), core.points.end(),
                                    [&](const Vec3& p) { return near_a_line(p); });
    return 2 * near > static_cast<std::ptrdiff_t>(core.points.size());
  }

  std::optional<InCell> place(int near, const Vec3& x) const {
    const InCell in = walk_to(m_, view_.rows(), near, x);
    return in.inside ? std::optional(in) : std::nullopt;
  }

  VortexCore follow(int seed) const {
    VortexCore core;
    for (const double sign : {-1.0, 1.0}) {
      std::vector<Vec3> way = one_way(seed, sign);
      if (sign < 0) {
        std::reverse(way.begin(), way.end());
        if (!way.empty()) way.pop_back();  // the seed comes again
      }
      core.points.insert(core.points.end(), way.begin(), way.end());
    }
    // Steps of the corrector, from cell to cell, are none of the flow.
    constexpr int passes = 8;
    for (int pass = 0; pass < passes && core.points.size() > 2; ++pass) {
      const std::vector<Vec3> p = core.points;
      for (std::size_t i = 1; i + 1 < p.size(); ++i)
        core.points[i] = (p[i - 1] + p[i] * 2 + p[i + 1]) * 0.25;
    }
    if (core.points.size() > 1 && core.points.back().x < core.points.front().x)
      std::reverse(core.points.begin(), core.points.end());
    return core;
  }

  std::vector<Vec3> one_way(int seed, double sign) const {
    std::vector<Vec3> points = {m_.cell_centre[at(seed)]};
    int cell = seed;
    Vec3 before;
    constexpr int most_steps = 800;
    for (int i = 0; i < most_steps; ++i) {
      const auto here = place(cell, points.back());
      if (!here) break;
      Vec3 way = unit(value_at(m_, *here, w_, w_points_)) * sign;
      if (i > 0 && dot(way, before) < 0.3) break;  // it turns back: another vortex
      const double step = 0.6 * size(here->cell);
      const auto guess = place(here->cell, points.back() + way * step);
      if (!guess) break;
      const auto centre = centred(*guess, points.back() + way * step, way, step);
      if (!centre || !region_.contains(centre->second)) break;
      cell = centre->first.cell, before = way;
      points.push_back(centre->second);
    }
    return points;
  }

  /// Up to the largest Q in the plane across; none where there is no turning left.
  std::optional<std::pair<InCell, Vec3>> centred(InCell in, Vec3 x, const Vec3& way,
                                                 double step) const {
    const PlaneAxes axes(way);
    double best = value_at(m_, in, q_, q_points_);
    for (double reach = 0.5 * step; reach > 0.1 * step; reach *= 0.6) {
      constexpr int ways = 6;
      for (int k = 0; k < ways; ++k) {
        const double angle = 2 * std::numbers::pi * k / ways;
        const Vec3 y = x + (axes.across * std::cos(angle) + axes.up * std::sin(angle)) * reach;
        const auto there = place(in.cell, y);
        if (!there) continue;
        const double q = value_at(m_, *there, q_, q_points_);
        if (q > best) best = q, in = *there, x = y;
      }
    }
    if (!(best > 0)) return std::nullopt;
    return std::pair{in, x};
  }

  /// Circulation on circles about the middle of the line, wider and wider until it stops growing.
  void measure(VortexCore& core) const {
    const std::size_t middle = core.points.size() / 2;
    const Vec3 centre = core.points[middle],
               way = unit(core.points[std::min(middle + 1, core.points.size() - 1)] -
                          core.points[middle > 0 ? middle - 1 : 0]);
    const int cell = view_.cell_at(centre);
    if (cell < 0) return;
    const double widest = 0.15 * std::sqrt(view_.record().reference.frontal_area);
    for (double r = size(cell); r < widest; r *= 1.25) {
      const auto around = circulation(cell, centre, way, r);
      if (!around || std::abs(*around) < 1.02 * std::abs(core.circulation)) break;
      core.circulation = *around, core.radius = r;
    }
  }
  std::optional<double> circulation(int cell, const Vec3& centre, const Vec3& way, double r) const {
    const PlaneAxes axes(way);
    constexpr int count = 48;
    double sum = 0;
    for (int k = 0; k < count; ++k) {
      const double angle = 2 * std::numbers::pi * k / count;
      const Vec3 out = axes.across * std::cos(angle) + axes.up * std::sin(angle),
                 along = cross(way, out);
      const auto in = place(cell, centre + out * r);
      if (!in) return std::nullopt;
      sum += dot(value_at(m_, *in, view_.record().fields.u, view_.point_velocity()), along);
    }
    return sum * 2 * std::numbers::pi * r / count;
  }

  const FlowView& view_;
  const VolumeMesh& m_;
  const VortexOptions& o_;
  std::vector<double> q_;
  std::vector<Vec3> w_;
  std::vector<double> q_points_;
  std::vector<Vec3> w_points_;
  Box region_;
  std::set<std::array<int, 3>> passed_;
};

}  // namespace

std::vector<VortexCore> vortex_cores(const FlowView& view, const VortexOptions& options) {
  std::vector<VortexCore> cores = CoreFinder(view, options).find();
  if (!view.half()) return cores;
  for (std::size_t i = 0, n = cores.size(); i < n; ++i) {
    VortexCore other = cores[i];
    for (Vec3& p : other.points) p = in_mirror(p);
    other.circulation = -other.circulation;
    cores.push_back(std::move(other));
  }
  return cores;
}

Bundle core_lines(const std::vector<VortexCore>& cores) {
  Bundle b;
  b.name = "vortex cores", b.quantity = "circulation";
  for (const VortexCore& c : cores)
    b.strands.push_back({c.points, std::vector<double>(c.points.size(), c.circulation)});
  return b;
}

}  // namespace dunefield
