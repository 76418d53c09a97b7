#include <dunefield/base/valid_text.hpp>

#include <glib.h>

namespace dunefield {

std::string valid_text(const std::string& text) {
  char* valid = g_utf8_make_valid(text.data(), static_cast<gssize>(text.size()));
  std::string out = valid;
  g_free(valid);
  for (char& c : out)
    if (static_cast<unsigned char>(c) < 32 && c != '\n' && c != '\t') c = ' ';
  return out;
}

}  // namespace dunefield
