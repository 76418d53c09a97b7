#include <dunefield/campaign/surrogate.hpp>

#include <cmath>
#include <limits>

#include <nlopt.hpp>

namespace dunefield {
namespace {

/// Matern's covariance of smoothness 5/2 at a scaled distance.
double matern(double distance) {
  const double a = std::sqrt(5.0) * distance;
  return (1 + a + a * a / 3) * std::exp(-a);
}

constexpr double shortest = 0.05, longest = 10, lowest = 0.05, highest = 20;

}  // namespace

Surrogate::Surrogate(Eigen::MatrixXd points, const Eigen::VectorXd& values,
                     const Eigen::VectorXd& deviations)
    : points_(std::move(points)) {
  middle_ = values.mean();
  const double spread = std::sqrt((values.array() - middle_).square().sum() /
                                  std::max<double>(1, values.size() - 1.0));
  if (spread > 0) spread_ = spread;
  values_ = (values.array() - middle_) / spread_;
  variances_ = (deviations.array() / spread_).square() + 1e-8;
  const auto d = static_cast<std::size_t>(points_.rows()), n = d + 1;
  const auto of_lengths_and_height = [d](double lengths, double height) {
    std::vector<double> all(d, std::log(lengths));
    all.push_back(std::log(height));
    return all;
  };
  const auto likelihood = [](const std::vector<double>& x, std::vector<double>&, void* self) {
    return static_cast<Surrogate*>(self)->fit(
        Eigen::Map<const Eigen::VectorXd>(x.data(), static_cast<Eigen::Index>(x.size())));
  };
  std::vector<double> best = of_lengths_and_height(0.5, 1);
  double best_value = std::numeric_limits<double>::infinity();
  for (const double start : {0.15, 0.5, 1.5}) {
    nlopt::opt search(nlopt::LN_SBPLX, static_cast<unsigned>(n));
    search.set_lower_bounds(of_lengths_and_height(shortest, lowest));
    search.set_upper_bounds(of_lengths_and_height(longest, highest));
    search.set_min_objective(likelihood, this);
    search.set_maxeval(static_cast<int>(60 * n)), search.set_xtol_rel(1e-3);
    std::vector<double> x = of_lengths_and_height(start, 1);
    double value = 0;
    try {
      search.optimize(x, value);
    } catch (const nlopt::roundoff_limited&) {  // as good as it gets
    }
    if (value < best_value) best_value = value, best = x;
  }
  logs_ = Eigen::Map<Eigen::VectorXd>(best.data(), static_cast<Eigen::Index>(n));
  fit(logs_);
}

Eigen::MatrixXd Surrogate::covariance(const Eigen::VectorXd& logs) const {
  const Eigen::Index n = points_.cols(), d = points_.rows();
  const Eigen::MatrixXd scaled = (-logs.head(d)).array().exp().matrix().asDiagonal() * points_;
  const double height = std::exp(2 * logs[d]);
  Eigen::MatrixXd k(n, n);
  for (Eigen::Index i = 0; i < n; ++i)
    for (Eigen::Index j = 0; j <= i; ++j)
      k(i, j) = k(j, i) = height * matern((scaled.col(i) - scaled.col(j)).norm());
  k.diagonal() += variances_;
  return k;
}

double Surrogate::fit(const Eigen::VectorXd& logs) {
  factor_.compute(covariance(logs));
  if (factor_.info() != Eigen::Success) return 1e12;
  const Eigen::VectorXd ones = Eigen::VectorXd::Ones(values_.size());
  share_of_level_ = factor_.solve(ones);
  level_ = share_of_level_.dot(values_) / share_of_level_.sum();
  const Eigen::VectorXd about_level = values_ - level_ * ones;
  weights_ = factor_.solve(about_level);
  const double determinant = 2 * factor_.matrixLLT().diagonal().array().log().sum();
  const double wished = (logs.array() - std::log(0.5)).head(points_.rows()).square().sum() / 2;
  return 0.5 * (about_level.dot(weights_) + determinant) + 0.5 * wished;
}

Surrogate::Guess Surrogate::at(const Eigen::VectorXd& point) const {
  const Eigen::Index d = points_.rows();
  const Eigen::ArrayXd inverse = (-logs_.head(d)).array().exp();
  const double height = std::exp(2 * logs_[d]);
  Eigen::VectorXd k(points_.cols());
  for (Eigen::Index i = 0; i < points_.cols(); ++i)
    k[i] = height * matern(((points_.col(i) - point).array() * inverse).matrix().norm());
  const Eigen::VectorXd half = factor_.matrixL().solve(k);
  const double by_level = 1 - k.dot(share_of_level_),
               of_level = by_level * by_level / share_of_level_.sum();
  return {middle_ + spread_ * (level_ + k.dot(weights_)),
          spread_ * std::sqrt(std::max(0.0, height - half.squaredNorm()) + of_level)};
}

}  // namespace dunefield
