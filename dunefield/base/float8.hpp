// Eight numbers of single precision at once, by the compiler's vector types (GCC and Clang).
#pragma once

namespace dunefield {

typedef float Float8 __attribute__((vector_size(32)));
/// What comparisons of Float8 give: -1 where true
typedef int Int8 __attribute__((vector_size(32)));

}  // namespace dunefield
