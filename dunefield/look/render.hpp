// Draws a scene: rays with depth, so that smoke passes behind the car; soft light, shadows on the
// road; title, legends, scale bar, axes.
#pragma once

#include <dunefield/base/progress.hpp>
#include <dunefield/look/image.hpp>
#include <dunefield/look/scene.hpp>

namespace dunefield {

/// No display needed. @throw InputError for a size that is none, Cancelled
Image render(const Scene& scene, const Progress& progress = {});

/// What paper, ink and what is faint look like.
struct PaperColours {
  Colour paper, ink, faint;
};
PaperColours paper_colours(bool dark);

}  // namespace dunefield
