// What the page's 3-D view shows of runs: the pictures that a reader asks for first, packed.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/look/flow_view.hpp>
#include <dunefield/look/scene_pack.hpp>

namespace dunefield {

/// How much of a run is shown.
enum class ViewDetail {
  surface,  ///< the vehicle with its pressure
  all,      ///< and the wall shear, slices, smoke, the volume of lost total pressure
};

/// @param baseline where there is one, the change of the surface's pressure from it is shown, too
void pack_run(ScenePack& pack, std::shared_ptr<const FlowView> view, const Record* baseline,
              ViewDetail detail, const Progress& progress = {});

/// Packs of several runs, a few made side by side, handed over in their order.
/// @param make the i-th, on a thread of its own
/// @param take is given the i-th, on this thread
void pack_side_by_side(std::size_t count, const std::function<ScenePack(std::size_t)>& make,
                       const std::function<void(std::size_t, ScenePack)>& take);

}  // namespace dunefield
