// What is said of a surface file that is not taken.
#pragma once

#include <string>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/files/surface_file.hpp>

namespace dunefield::test {

/// Empty: it was taken.
inline std::string refusal(const std::filesystem::path& file) {
  try {
    read_surface(file);
  } catch (const InputError& e) {
    return e.what();
  }
  return "";
}

}  // namespace dunefield::test
