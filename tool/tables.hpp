// Tables and JSON that several commands print.
#pragma once

#include <string>
#include <vector>

#include "console.hpp"

#include <dunefield/campaign/comparison.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield::tool {

/// "0.3691 ± 0.0012"
std::string with_interval(const WindowMean& mean, int digits);
void show_quality(const MeshResult& mesh, const RunSetup& setup, Console& console);
void show_comparison(const std::vector<Figures>& runs, const std::string& baseline,
                     Console& console);
/// Forces by part, pressure and friction.
void show_parts(const Record& record, Console& console);
Json figures_json(const Figures& figures);
Json comparison_json(const std::vector<Figures>& runs, const std::string& baseline);

}  // namespace dunefield::tool
