// Text files, read whole, and written whole or not at all.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace dunefield {

/// @throw InputError when there is no such file or it cannot be read
std::string read_text(const std::filesystem::path& file);

/// Writes beside the file and puts it in place when it is complete. @throw OutputError
void write_text(const std::filesystem::path& file, std::string_view text);

/// Makes the folder if need be. @throw OutputError when nothing can be written there
void check_writable(const std::filesystem::path& folder);

}  // namespace dunefield
