#include <dunefield/record/probe_series.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/balance/spectrum.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

/// The lowest frequency that a series resolves stands for all that are lower.
double resolved_peak(const Spectrum& s) {
  const double peak = s.peak();
  return s.frequency.size() > 1 && peak > 0.5 * (s.frequency[0] + s.frequency[1]) ? peak : 0;
}

}  // namespace

std::size_t ProbeSeries::width() const {
  std::size_t all = 0;
  for (const Probe& p : probes) all += at(p.columns());
  return all;
}

double ProbeSeries::step() const {
  return time.size() > 1 ? (time.back() - time.front()) / static_cast<double>(time.size() - 1) : 0;
}

std::size_t ProbeSeries::step_at(double from) const {
  return static_cast<std::size_t>(std::lower_bound(time.begin(), time.end(), from) - time.begin());
}

std::vector<double> ProbeSeries::of(std::size_t probe, int column, std::size_t first) const {
  std::size_t place = at(column);
  for (std::size_t p = 0; p < probe; ++p) place += at(probes[p].columns());
  const std::size_t row = width();
  std::vector<double> series;
  for (std::size_t step = first; step < time.size(); ++step)
    series.push_back(static_cast<double>(values[step * row + place]));
  return series;
}

std::vector<ProbeStatistics> statistics_of(const ProbeSeries& series, double from) {
  constexpr std::size_t enough_for_frequencies = 32;
  std::vector<ProbeStatistics> all;
  const std::size_t first = series.step_at(from);
  if (series.empty() || first >= series.time.size()) return all;
  const std::size_t steps = series.time.size() - first;
  for (std::size_t p = 0; p < series.probes.size(); ++p)
    for (int c = 0; c < series.probes[p].columns(); ++c) {
      const std::vector<double> values = series.of(p, c, first);
      ProbeStatistics s{p, c, window_mean(values)};
      for (const double v : values) s.deviation += (v - s.mean.mean) * (v - s.mean.mean);
      s.deviation = std::sqrt(s.deviation / static_cast<double>(steps));
      if (steps >= enough_for_frequencies && s.deviation > 0)
        s.peak = resolved_peak(spectrum_of(values, series.step()));
      all.push_back(s);
    }
  return all;
}

void put_probes(ArrayFileWriter& out, const ProbeSeries& series) {
  if (series.empty()) return;
  std::vector<char> names;
  std::vector<std::int32_t> numbers;
  std::vector<Vec3> places;
  for (const Probe& p : series.probes) {
    names.insert(names.end(), p.name.begin(), p.name.end()), names.push_back('\0');
    numbers.push_back(p.number), places.push_back(p.place);
  }
  out.put("probe names", names), out.put("probe numbers", numbers);
  out.put("probe places", places), out.put("probe times", series.time);
  out.put("probe values", series.values);
}

ProbeSeries take_probes(ArrayFileReader& in) {
  ProbeSeries series;
  if (!in.has("probe names")) return series;
  const auto names = in.take<char>("probe names");
  const auto numbers = in.take<std::int32_t>("probe numbers");
  const auto places = in.take<Vec3>("probe places");
  auto name = names.begin();
  for (std::size_t i = 0; i < numbers.size() && i < places.size(); ++i) {
    const auto end = std::find(name, names.end(), '\0');
    series.probes.push_back({{name, end}, numbers[i], places[i]});
    name = end == names.end() ? end : end + 1;
  }
  series.time = in.take<double>("probe times");
  series.values = in.take<float>("probe values");
  if (series.values.size() != series.width() * series.time.size())
    throw InputError("the series of taps and rakes are incomplete", "record",
                     "run that case again");
  return series;
}

}  // namespace dunefield
