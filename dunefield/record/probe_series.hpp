// What taps and rakes read in a flow in time, step after step, with means and frequencies.
#pragma once

#include <string>
#include <vector>

#include <dunefield/balance/statistics.hpp>
#include <dunefield/base/array_file.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

/// A tap, or one point of a rake.
struct Probe {
  std::string name;  ///< the tap's or the rake's
  int number = 0;    ///< of the rake's points, from 1; 0: a tap
  Vec3 place;        ///< m
  /// Values a step: pressure (Pa, relative to the undisturbed stream); behind it, in the air, the
  /// velocity along x, y, z (m/s)
  int columns() const { return number > 0 ? 4 : 1; }
};

/// The columns of a probe, in order, with their units.
struct ProbeColumn {
  const char *name, *unit;
};
inline constexpr ProbeColumn probe_columns[] = {
    {"pressure", "Pa"}, {"u", "m/s"}, {"v", "m/s"}, {"w", "m/s"}};

struct ProbeSeries {
  std::vector<Probe> probes;
  std::vector<double> time;   ///< s, of each step
  std::vector<float> values;  ///< a row a step: the columns of each probe in turn

  bool empty() const { return probes.empty() || time.empty(); }
  /// Values of a row.
  std::size_t width() const;
  double step() const;  ///< s; 0 of fewer than two
  /// First step that is not before a time, s.
  std::size_t step_at(double from) const;
  /// One column over the steps from `first` on.
  std::vector<double> of(std::size_t probe, int column, std::size_t first = 0) const;
};

/// A column's mean with its 95 % interval (that allows for autocorrelation), its deviation, and
/// the frequency at which it swings most.
struct ProbeStatistics {
  std::size_t probe = 0;
  int column = 0;
  WindowMean mean;
  double deviation = 0;  ///< root mean square about the mean
  double peak = 0;       ///< Hz; 0: too few steps to tell
};
/// @param from s: what lies before is start-up
std::vector<ProbeStatistics> statistics_of(const ProbeSeries& series, double from);

/// Among a record's arrays; nothing for none. @throw OutputError, InputError
void put_probes(ArrayFileWriter& out, const ProbeSeries& series);
ProbeSeries take_probes(ArrayFileReader& in);

}  // namespace dunefield
