// What a report answers before anybody scrolls: a sentence for each variant, all differences with
// their intervals, and the numbers that a decision needs. Not part of the public interface.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/verdicts.hpp>

namespace dunefield {

/// All differences of drag about zero, each with its interval: a row for each variant and
/// condition, as an SVG element's content. Colours are classes of the page's style.
/// @return empty where there is none
std::string difference_chart(const std::vector<VariantVerdict>& verdicts,
                             const DisplayUnits& units);

/// CD*A, power and energy of each run at one condition, front and rear lift where they are wanted;
/// the first row is the heading.
std::vector<std::vector<std::string>> key_numbers(const std::vector<Figures>& runs,
                                                  const Wants& wants, const DisplayUnits& units);

}  // namespace dunefield
