#include <dunefield/report/viewer_bundle.hpp>

#ifdef DUNEFIELD_VIEWER_BUNDLE

// The file's bytes, as the assembler takes them in.
asm(R"(
  .pushsection .rodata
  .global dunefield_viewer_first
  .global dunefield_viewer_end
dunefield_viewer_first:
  .incbin ")" DUNEFIELD_VIEWER_BUNDLE R"("
dunefield_viewer_end:
  .popsection
)");
extern "C" const char dunefield_viewer_first[], dunefield_viewer_end[];

namespace dunefield {
std::string_view viewer_bundle() {
  return {dunefield_viewer_first,
          static_cast<std::size_t>(dunefield_viewer_end - dunefield_viewer_first)};
}
}  // namespace dunefield

#else

namespace dunefield {
std::string_view viewer_bundle() { return {}; }
}  // namespace dunefield

#endif
