// Films: pictures one after the other, put together by the encoder program that is installed.
#pragma once

#include <filesystem>
#include <functional>
#include <string>

#include <dunefield/base/progress.hpp>
#include <dunefield/look/image.hpp>

namespace dunefield {

struct FilmOptions {
  int frames = 72;
  double frames_per_second = 24;
};

/// Into MP4 or WebM by the file's ending, through `ffmpeg` where it is installed, or, for a
/// folder's name without an ending, as frame-0001.png and so on.
/// @param frame draws one, from 0. @throw InputError when there is no encoder or for another
/// ending, OutputError, Cancelled
void write_film(const std::filesystem::path& file, const FilmOptions& options,
                const std::function<Image(int)>& frame, const Progress& progress = {});

/// Whether films can be encoded here.
bool film_encoder_found();

}  // namespace dunefield
