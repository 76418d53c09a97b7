// Charts of one quantity over another, in panels that share the horizontal axis; bars by name.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace dunefield {

struct ChartLine {
  std::string name;         ///< empty: not in the key
  std::vector<double> y;    ///< one for each x; not finite: a gap
  std::vector<double> x{};  ///< of its own; empty: the chart's
  /// Half of the interval of each value, drawn as a whisker; or none
  std::vector<double> half_interval{};
  bool marked = false;  ///< with a dot at each value
};

struct ChartPanel {
  std::string title;             ///< quantity and unit
  std::vector<ChartLine> lines;  ///< told apart by colour and by dashes
  bool logarithmic = false;
  /// Values before this share of the x are left out of the vertical range (a start-up that would
  /// flatten the rest).
  double ranged_from = 0;
  double mean = 0, half_interval = -1;  ///< a level drawn with its band; negative interval: none
  bool downward = false;                ///< small values above, as suction is drawn
};

struct Chart {
  std::string title, x_title, footer;
  std::vector<double> x;
  std::vector<ChartPanel> panels;
  double shaded_from = 1e300;          ///< the ground behind larger x is shaded
  std::vector<std::string> x_names{};  ///< of x = 0, 1, 2 ...: bars instead of lines
};

/// Into a PNG or, by the file's ending, an SVG. @throw OutputError, InputError when a line has not
/// as many values as there are x
void draw_chart(const std::filesystem::path& file, const Chart& chart);
/// The same as SVG. @throw InputError
std::string chart_svg(const Chart& chart);

/// Columns of panel, line, x and y.
std::string chart_csv(const Chart& chart);
/// The same as words to read, the first row a heading; of long lines about so many values each.
std::vector<std::vector<std::string>> chart_rows(const Chart& chart, std::size_t most = 40);

}  // namespace dunefield
