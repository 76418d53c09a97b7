// The records below a folder, found again by what they are. An SQLite file in the folder keeps what
// their numbers say; it is made from the folders, and can be deleted at any time.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/base/csv.hpp>
#include <dunefield/base/findings.hpp>

namespace dunefield {

/// A record's row; SI units, half intervals of 95 %.
struct StoredRun {
  std::string folder;  ///< from the index's folder
  std::string campaign, variant, recipe, status;
  std::string settings;  ///< in words
  double speed = 0, yaw = 0;
  int half = 0, layers = 0, lattice = 0, iterations = 0, cells = 0;
  double cd = 0, cd_half_interval = 0, cl = 0, cl_half_interval = 0, clf = 0, clr = 0, cy = 0;
  double drag_area = 0, drag = 0, lift = 0;
  double seconds = 0;
};

/// Which rows, and in what order; empty and zero: any.
struct RunFilter {
  std::string campaign, variant, recipe, status;
  double speed = 0;     ///< m/s, to 0.1 %
  std::string sort_by;  ///< a column's name; empty: by campaign, speed, variant, lattice
  bool descending = false;
};

/// Columns of the index, as they are sorted by and written as CSV, with units in their names.
const std::vector<std::string>& index_columns();
/// A row's values in that order.
std::vector<CsvCell> index_values(const StoredRun& run);

/// Brings the index up to date with the folders and reads it. Other processes may run and read at
/// the same time. Where nothing can be written the index is made in memory.
/// @param findings folders with a record that cannot be read
/// @throw InputError for a folder that is none and a column that there is not
std::vector<StoredRun> stored_runs(const std::filesystem::path& folder, const RunFilter& filter,
                                   Findings& findings);

}  // namespace dunefield
