// A smooth guess of a figure between runs, with what it does not know: a Gaussian process whose
// noise is each run's own (Rasmussen 2004), about a level that the runs tell no better than they
// can (ordinary kriging, Matheron 1963).
#pragma once

#include <Eigen/Dense>

namespace dunefield {

class Surrogate {
 public:
  struct Guess {
    double mean = 0, deviation = 0;  ///< of the figure itself, without a run's noise
  };
  /// Covariance of Matern with 5/2, a length for each variable; lengths and height are those of the
  /// largest likelihood, with a weak wish for lengths of half the range.
  /// @param points one a column, each variable from 0 to 1
  /// @param deviations standard deviation of each value's noise
  Surrogate(Eigen::MatrixXd points, const Eigen::VectorXd& values,
            const Eigen::VectorXd& deviations);

  Guess at(const Eigen::VectorXd& point) const;

 private:
  Eigen::MatrixXd covariance(const Eigen::VectorXd& logs) const;
  /// Less is likelier. Leaves factor and weights of these lengths and height.
  double fit(const Eigen::VectorXd& logs);

  Eigen::MatrixXd points_;
  Eigen::VectorXd values_, variances_;  ///< about zero, of spread one
  double middle_ = 0, spread_ = 1;
  Eigen::VectorXd share_of_level_;  ///< covariances' inverse times ones
  double level_ = 0;                ///< of `values_`, by least squares
  Eigen::VectorXd logs_;            ///< of lengths, and of the height
  Eigen::LLT<Eigen::MatrixXd> factor_;
  Eigen::VectorXd weights_;
};

}  // namespace dunefield
