// Made-up vehicles, built by code, that go in through the same door as a user's file.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield::garage {

/// An electric parcel van, 5.2 m long, 1.9 m wide, 2.2 m high, wheelbase 3.2 m. Metres, nose
/// towards -x, on its wheels.
Surface marram();
/// Side skirts between the axles of `marram`.
Surface marram_side_skirts();
/// Domes over its rims; they extend the wheels' parts and turn with them.
Surface marram_wheel_covers();
/// A tail that draws the body in over half a metre.
Surface marram_tapered_tail();
/// `marram` as a scanner might deliver it: millimetres, nose towards +y, shifted, holes, doubled
/// and flipped facets, stray bits.
Surface dirty_marram();

/// A hill-climb single-seater, 4.8 m long, with front and rear wings and open wheels.
Surface barchan();
/// A two-axle box truck, 8.2 m long, with twin rear tyres.
Surface seif();
/// A fairing on the roof of its cab.
Surface seif_roof_fairing();

enum class RillPosture { upright, tucked };
/// A time-trial cyclist with bicycle.
Surface rill(RillPosture posture);

/// A saloon 4.5 m long as an assembly export delivers it: about a hundred open and crossing
/// pieces, an open cabin, open rims, and a left side that is not quite the right one mirrored.
Surface nabkha();

/// Names of the demos: marram, barchan, seif, rill, dirty, nabkha.
const std::vector<std::string>& demo_names();
/// Writes a demo's surfaces and its campaign file into a folder, making it if need be.
/// @return the campaign file. @throw OutputError, InputError for an unknown name
std::filesystem::path write_demo(const std::string& name, const std::filesystem::path& folder);

}  // namespace dunefield::garage
