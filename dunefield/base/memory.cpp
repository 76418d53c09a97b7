#include <dunefield/base/memory.hpp>

#if defined(__GLIBC__)
#include <malloc.h>
#endif

namespace dunefield {

void keep_freed_memory() {
#if defined(__GLIBC__)
  constexpr int most = 2'000'000'000;
  mallopt(M_MMAP_THRESHOLD, most);
  mallopt(M_TRIM_THRESHOLD, most);
#endif
}

}  // namespace dunefield
