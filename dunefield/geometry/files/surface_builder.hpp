// Builds a surface point by point while a file is read: equal points become one at once, so that
// memory stays small.
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <string_view>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// Numbers points so that equal ones get the same number. A hash table with open addressing (Knuth
/// 1998, section 6.4).
class PointWelder {
 public:
  explicit PointWelder(std::vector<Vec3>& points) : points_(&points) {}
  /// Room for so many points without growing.
  void expect(std::size_t points);
  /// Finds or adds `n` points. @throw InputError beyond 2^31 - 1 points
  void add(const Vec3* p, std::size_t n, int* number);
  int add(const Vec3& p) {
    int number;
    add(&p, 1, &number);
    return number;
  }

 private:
  int find_or_add(const Vec3& p, std::uint64_t hash);
  void resize(std::size_t size);
  std::vector<Vec3>* points_;
  std::vector<std::int32_t> table_;  ///< point number, or -1
  std::uint64_t mask_ = 0;
};

class SurfaceBuilder {
 public:
  /// @param file for messages and for parts without a name
  explicit SurfaceBuilder(const std::filesystem::path& file);

  /// A hint at how many points there will be.
  void expect_points(std::size_t n) { welder_.expect(n); }
  /// Triangles that follow belong to the part of this name (made safe; empty: the file's name).
  void use_part(std::string_view raw_name);
  /// Triangles given by the places of their corners. @throw InputError for a coordinate that is not
  /// finite
  void add_triangles(const Vec3* corners, std::size_t triangles);
  /// Points to be named by their number later.
  void add_point(const Vec3& p);
  std::size_t points() const { return numbers_.size(); }
  /// A polygon of at least three numbered points, cut into triangles.
  void add_polygon(const std::vector<long long>& corners);
  /// The finished surface. @throw InputError if no triangle with an area is left
  Surface finish();

 private:
  void add_triangle(int a, int b, int c);
  std::filesystem::path file_;
  Surface surface_;
  PointWelder welder_;
  std::vector<int> numbers_;  ///< of the points added by number
  std::map<std::string, int, std::less<>> part_;
  int current_ = -1;
  std::size_t given_ = 0;
};

}  // namespace dunefield
