// Feeds arbitrary bytes to one of the readers: it must read them or refuse them with an InputError.
// Built with Clang's libFuzzer and sanitizers by the preset `fuzz`, once for each kind:
// build/fuzz/bin/fuzz_obj tests/fuzz/corpus/obj
#include <cstdint>
#include <cstdio>
#include <string>

#include <unistd.h>

#include <dunefield/base/error.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/geometry/files/aerofoil.hpp>
#include <dunefield/geometry/files/obj.hpp>
#include <dunefield/geometry/files/ply.hpp>
#include <dunefield/geometry/files/stl.hpp>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const std::string file = "/dev/shm/dunefield-fuzz-" + std::to_string(getpid());
  std::FILE* out = std::fopen(file.c_str(), "wb");
  if (!out) return 0;
  std::fwrite(data, 1, size, out);
  std::fclose(out);
  try {
    DUNEFIELD_FUZZ_READER(file);
  } catch (const dunefield::InputError&) {
  }
  std::remove(file.c_str());
  return 0;
}
