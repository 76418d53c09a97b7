#include <dunefield/campaign/explanation.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/index.hpp>
#include <dunefield/record/build_up.hpp>

namespace dunefield {
namespace {

constexpr int stretches_in_all = 10;

/// A running sum at any place between the stations.
double up_to(const BuildUp& b, const std::vector<Vec3>& sums, double x) {
  if (b.station.empty() || x <= b.station.front()) return 0;
  if (x >= b.station.back()) return sums.back().x;
  const auto above = std::upper_bound(b.station.begin(), b.station.end(), x) - b.station.begin();
  const std::size_t i = static_cast<std::size_t>(above) - 1;
  const double share = (x - b.station[i]) / (b.station[i + 1] - b.station[i]);
  return sums[i].x + share * (sums[i + 1].x - sums[i].x);
}

/// Build-up of a record, as coefficients of drag.
struct Drag {
  explicit Drag(const Record& r)
      : sums(build_up(*r.mesh, r.loads, r.balance.undisturbed_pressure, r.run.half)),
        newtons(r.reference.dynamic_pressure() * r.reference.frontal_area) {}
  double pressure(double from, double to) const {
    return (up_to(sums, sums.pressure, to) - up_to(sums, sums.pressure, from)) / newtons;
  }
  double friction(double from, double to) const {
    return (up_to(sums, sums.friction, to) - up_to(sums, sums.friction, from)) / newtons;
  }
  BuildUp sums;
  double newtons;
};

}  // namespace

Explanation explain(const Record& run, const Record& baseline) {
  check_comparable(baseline.figures(), run.figures());
  Explanation e;
  e.parts = by_part(run.figures(), baseline.figures());
  const Drag now(run), before(baseline);
  // not the campaign's box: another of its variants may be longer than these two
  const double lo = std::min(now.sums.station.front(), before.sums.station.front()),
               hi = std::max(now.sums.station.back(), before.sums.station.back()),
               step = (hi - lo) / stretches_in_all;
  for (int i = 0; i < stretches_in_all; ++i) {
    Stretch s{lo + step * i, lo + step * (i + 1)};
    s.pressure = now.pressure(s.from, s.to) - before.pressure(s.from, s.to);
    s.friction = now.friction(s.from, s.to) - before.friction(s.from, s.to);
    s.cd = s.pressure + s.friction;
    s.baseline = before.pressure(s.from, s.to) + before.friction(s.from, s.to);
    e.last_state += s.cd;
    e.stretches.push_back(s);
  }
  std::stable_sort(e.stretches.begin(), e.stretches.end(), [](const Stretch& a, const Stretch& b) {
    return std::abs(a.cd) > std::abs(b.cd);
  });
  return e;
}

}  // namespace dunefield
