// Tables and JSON that several commands print.
#pragma once

#include <string>
#include <vector>

#include "console.hpp"

#include <dunefield/campaign/comparison.hpp>
#include <dunefield/campaign/plan.hpp>
#include <dunefield/campaign/run_index.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield::tool {

/// "0.3691 ± 0.0012"
std::string with_interval(const WindowMean& mean, int digits);
/// A value with as many decimals as its half interval has for two digits: "11290 ± 230". @param
/// sign
/// "+" shows it always
std::string to_two_digits(double value, double half_interval, const std::string& sign = "");
void show_quality(const MeshResult& mesh, const RunSetup& setup, Console& console);
void show_comparison(const std::vector<Figures>& runs, const std::string& baseline,
                     const Wants& wants, Console& console);
/// Figures by formula, run by run, and what a round takes.
void show_derived(const std::vector<Figures>& runs, const Campaign& campaign, Console& console);
Json derived_json(const std::vector<Figures>& runs, const Campaign& campaign);
void show_plan(const std::vector<PlannedRun>& plan, const std::filesystem::path& folder,
               Console& console);
/// Forces by part, pressure and friction.
void show_parts(const Record& record, Console& console);
Json figures_json(const Figures& figures);
Json comparison_json(const std::vector<Figures>& runs, const std::string& baseline,
                     const Wants& wants);
void show_list(const std::vector<StoredRun>& runs, Console& console);
Json stored_json(const StoredRun& run);
/// Which parts make the difference, in order of size.
void show_by_part(const Figures& run, const Figures& baseline, Console& console);

}  // namespace dunefield::tool
