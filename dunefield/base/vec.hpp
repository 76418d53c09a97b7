// Small vectors and matrices of three, for geometry and flow kernels.
#pragma once

#include <algorithm>
#include <cmath>

namespace dunefield {

struct Vec3 {
  double x = 0, y = 0, z = 0;

  double& operator[](int i) { return i == 0 ? x : i == 1 ? y : z; }
  double operator[](int i) const { return i == 0 ? x : i == 1 ? y : z; }
  Vec3& operator+=(const Vec3& b) {
    x += b.x, y += b.y, z += b.z;
    return *this;
  }
  Vec3& operator-=(const Vec3& b) {
    x -= b.x, y -= b.y, z -= b.z;
    return *this;
  }
  Vec3& operator*=(double s) {
    x *= s, y *= s, z *= s;
    return *this;
  }
  bool operator==(const Vec3&) const = default;
};

inline Vec3 operator+(Vec3 a, const Vec3& b) { return a += b; }
inline Vec3 operator-(Vec3 a, const Vec3& b) { return a -= b; }
inline Vec3 operator-(const Vec3& a) { return {-a.x, -a.y, -a.z}; }
inline Vec3 operator*(Vec3 a, double s) { return a *= s; }
inline Vec3 operator*(double s, Vec3 a) { return a *= s; }
inline Vec3 operator/(const Vec3& a, double s) { return a * (1.0 / s); }
inline double dot(const Vec3& a, const Vec3& b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
inline Vec3 cross(const Vec3& a, const Vec3& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double norm2(const Vec3& a) { return dot(a, a); }
inline double norm(const Vec3& a) { return std::sqrt(norm2(a)); }
/// The direction of `a`; the zero vector stays zero.
inline Vec3 unit(const Vec3& a) {
  const double n = norm(a);
  return n > 0 ? a / n : a;
}
inline Vec3 min(const Vec3& a, const Vec3& b) {
  return {std::min(a.x, b.x), std::min(a.y, b.y), std::min(a.z, b.z)};
}
inline Vec3 max(const Vec3& a, const Vec3& b) {
  return {std::max(a.x, b.x), std::max(a.y, b.y), std::max(a.z, b.z)};
}
inline bool finite(const Vec3& a) {
  return std::isfinite(a.x) && std::isfinite(a.y) && std::isfinite(a.z);
}

/// A 3 x 3 matrix by rows; as a velocity gradient, `row(i)` is the gradient of component i.
struct Mat3 {
  Vec3 row[3];

  Mat3& operator+=(const Mat3& b) {
    for (int i = 0; i < 3; ++i) row[i] += b.row[i];
    return *this;
  }
  Vec3 operator*(const Vec3& v) const { return {dot(row[0], v), dot(row[1], v), dot(row[2], v)}; }
};
inline Mat3 operator*(const Mat3& a, double s) {
  return {{a.row[0] * s, a.row[1] * s, a.row[2] * s}};
}
inline Mat3 operator+(Mat3 a, const Mat3& b) { return a += b; }
/// Transposed product: a^T v.
inline Vec3 transposed_times(const Mat3& a, const Vec3& v) {
  return a.row[0] * v.x + a.row[1] * v.y + a.row[2] * v.z;
}

/// A symmetric 3 x 3 matrix.
struct SymmetricMat3 {
  double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;

  Vec3 operator*(const Vec3& v) const {
    return {xx * v.x + xy * v.y + xz * v.z, xy * v.x + yy * v.y + yz * v.z,
            xz * v.x + yz * v.y + zz * v.z};
  }
  /// Adds v v^T s.
  void add_square(const Vec3& v, double s) {
    xx += v.x * v.x * s, xy += v.x * v.y * s, xz += v.x * v.z * s, yy += v.y * v.y * s,
        yz += v.y * v.z * s, zz += v.z * v.z * s;
  }
  SymmetricMat3 inverse() const {
    const double a = yy * zz - yz * yz, b = xz * yz - xy * zz, c = xy * yz - xz * yy,
                 f = 1 / (xx * a + xy * b + xz * c);
    return {a * f,
            b * f,
            c * f,
            (xx * zz - xz * xz) * f,
            (xy * xz - xx * yz) * f,
            (xx * yy - xy * xy) * f};
  }
};

/// An axis-aligned box; empty until something is included.
struct Box {
  Vec3 lo{1e300, 1e300, 1e300}, hi{-1e300, -1e300, -1e300};

  void include(const Vec3& p) { lo = min(lo, p), hi = max(hi, p); }
  void include(const Box& b) { lo = min(lo, b.lo), hi = max(hi, b.hi); }
  bool empty() const { return lo.x > hi.x; }
  Vec3 size() const { return hi - lo; }
  Vec3 centre() const { return (lo + hi) * 0.5; }
  bool contains(const Vec3& p, double margin = 0) const {
    for (int i = 0; i < 3; ++i)
      if (p[i] < lo[i] - margin || p[i] > hi[i] + margin) return false;
    return true;
  }
};

}  // namespace dunefield
