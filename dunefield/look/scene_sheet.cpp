#include <dunefield/look/scene_sheet.hpp>

#include <fmt/format.h>

#include <dunefield/look/render.hpp>

namespace dunefield {

void share_out(std::vector<Scene>& scenes) {
  for (const Scene& s : scenes) {
    scenes.front().frame.include(s.frame);
    scenes.front().scales.insert(s.scales.begin(), s.scales.end());
  }
  for (Scene& s : scenes) s.frame = scenes.front().frame, s.scales = scenes.front().scales;
}

Image on_one_sheet(const std::vector<Scene>& scenes, bool dark, const Progress& progress) {
  std::vector<Image> images;
  for (const Scene& s : scenes) images.push_back(render(s, progress));
  if (images.size() == 1) return images.front();
  // Low and wide ones above each other, so that the sheet is no strip.
  const bool wide = images.front().width > 2 * images.front().height;
  const int columns = wide ? (images.size() > 4 ? 2 : 1) : images.size() > 4 ? 3 : 2;
  return tiled(images, columns, paper_colours(dark).paper * 0.9);
}

PictureRequest Sweep::at(const PictureRequest& request, int step) const {
  PictureRequest r = request;
  const double place =
      from + (to - from) * (steps > 1 ? static_cast<double>(step) / (steps - 1) : 0);
  const std::string plane = fmt::format("{} = {:.6g} m", "xyz"[axis], place);
  if (r.slice.empty()) r.slice = {""};
  for (std::string& s : r.slice) s = s.empty() ? plane : plane + ", " + s;
  return r;
}

Sweep sweep_of(Words& w, const Record& record, int steps) {
  Sweep s;
  for (int axis = 0; axis < 3; ++axis)
    if (w.flag(std::string(1, "xyz"[axis]))) s.axis = axis;
  const Box region = surroundings(record);
  s.from = w.quantity("from", Dimension::length, region.lo[s.axis]);
  s.to = w.quantity("to", Dimension::length, region.hi[s.axis]);
  s.steps = w.count("steps", steps, 1, 10'000);
  return s;
}

}  // namespace dunefield
