#include <dunefield/mesh/wheel_boxes.hpp>

namespace dunefield {

std::vector<RefinedBox> boxes_about(const std::vector<Wheel>& wheels, double surface_size) {
  constexpr double enough = 24, beyond = 1.0 / 3;  // leaves; of the radius, on all sides
  std::vector<RefinedBox> boxes;
  for (const Wheel& w : wheels) {
    if (2 * w.radius >= enough * surface_size) continue;
    const double round = (1 + beyond) * w.radius, aside = 0.5 * w.width + beyond * w.radius;
    boxes.push_back({"about " + w.part,
                     {{w.centre.x - round, w.centre.y - aside, 0.0},
                      {w.centre.x + round, w.centre.y + aside, w.centre.z + round}},
                     0.5 * surface_size});
  }
  return boxes;
}

}  // namespace dunefield
