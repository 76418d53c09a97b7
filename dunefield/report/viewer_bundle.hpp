// The page's script of the 3-D view, as viewer/ was built into the library.
#pragma once

#include <string_view>

namespace dunefield {

/// Empty when the library was built without Node.js.
std::string_view viewer_bundle();

}  // namespace dunefield
