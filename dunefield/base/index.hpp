// Numbers of cells, faces and points are int; the standard library counts in std::size_t.
#pragma once

#include <concepts>
#include <cstddef>
#include <type_traits>

namespace dunefield {

/// A number, or a word of an enumeration, as an index: `centre[at(cell)]`.
template <class T>
requires std::integral<T> || std::is_enum_v<T>
constexpr std::size_t at(T i) { return static_cast<std::size_t>(i); }

}  // namespace dunefield
