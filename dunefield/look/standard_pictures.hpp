// The pictures that every run leaves.
#pragma once

#include <filesystem>

#include <dunefield/record/record.hpp>

namespace dunefield {

/// `pressure.png`, `speed.png`, `history.png` and `build-up.png` into a folder. @throw OutputError
void draw_standard_pictures(const std::filesystem::path& folder, const Record& record);

}  // namespace dunefield
