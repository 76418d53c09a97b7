#include <dunefield/base/packing.hpp>

#include <glib.h>
#include <zlib.h>

#include <new>

namespace dunefield {

std::string base64(const std::string& bytes) {
  char* text = g_base64_encode(reinterpret_cast<const guchar*>(bytes.data()), bytes.size());
  std::string out = text;
  g_free(text);
  return out;
}

std::string deflated(const std::string& bytes) {
  uLongf size = compressBound(bytes.size());
  std::string out(size, '\0');
  if (compress2(reinterpret_cast<Bytef*>(out.data()), &size,
                reinterpret_cast<const Bytef*>(bytes.data()), bytes.size(), 9) != Z_OK)
    throw std::bad_alloc();
  out.resize(size);
  return out;
}

}  // namespace dunefield
