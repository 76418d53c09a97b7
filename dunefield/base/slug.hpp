// Names for files from any text.
#pragma once

#include <string>

namespace dunefield {

/// Small letters, digits and single dashes, safe on every file system; `otherwise` where nothing of
/// the text is left.
std::string slug(const std::string& text, const std::string& otherwise);

}  // namespace dunefield
