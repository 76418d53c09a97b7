#include <dunefield/campaign/search.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>
#include <nlopt.hpp>

#include <dunefield/campaign/surrogate.hpp>

namespace dunefield {
namespace {

double normal_density(double z) { return std::exp(-z * z / 2) / std::sqrt(2 * std::numbers::pi); }
double normal_share(double z) { return 0.5 * std::erfc(-z / std::numbers::sqrt2); }

/// Expected gain below `best` (Jones et al. 1998).
double expected_gain(const Surrogate::Guess& g, double best) {
  if (!(g.deviation > 0)) return std::max(0.0, best - g.mean);
  const double z = (best - g.mean) / g.deviation;
  return std::max(0.0, g.deviation * (z * normal_share(z) + normal_density(z)));
}

/// Evenly spread points: multiples of the powers of the number whose (d+1)th power is itself plus
/// one, the golden ratio in one dimension.
std::vector<double> spread_point(std::size_t dimensions, int number) {
  double ratio = 1.5;
  for (int i = 0; i < 60; ++i)
    ratio = std::pow(1 + ratio, 1.0 / (static_cast<double>(dimensions) + 1));
  std::vector<double> x(dimensions);
  for (std::size_t k = 0; k < dimensions; ++k) {
    const double step = std::pow(ratio, -static_cast<double>(k + 1));
    x[k] = std::fmod(0.5 + number * step, 1.0);
  }
  return x;
}

/// Surrogates of goal and limits over the runs that came to an end.
struct Model {
  std::vector<Surrogate> figures;  ///< the goal first
  double best = 0;                 ///< least guess of the goal where limits are likely kept
  bool any_within = false;

