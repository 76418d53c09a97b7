// Variants side by side at the same speed, each difference with its uncertainty.
#pragma once

#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include <dunefield/base/display_units.hpp>
#include <dunefield/campaign/paired_scatter.hpp>
#include <dunefield/record/record.hpp>

namespace dunefield {

enum class Verdict {
  baseline,
  better,
  worse,
  within_noise,
  not_settled,  ///< this run's means, or the baseline's, are not known: no verdict
  no_baseline,  ///< the baseline has no result at this speed
  sketch,       ///< the recipe is too coarse for one
};
const char* words(Verdict verdict);

/// A difference from the baseline, and half of its 95 % interval.
struct Difference {
  double value = 0, uncertainty = 0;
  bool within_noise() const { return std::abs(value) <= uncertainty; }
};

/// What a change is wanted to bring; better and worse depend on it.
struct Wants {
  bool less_drag = true, more_drag = false;
  bool more_downforce = false, less_downforce = false;
};
/// "less drag", "more drag", "more downforce" or "less downforce". @return false for other words
bool add_want(Wants& wants, const std::string& words);

/// A part's change of CD and CL; one that only one of both has counts whole.
struct PartDifference {
  std::string part;
  double cd = 0, cl = 0;
};
/// Parts in order of what they change drag by, the largest first.
std::vector<PartDifference> by_part(const Figures& run, const Figures& baseline);

struct ComparisonRow {
  /// The mean over the lattices. Settings that only this variant has are in its name
  Figures run;
  int lattices = 1;  ///< that it was run on
  int pairs = 0;     ///< of them those that the baseline was run on, too
  /// Of drag (N) and coefficients; none for the baseline and where there is none
  std::optional<Difference> drag, cd, cl, clf, clr;
  Verdict verdict = Verdict::baseline;  ///< on drag: better is less
  /// On downforce at the front and rear axle: better is more. Only with a verdict on drag
  Verdict front = Verdict::baseline, rear = Verdict::baseline;
};

struct Comparison {
  double speed = 0;
  Settings settings;  ///< that the baseline has, too: yaw, ride heights
  std::optional<Figures> baseline;
  std::vector<ComparisonRow> rows;  ///< in the order of the runs
};

/// One comparison for each speed and each setting that the baseline was run with. Differences are
/// taken lattice by lattice, and their mean is told: what the mesh does to both cancels. Its
/// uncertainty is that of the histories, and of the scatter of such differences over lattices: by
/// recipe, as measured on the demo vehicles, together with what these very runs show. Only runs
/// that are settled get a verdict.
/// @param baseline name of the variant that the others are compared with
std::vector<Comparison> compare(const std::vector<Figures>& runs, const std::string& baseline);

/// "90 km/h, yaw 5 deg, ride.front -10 mm".
std::string conditions_in_words(double speed, const Settings& settings,
                                const DisplayUnits& units = {});

/// The verdict in words: what the run does, and whether that is what was wanted.
std::string verdict_in_words(const ComparisonRow& row, const Wants& wants);

/// @throw InputError when the runs cannot be compared, with what differs
void check_comparable(const Figures& baseline, const Figures& other);
/// Two records at the same speed, in one line.
/// @throw InputError when they cannot be compared, with what differs
std::string compared_briefly(const Record& baseline, const Record& other);

}  // namespace dunefield
