// Bytes on their way into text: base64 (RFC 4648) and deflated streams (RFC 1950).
#pragma once

#include <string>

namespace dunefield {

std::string base64(const std::string& bytes);
std::string deflated(const std::string& bytes);

}  // namespace dunefield
