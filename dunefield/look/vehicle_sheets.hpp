// The vehicle's surface as sheets, a part each, whole of half models: values and normals go on
// smoothly over what is smooth and break at edges.
#pragma once

#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

/// @param quantity on the wall; empty: plain
/// @param flow with the wall shear of each point, for streaks
std::vector<Sheet> vehicle_sheets(const FlowView& view, const std::string& quantity,
                                  bool flow = false);

/// Where the flow comes to rest on the surface: the largest Cp, and others as large as `least` that
/// lie a tenth of the length away from larger ones.
struct StagnationPoint {
  Vec3 place;
  double cp = 0;
  std::string part;
};
std::vector<StagnationPoint> stagnation_points(const FlowView& view, double least = 0.9,
                                               std::size_t most = 4);

/// How much of each part's surface is swept backward: by wall shear against the stream.
struct BackwardArea {
  std::string part;
  double area = 0, of = 0;  ///< m2, of the whole vehicle
};
std::vector<BackwardArea> backward_areas(const Record& record);

/// Lines across which the flow along the surface turns from forward to backward (it separates) or
/// from backward to forward (it attaches), met from upstream.
struct TurningLines {
  Bundle separation, attachment;
};
TurningLines turning_lines(const FlowView& view);

/// Short strokes along the wall shear, evenly spread. @param spacing m
Bundle tufts(const FlowView& view, double spacing);

}  // namespace dunefield
