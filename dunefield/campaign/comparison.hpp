// Variants side by side at the same speed, each difference with its uncertainty.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/run_folder.hpp>

namespace dunefield {

enum class Verdict { baseline, better, worse, within_noise };
const char* words(Verdict verdict);

struct ComparisonRow {
  RunFigures run;
  double drag_difference = 0;   ///< N, from the baseline at this speed
  double drag_uncertainty = 0;  ///< N, half of the 95 % interval of that difference
  double cd_difference = 0, cl_difference = 0;
  Verdict verdict = Verdict::baseline;
};

struct Comparison {
  double speed = 0;
  std::vector<ComparisonRow> rows;  ///< the baseline first
};

/// Half of the 95 % interval that the position of the mesh alone gives a drag, as a share of it, by
/// recipe.
double mesh_scatter(const std::string& recipe);

/// One comparison for each speed. The uncertainty of a difference contains the scatter of both
/// histories and of both meshes.
std::vector<Comparison> compare(const std::vector<RunFigures>& runs, const std::string& recipe);

}  // namespace dunefield
