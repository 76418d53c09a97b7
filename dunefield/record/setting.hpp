// A key of the campaign file, and the value that runs of their own have of it.
#pragma once

#include <string>
#include <vector>

#include <dunefield/base/members.hpp>

namespace dunefield {

/// "ride.front", "10 mm".
struct Setting {
  std::string key, value;
  bool operator==(const Setting&) const = default;
};
template <>
inline constexpr auto members_of<Setting> =
    std::tuple{Member{"key", &Setting::key}, Member{"value", &Setting::value}};
static_assert(members_left_out<Setting> == 0);

using Settings = std::vector<Setting>;

inline constexpr char yaw_key[] = "runs.yaw";

/// "ride.front 10 mm, yaw 5 deg", or nothing.
std::string in_words(const Settings& settings);

}  // namespace dunefield
