// What a campaign has found, as tables of words: for the console and the report alike.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/campaign/explanation.hpp>

namespace dunefield {

struct ResultTable {
  std::string title;                           ///< empty: it belongs to the one before
  std::vector<std::vector<std::string>> rows;  ///< the first is the heading
  std::vector<std::string> notes;              ///< below
};

/// "0.3691 ± 0.0012"
std::string with_interval(const WindowMean& mean, int digits);
/// The same of a drag coefficient, in as many decimals as it needs.
std::string drag_with_interval(const WindowMean& cd);
/// A value with as many decimals as its half interval has for two digits: "11290 ± 230". @param
/// sign
/// "+" shows it always
std::string to_two_digits(double value, double half_interval, const std::string& sign = "");

/// For each speed and setting the runs, and what changes from the baseline.
std::vector<ResultTable> comparison_tables(const std::vector<Figures>& runs,
                                           const std::string& baseline, const Wants& wants,
                                           const DisplayUnits& units = {});
/// Which parts make a difference, in order of size.
ResultTable by_part_table(const Figures& run, const Figures& baseline);
/// Which stretch of the length does.
ResultTable by_stretch_table(const Explanation& explanation, const Figures& baseline);
/// What cores and fans have found, at the last iteration; no rows where there are none.
ResultTable devices_table(const std::vector<DeviceFigures>& devices,
                          const DisplayUnits& units = {});
/// Figures, claims, means over the wind, rounds.
std::vector<ResultTable> derived_tables(const std::vector<Figures>& runs, const Campaign& campaign);

/// What is built in, and the user's own formulas.
std::vector<DerivedFigure> all_figures(const Figures& run, const Campaign& campaign);
/// Comparisons with the same settings, group by group.
std::vector<std::vector<Comparison>> by_settings(const std::vector<Comparison>& all);
const char* claim_verdict(const ClaimCompared& claim);

}  // namespace dunefield
