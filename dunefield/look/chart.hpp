// Charts of one quantity over another, in panels that share the horizontal axis.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace dunefield {

struct ChartLine {
  std::string name;       ///< empty: not in the key
  std::vector<double> y;  ///< one for each x of the chart
};

struct ChartPanel {
  std::string title;             ///< quantity and unit
  std::vector<ChartLine> lines;  ///< four at most
  bool logarithmic = false;
  /// Values before this share of the x are left out of the vertical range (a start-up that would
  /// flatten the rest).
  double ranged_from = 0;
  double mean = 0, half_interval = -1;  ///< a level drawn with its band; negative interval: none
};

struct Chart {
  std::string title, x_title, footer;
  std::vector<double> x;
  std::vector<ChartPanel> panels;
  double shaded_from = 1e300;  ///< the ground behind larger x is shaded
};

/// @throw OutputError, InputError when a line has not as many values as there are x
void draw_chart(const std::filesystem::path& file, const Chart& chart);

}  // namespace dunefield
