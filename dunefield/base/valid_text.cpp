#include <dunefield/base/valid_text.hpp>

#include <glib.h>

namespace dunefield {

std::string valid_text(const std::string& text) {
  char* valid = g_utf8_make_valid(text.data(), static_cast<gssize>(text.size()));
  std::string out = valid;
  g_free(valid);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto c = static_cast<unsigned char>(out[i]);
    const auto next = static_cast<unsigned char>(i + 1 < out.size() ? out[i + 1] : 0);
    if ((c < 32 && c != '\n' && c != '\t') || c == 127) out[i] = ' ';
    if (c == 0xC2 && next < 0xA0) out[i] = out[i + 1] = ' ';  // U+0080 to U+009F
  }
  return out;
}

}  // namespace dunefield
