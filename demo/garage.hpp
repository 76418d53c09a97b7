// Made-up vehicles, built by code, that go in through the same door as a user's file.
#pragma once

#include <filesystem>

#include <dunefield/geometry/surface.hpp>

namespace dunefield::garage {

/// An electric parcel van, 5.2 m long, 1.9 m wide, 2.2 m high, wheelbase 3.2 m. Metres, nose towards -x, on its wheels.
Surface marram();
/// Side skirts between the axles of `marram`.
Surface marram_side_skirts();

/// Writes `marram.stl`, `side-skirts.stl` and the campaign file `marram.toml` into a folder, making it if need be.
/// @return the campaign file. @throw OutputError
std::filesystem::path write_marram(const std::filesystem::path& folder);

}  // namespace dunefield::garage
