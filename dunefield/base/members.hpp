// The members of a struct, listed once with their keys: what decides a result is written down and
// hashed from that list, and the compiler says when a member is missing in it.
#pragma once

#include <cstddef>
#include <tuple>

namespace dunefield {

template <class Struct, class T>
struct Member {
  const char* key;  ///< with its unit
  T Struct::*value;
};
template <class Struct, class T>
Member(const char*, T Struct::*) -> Member<Struct, T>;

/// Specialised for each struct with a list: `template <> inline constexpr auto members_of<Air> =
/// std::tuple{Member{"density_kg_m3", &Air::density}, ...};`
template <class Struct>
inline constexpr int members_of = 0;

template <class T>
concept Listed = !std::is_same_v<std::remove_cvref_t<decltype(members_of<T>)>, int>;

/// Calls `visit(key, value)` for each member of the list.
template <Listed T, class Visit>
void visit_members(const T& object, const Visit& visit) {
  std::apply([&](const auto&... m) { (visit(m.key, object.*m.value), ...); }, members_of<T>);
}

namespace members_detail {
struct Anything {
  template <class T>
  operator T() const;
};
template <class T, std::size_t... I>
constexpr bool takes(std::index_sequence<I...>) {
  return requires { T{(static_cast<void>(I), Anything{})...}; };
}
template <class T, std::size_t N = 0>
constexpr std::size_t count() {
  if constexpr (takes<T>(std::make_index_sequence<N + 1>{}))
    return count<T, N + 1>();
  else
    return N;
}
}  // namespace members_detail

/// How many members of an aggregate its list leaves out.
template <Listed T>
inline constexpr std::size_t members_left_out =
    members_detail::count<T>() - std::tuple_size_v<std::remove_cvref_t<decltype(members_of<T>)>>;

}  // namespace dunefield
