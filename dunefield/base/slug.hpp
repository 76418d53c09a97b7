// Names for files from any text.
#pragma once

#include <string>

namespace dunefield {

/// Small letters, digits and single dashes, safe on every file system; `otherwise` where nothing of
/// the text is left.
std::string slug(const std::string& text, const std::string& otherwise);

/// Whether a file can have that name inside of a folder, and nowhere else: no separator, no control
/// character, no dot in front, at most 200 bytes.
bool is_file_name(const std::string& text);

}  // namespace dunefield
