// What is done with eight numbers at once. For sources only: how such numbers are passed depends on
// the processor compiled for.
#pragma once

#include <bit>
#include <cmath>

#include <dunefield/base/float8.hpp>

namespace dunefield {

/// A bit for each lane in which `v` is true.
inline unsigned lanes_of(Int8 v) {
#ifdef __AVX__
  return static_cast<unsigned>(__builtin_ia32_movmskps256(reinterpret_cast<Float8>(v)));
#else
  unsigned bits = 0;
  for (int k = 0; k < 8; ++k) bits |= v[k] ? 1u << k : 0u;
  return bits;
#endif
}

inline Float8 square_root(Float8 v) {
#ifdef __AVX__
  return __builtin_ia32_sqrtps256(v);
#else
  for (int k = 0; k < 8; ++k) v[k] = std::sqrt(v[k]);
  return v;
#endif
}

inline Float8 absolute(Float8 v) { return v < 0 ? -v : v; }
inline Float8 positive(Float8 v) { return v > 0 ? v : Float8{}; }

inline float least(Float8 v) {
  const auto lesser = [](Float8 a, Float8 b) { return a < b ? a : b; };
  v = lesser(v, __builtin_shufflevector(v, v, 4, 5, 6, 7, 0, 1, 2, 3));
  v = lesser(v, __builtin_shufflevector(v, v, 2, 3, 0, 1, 6, 7, 4, 5));
  return v[0] < v[1] ? v[0] : v[1];
}

inline float sum(Float8 v) {
  v += __builtin_shufflevector(v, v, 4, 5, 6, 7, 0, 1, 2, 3);
  v += __builtin_shufflevector(v, v, 2, 3, 0, 1, 6, 7, 4, 5);
  return v[0] + v[1];
}

}  // namespace dunefield
