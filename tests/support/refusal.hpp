// What is said of files that are not taken.
#pragma once

#include <string>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/surface_file.hpp>

namespace dunefield::test {

/// What a reader says of a file that it refuses; empty if it does not.
template <class Reader>
std::string said_by(const Reader& read, const std::filesystem::path& file) {
  try {
    read(file);
  } catch (const InputError& e) {
    return e.what();
  }
  return "";
}

/// Of a surface file.
inline std::string refusal(const std::filesystem::path& file) {
  return said_by([](const auto& f) { read_surface(f); }, file);
}

}  // namespace dunefield::test
