// What is written on a picture: title, legends, scale bar, axes, marks.
#pragma once

#include <dunefield/look/camera.hpp>
#include <dunefield/look/image.hpp>

namespace dunefield {

/// Where the picture proper lies: between title and legends.
PixelFrame picture_frame(const Scene& scene);

Image annotated(const Scene& scene, const Camera& camera, const Image& image);

}  // namespace dunefield
