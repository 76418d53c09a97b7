// Several scenes on one sheet, with one view and one range; planes swept along an axis.
#pragma once

#include <vector>

#include <dunefield/base/progress.hpp>
#include <dunefield/look/picture_request.hpp>
#include <dunefield/look/words.hpp>

namespace dunefield {

/// Scenes with one view and one range for all: those of the first that has them, and what holds
/// all.
void share_out(std::vector<Scene>& scenes);
Image on_one_sheet(const std::vector<Scene>& scenes, bool dark, const Progress& progress);

/// Places of a plane along an axis.
struct Sweep {
  int axis = 0;
  double from = 0, to = 0;
  int steps = 6;
  PictureRequest at(const PictureRequest& request, int step) const;
};
/// From "x, from = 1 m, to = 4 m, steps = 6"; else all round the vehicle.
Sweep sweep_of(Words& words, const Record& record, int steps);

}  // namespace dunefield
