// Several records of one mesh: other speeds, other settings of the air.
#pragma once

#include <dunefield/record/record.hpp>

namespace dunefield {

/// Opens a record's folder as Record::open does; where its mesh is that of `other` (by the mesh's
/// hash), both share it: it is neither read nor measured again.
Record open_beside(const Record& other, const std::filesystem::path& folder,
                   const Progress& progress = {});

}  // namespace dunefield
