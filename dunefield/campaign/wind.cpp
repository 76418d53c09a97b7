#include <dunefield/campaign/wind.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>
#include <dunefield/campaign/run_matrix.hpp>

namespace dunefield {
namespace {

double bent(double yaw) { return yaw * std::abs(yaw); }

double yaw_of(const Comparison& c) {
  for (const Setting& s : c.settings)
    if (s.key == yaw_key) return parse_quantity(s.value, Dimension::angle, yaw_key);
  return 0;
}

Settings without_yaw(Settings s) {
  std::erase_if(s, [](const Setting& one) { return one.key == yaw_key; });
  return s;
}

/// Comparisons that differ in yaw only, by rising angle.
struct YawSweep {
  double speed = 0;
  Settings settings;
  std::vector<const Comparison*> at;
};

std::vector<YawSweep> sweeps_of(const std::vector<Comparison>& comparisons) {
  std::vector<YawSweep> sweeps;
  for (const Comparison& c : comparisons) {
    const Settings others = without_yaw(c.settings);
    auto it = std::find_if(sweeps.begin(), sweeps.end(), [&](const YawSweep& s) {
      return s.speed == c.speed && s.settings == others;
    });
    if (it == sweeps.end()) it = sweeps.insert(it, {c.speed, others, {}});
    it->at.push_back(&c);
  }
  for (YawSweep& s : sweeps)
    std::sort(s.at.begin(), s.at.end(),
              [](const Comparison* a, const Comparison* b) { return yaw_of(*a) < yaw_of(*b); });
  return sweeps;
}

const ComparisonRow* row_of(const Comparison& c, const std::string& variant) {
  for (const ComparisonRow& r : c.rows)
    if (r.run.run.variant == variant) return &r;
  return nullptr;
}

}  // namespace

WindWeights wind_weights(const std::vector<double>& yaws, double speed, double wind) {
  if (yaws.size() < 2)
    throw InputError("a mean over the wind needs runs at two angles at least", "runs.yaw",
                     "write yaw = [\"0 deg\", \"5 deg\", \"10 deg\"]");
  if (!(wind > 0) || wind >= speed)
    throw InputError("the wind must be above zero and slower than the vehicle", "wind",
                     "the usual one is 11.3 km/h");
  std::vector<std::size_t> order(yaws.size());
  std::iota(order.begin(), order.end(), 0);
  std::sort(order.begin(), order.end(), [&](auto a, auto b) { return yaws[a] < yaws[b]; });
  const bool symmetric = yaws[order.front()] >= 0;
  WindWeights w;
  w.weights.assign(yaws.size(), 0);
  constexpr int directions = 720;
  const double share = wind / speed;
  for (int i = 0; i < directions; ++i) {
    const double phi = 2 * std::numbers::pi * (i + 0.5) / directions;
    double yaw = std::atan2(share * std::sin(phi), 1 + share * std::cos(phi));
    w.largest_yaw = std::max(w.largest_yaw, std::abs(yaw));
    if (symmetric) yaw = std::abs(yaw);
    const double pressure = (1 + share * share + 2 * share * std::cos(phi)) / directions;
    const auto above =
        std::find_if(order.begin(), order.end(), [&](auto k) { return yaws[k] > yaw; });
    if (above == order.begin() || above == order.end()) {
      w.beyond = w.beyond || above == order.end();
      w.weights[above == order.end() ? order.back() : order.front()] += pressure;
      continue;
    }
    const std::size_t hi = *above, lo = *(above - 1);
    const double t = (bent(yaw) - bent(yaws[lo])) / (bent(yaws[hi]) - bent(yaws[lo]));
    w.weights[lo] += (1 - t) * pressure, w.weights[hi] += t * pressure;
  }
  return w;
}

std::vector<WindAveraged> wind_averaged(const std::vector<Comparison>& comparisons, double wind) {
  std::vector<WindAveraged> out;
  for (const YawSweep& sweep : sweeps_of(comparisons)) {
    if (sweep.at.size() < 2 || wind >= sweep.speed) continue;
    for (const ComparisonRow& first : sweep.at.front()->rows) {
      const std::string& variant = first.run.run.variant;
      std::vector<double> yaws;
      std::vector<const ComparisonRow*> rows;
      for (const Comparison* c : sweep.at)
        if (const ComparisonRow* r = row_of(*c, variant))
          rows.push_back(r), yaws.push_back(yaw_of(*c));
      if (rows.size() < 2) continue;
      WindAveraged& a = out.emplace_back();
      a.variant = variant, a.speed = sweep.speed, a.settings = sweep.settings;
      a.weights = wind_weights(yaws, sweep.speed, wind);
      a.at_least_yaw =
          rows[static_cast<std::size_t>(
                   std::min_element(yaws.begin(), yaws.end(),
                                    [](double x, double y) { return std::abs(x) < std::abs(y); }) -
                   yaws.begin())]
              ->run.cd.mean;
      Difference more;
      bool all = true;
      for (std::size_t i = 0; i < rows.size(); ++i) {
        const double weight = a.weights.weights[i];
        a.cd += weight * rows[i]->run.cd.mean;
        a.half_interval += weight * rows[i]->run.cd.half_interval;
        all = all && rows[i]->cd;
        if (rows[i]->cd)
          more.value += weight * rows[i]->cd->value,
              more.uncertainty += weight * rows[i]->cd->uncertainty;
      }
      if (all) a.more = more;
    }
  }
  return out;
}

}  // namespace dunefield
