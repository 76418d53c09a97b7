#include <dunefield/base/slug.hpp>

#include <cctype>

namespace dunefield {

std::string slug(const std::string& text, const std::string& otherwise) {
  constexpr std::size_t longest = 60;  // well below what file systems allow
  std::string out;
  for (const unsigned char c : text) {
    if (std::isalnum(c) && c < 128)
      out += static_cast<char>(std::tolower(c));
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  out = out.substr(0, longest);
  while (!out.empty() && out.back() == '-') out.pop_back();
  return out.empty() ? otherwise : out;
}

}  // namespace dunefield
