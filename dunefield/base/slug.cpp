#include <dunefield/base/slug.hpp>

#include <algorithm>

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

bool is_file_name(const std::string& text) {
  constexpr std::size_t longest = 200;
  return !text.empty() && text.size() <= longest && text[0] != '.' &&
         std::none_of(text.begin(), text.end(), [](char c) {
           return c == '/' || c == '\\' || static_cast<unsigned char>(c) < ' ' || c == 127;
         });
}

}  // namespace dunefield
