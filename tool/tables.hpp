// Tables and JSON that several commands print.
#pragma once

#include <string>
#include <vector>

#include "console.hpp"

#include <dunefield/campaign/comparison.hpp>
#include <dunefield/campaign/plan.hpp>
#include <dunefield/campaign/result_tables.hpp>
#include <dunefield/campaign/run_index.hpp>
#include <dunefield/campaign/verdicts.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/record/json.hpp>
#include <dunefield/run/run_setup.hpp>

namespace dunefield::tool {

/// Text alone, or as the one member of a JSON document.
void print_text(const std::string& text, Console& console);
/// Titles, tables and what stands below them.
void show(const std::vector<ResultTable>& tables, Console& console);
/// Cells, checks and layers in two lines, warnings, and how many notes there are.
void show_quality_briefly(const MeshResult& m, Console& console);
void show_quality(const MeshResult& mesh, const RunSetup& setup, Console& console);
void show_comparison(const std::vector<Figures>& runs, const std::string& baseline,
                     const Wants& wants, Console& console);
Json derived_json(const std::vector<Figures>& runs, const Campaign& campaign);
void show_cluster_plan(const std::vector<PlannedRun>& plan, const std::filesystem::path& folder,
                       Console& console);
void show_plan(const std::vector<PlannedRun>& plan, const std::filesystem::path& folder,
               Console& console);
/// Forces by part, pressure and friction.
void show_parts(const Record& record, Console& console);
Json figures_json(const Figures& figures);
Json comparison_json(const std::vector<Figures>& runs, const std::string& baseline,
                     const Wants& wants);
void show_list(const std::vector<StoredRun>& runs, Console& console);
Json stored_json(const StoredRun& run);
}  // namespace dunefield::tool
