// Charts of records: histories, build-up, parts, sections of the surface, lines through the air,
// coefficients over what a campaign sweeps. Several records lie over each other.
#pragma once

#include <memory>

#include <dunefield/look/chart.hpp>
#include <dunefield/look/flow_view.hpp>

namespace dunefield {

using Views = std::vector<std::shared_ptr<const FlowView>>;

/// CD, lift and the residual over iterations, or the time of flows in time; of one record with its
/// window and interval.
Chart history_chart(const std::vector<const Record*>& records);
/// How strongly CD, CL and CY of flows in time swing at which frequency, over the window of their
/// means. @throw InputError for a record that is none, or of too few steps
Chart spectrum_chart(const std::vector<const Record*>& records);
/// A tap of a flow in time, or a point of a rake, from 1.
struct ProbeChoice {
  std::string name;
  int point = 0;  ///< 0: a tap
};
/// Its pressure, and of a rake's point the velocity, over time, with means and intervals of the
/// window; and how strongly they swing at which frequency.
/// @throw InputError for a record that has not read it in time, naming what it has
Chart probe_history_chart(const std::vector<const Record*>& records, const ProbeChoice& probe);
Chart probe_spectrum_chart(const std::vector<const Record*>& records, const ProbeChoice& probe);
/// CD and CL from the nose on.
Chart build_up_chart(const std::vector<const Record*>& records);
/// CD and CL of each part, means over the run.
Chart parts_chart(const std::vector<const Record*>& records);
/// CD, CLF and CLR with their intervals over speed, yaw, or the first setting that the runs differ
/// in; a line for each variant and what else they differ in.
/// @throw InputError for runs that differ in none of them
Chart sweep_chart(const std::vector<Figures>& runs);

/// Where the surface meets a plane.
struct WallSection {
  Plane plane{{}, {0, 1, 0}};
  std::string quantity = "Cp";
  std::vector<std::string> parts;  ///< empty: all
  bool over_chord = false;         ///< x from 0 to 1 over what is cut; else in m
};
/// @throw InputError when the plane misses the parts
Chart section_chart(const Views& views, const WallSection& section);

/// A quantity along a line through the air, as a rake reads it.
struct AirLine {
  Vec3 from, to;
  std::string quantity = "total Cp";
  int points = 200;
};
Chart air_line_chart(const Views& views, const AirLine& line);

/// The chart that words ask for: "history", "spectrum", "spectrum, tap = NAME", "build-up",
/// "parts", "sweep", "section, y = 0, parts = a | b, over = chord", "line, from = (..), to = (..)".
/// @throw InputError
Chart chart_of(const Views& views, const std::string& words);
void check_chart(const std::string& words);

}  // namespace dunefield
