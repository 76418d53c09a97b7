#include <dunefield/record/setting.hpp>

namespace dunefield {

std::string in_words(const Settings& settings) {
  std::string out;
  for (const Setting& s : settings)
    out += (out.empty() ? "" : ", ") + (s.key == yaw_key ? "yaw" : s.key) + " " + s.value;
  return out;
}

}  // namespace dunefield
