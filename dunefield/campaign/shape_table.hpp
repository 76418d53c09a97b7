// Add-on shapes from a campaign file's [[shape]] tables.
#pragma once

#include <filesystem>

#include <dunefield/campaign/table.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// The shape a table describes: a closed surface of one part, in metres and vehicle axes. `kind` is
/// one of plate, box, cylinder, loft, revolution, capsules, wing. @param folder where section files
/// are looked for. @throw InputError
Surface read_shape(Table& table, const std::filesystem::path& folder);

}  // namespace dunefield