  double chance(const Eigen::VectorXd& x) const {
    double p = 1;
    for (std::size_t i = 1; i < figures.size(); ++i) {
      const Surrogate::Guess g = figures[i].at(x);
      p *= g.deviation > 0 ? normal_share(-g.mean / g.deviation) : g.mean <= 0 ? 1.0 : 0.0;
    }
    return p;
  }
  /// Where no run keeps the limits yet, their chance alone counts.
  double promise(const Eigen::VectorXd& x) const {
    return any_within ? expected_gain(figures[0].at(x), best) * chance(x) : chance(x);
  }
};

Eigen::VectorXd as_vector(const std::vector<double>& x) {
  return Eigen::Map<const Eigen::VectorXd>(x.data(), static_cast<Eigen::Index>(x.size()));
}

/// By the run's own result. What the others say of its place may smooth over what it has measured
/// itself.
bool keeps_limits(const Search::Tried& t) {
  return std::all_of(t.limits.begin(), t.limits.end(), [](const Noisy& v) { return v.value <= 0; });
}

Model model_of(const std::vector<Search::Tried>& tried, std::size_t limits) {
  std::vector<const Search::Tried*> done;
  for (const Search::Tried& t : tried)
    if (!t.failed) done.push_back(&t);
  const auto n = static_cast<Eigen::Index>(done.size());
  Eigen::MatrixXd points(static_cast<Eigen::Index>(done[0]->point.size()), n);
  for (Eigen::Index i = 0; i < n; ++i)
    points.col(i) = as_vector(done[static_cast<std::size_t>(i)]->point);
  Model m;
  for (std::size_t f = 0; f <= limits; ++f) {
    Eigen::VectorXd values(n), deviations(n);
    for (Eigen::Index i = 0; i < n; ++i) {
      const Search::Tried& t = *done[static_cast<std::size_t>(i)];
      const Noisy& v = f == 0 ? t.goal : t.limits[f - 1];
      values[i] = v.value, deviations[i] = v.deviation;
    }
    m.figures.emplace_back(points, values, deviations);
  }
  m.best = std::numeric_limits<double>::infinity();
  for (Eigen::Index i = 0; i < n; ++i)
    if (m.chance(points.col(i)) >= 0.5 && keeps_limits(*done[static_cast<std::size_t>(i)]))
      m.any_within = true, m.best = std::min(m.best, m.figures[0].at(points.col(i)).mean);
  return m;
}

/// Where the model promises most. @return the point, and what it promises
std::pair<std::vector<double>, double> most_promising(const Model& m, std::size_t dimensions,
                                                      const std::vector<double>& best_so_far) {
  struct Call {
    const Model& model;
  } call{m};
  const auto promise = [](const std::vector<double>& x, std::vector<double>&, void* data) {
    // On a logarithmic scale: far from the best the gain is next to nothing, but not flat.
    return std::log(static_cast<Call*>(data)->model.promise(as_vector(x)) + 1e-200);
  };
  const auto climb = [&](nlopt::algorithm how, int evaluations, std::vector<double> x) {
    nlopt::opt search(how, static_cast<unsigned>(dimensions));
    search.set_lower_bounds(0.0), search.set_upper_bounds(1.0);
    search.set_max_objective(promise, &call);
    search.set_maxeval(evaluations), search.set_xtol_abs(1e-4);
    if (how == nlopt::LN_SBPLX) search.set_initial_step(0.1);
    double value = -1e300;
    try {
      search.optimize(x, value);
    } catch (const nlopt::roundoff_limited&) {  // as good as it gets
    }
    return std::pair{x, value};
  };
  const int few = static_cast<int>(200 * dimensions);
  auto best = climb(nlopt::GN_DIRECT_L, 2 * few, std::vector<double>(dimensions, 0.5));
  for (const std::vector<double>& start : {best.first, best_so_far}) {
    auto other = climb(nlopt::LN_SBPLX, few, start);
    if (other.second > best.second) best = other;
  }
  return {best.first, std::exp(best.second)};
}

}  // namespace

Search::Search(std::size_t variables, std::size_t limits, int runs)
    : variables_(variables), limits_(limits), runs_(runs) {}

std::size_t Search::succeeded() const {
  return static_cast<std::size_t>(
      std::count_if(tried_.begin(), tried_.end(), [](const Tried& t) { return !t.failed; }));
}

std::optional<std::vector<double>> Search::next() {
  const int done = static_cast<int>(tried_.size());
  if (done >= runs_) {
    why_ = fmt::format("all {} runs are made", runs_);
    return std::nullopt;
  }
  const int start = std::min(runs_, static_cast<int>(2 * variables_ + 2));
  if (done < start || succeeded() < 2) return spread_point(variables_, done);
  const Model m = model_of(tried_, limits_);
  const auto there = best();
  const auto [point, promise] = most_promising(m, variables_, tried_[there->run].point);
  // A gain that a run's own noise would hide is none, once it was so twice.
  std::vector<double> noise;
  for (const Tried& t : tried_)
    if (!t.failed) noise.push_back(t.goal.deviation);
  std::nth_element(noise.begin(), noise.begin() + static_cast<std::ptrdiff_t>(noise.size() / 2),
                   noise.end());
  constexpr double hidden = 0.1;  // of a run's noise
  const double typical = noise[noise.size() / 2];
  small_gains_ = m.any_within && promise < hidden * typical ? small_gains_ + 1 : 0;
  if (small_gains_ >= 2) {
    why_ = fmt::format("the next run is expected to gain {:.2g}, which the noise of {:.2g} hides",
                       promise, typical);
    return std::nullopt;
  }
  return point;
}

std::optional<Search::Best> Search::best() const {
  if (succeeded() == 0) return std::nullopt;
  const Model m = model_of(tried_, limits_);
  Best best;
  double best_chance = -1;
  for (std::size_t i = 0; i < tried_.size(); ++i) {
    if (tried_[i].failed) continue;
    const Eigen::VectorXd x = as_vector(tried_[i].point);
    const Surrogate::Guess g = m.figures[0].at(x);
    const double chance = m.chance(x);
    const bool within = chance >= 0.5 && keeps_limits(tried_[i]);
    if (best_chance < 0 || (within && (!best.within_limits || g.mean < best.value)) ||
        (!within && !best.within_limits && chance > best_chance))
      best = {i, g.mean, g.deviation, within}, best_chance = chance;
  }
  return best;
}

}  // namespace dunefield
