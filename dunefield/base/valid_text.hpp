// Text from files as text: what is no UTF-8 in it is replaced.
#pragma once

#include <string>

namespace dunefield {

/// Bytes that are no UTF-8 become the sign for that, and control characters spaces.
std::string valid_text(const std::string& text);

}  // namespace dunefield
