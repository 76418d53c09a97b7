#include <dunefield/geometry/files/surface_builder.hpp>

#include <bit>
#include <cstring>
#include <limits>
#include <random>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/shapes/polygon.hpp>

namespace dunefield {
namespace {

/// Of this process alone: no file can be written whose points all fall on one place of the table.
std::uint64_t random_start() {
  std::random_device source;
  return std::uint64_t{source()} << 32 | source();
}

std::uint64_t hash_of(const Vec3& p) {
  static const std::uint64_t start = random_start();
  std::uint64_t h = start;
  for (int i = 0; i < 3; ++i) {
    std::uint64_t bits;
    const double v = p[i] + 0.0;  // turns -0 into +0
    std::memcpy(&bits, &v, sizeof bits);
    h = (h ^ bits) * 0x9E3779B97F4A7C15ull;
    h ^= h >> 29;
  }
  return h;
}

}  // namespace

void PointWelder::add(const Vec3* p, std::size_t n, int* number) {
  // the table's lines are fetched for a batch at a time: the memory is the limit
  constexpr std::size_t batch = 32;
  for (std::size_t first = 0; first < n; first += batch) {
    const std::size_t m = std::min(batch, n - first);
    if ((points_->size() + m) * 2 > table_.size())
      resize(std::max<std::size_t>(1024, 2 * table_.size()));
    std::uint64_t hash[batch];
    for (std::size_t i = 0; i < m; ++i) {
      hash[i] = hash_of(p[first + i]);
      __builtin_prefetch(&table_[hash[i] & mask_]);
    }
    for (std::size_t i = 0; i < m; ++i) {
      const std::int32_t guess = table_[hash[i] & mask_];
      if (guess >= 0) __builtin_prefetch(&(*points_)[at(guess)]);
    }
    for (std::size_t i = 0; i < m; ++i) number[first + i] = find_or_add(p[first + i], hash[i]);
  }
}

int PointWelder::find_or_add(const Vec3& p, std::uint64_t hash) {
  for (std::uint64_t slot = hash & mask_;; slot = (slot + 1) & mask_) {
    const std::int32_t i = table_[slot];
    if (i < 0) {
      if (points_->size() >= static_cast<std::size_t>(std::numeric_limits<std::int32_t>::max()))
        throw InputError("the surface has more than two thousand million points", "",
                         "thin it out");
      table_[slot] = static_cast<std::int32_t>(points_->size());
      points_->push_back(p);
      return table_[slot];
    }
    if ((*points_)[at(i)] == p) return i;
  }
}

void PointWelder::expect(std::size_t points) {
  points_->reserve(points);
  resize(std::bit_ceil(2 * points + 1024));
}

/// @param size a power of two
void PointWelder::resize(std::size_t size) {
  std::vector<std::int32_t>().swap(table_);
  table_.assign(size, -1);
  mask_ = size - 1;
  for (std::size_t i = 0; i < points_->size(); ++i) {
    std::uint64_t at = hash_of((*points_)[i]) & mask_;
    while (table_[at] >= 0) at = (at + 1) & mask_;
    table_[at] = static_cast<std::int32_t>(i);
  }
}

SurfaceBuilder::SurfaceBuilder(const std::filesystem::path& file)
    : file_(file), welder_(surface_.points) {}

void SurfaceBuilder::use_part(std::string_view raw_name) {
  std::string name =
      safe_text(raw_name.empty() ? std::string_view(file_.stem().native()) : raw_name);
  if (name.empty()) name = "part";
  const auto [it, fresh] =
      part_.try_emplace(std::move(name), static_cast<int>(surface_.part_names.size()));
  if (fresh) surface_.part_names.push_back(it->first);
  current_ = it->second;
}

void SurfaceBuilder::add_triangle(int a, int b, int c) {
  if (a == b || b == c || c == a) return;
  surface_.triangles.push_back({a, b, c});
  surface_.part_of.push_back(current_);
}

void SurfaceBuilder::add_triangles(const Vec3* corners, std::size_t triangles) {
  if (current_ < 0) use_part({});
  for (std::size_t i = 0; i < 3 * triangles; ++i)
    if (!finite(corners[i]))
      throw InputError(fmt::format("triangle {} has a coordinate that is not a finite number",
                                   given_ + i / 3 + 1),
                       file_.string(), "repair or export the surface again");
  constexpr std::size_t batch = 256;
  int number[3 * batch];
  for (std::size_t first = 0; first < triangles; first += batch) {
    const std::size_t m = std::min(batch, triangles - first);
    welder_.add(corners + 3 * first, 3 * m, number);
    for (std::size_t t = 0; t < m; ++t)
      add_triangle(number[3 * t], number[3 * t + 1], number[3 * t + 2]);
  }
  given_ += triangles;
}

void SurfaceBuilder::add_point(const Vec3& p) {
  if (!finite(p))
    throw InputError(
        fmt::format("point {} has a coordinate that is not a finite number", numbers_.size() + 1),
        file_.string(), "repair or export the surface again");
  numbers_.push_back(welder_.add(p));
}

void SurfaceBuilder::add_polygon(const std::vector<long long>& corners) {
  if (current_ < 0) use_part({});
  ++given_;
  std::vector<int> ring;
  for (const long long c : corners) {
    if (c < 0 || c >= static_cast<long long>(numbers_.size()))
      throw InputError(fmt::format("polygon {} names point {}, but there are {} points", given_,
                                   c + 1, numbers_.size()),
                       file_.string(), "it is truncated or damaged: export it again");
    const int n = numbers_[at(c)];
    if (ring.empty() || ring.back() != n) ring.push_back(n);
  }
  if (ring.size() > 1 && ring.back() == ring.front()) ring.pop_back();
  if (ring.size() == 3) return add_triangle(ring[0], ring[1], ring[2]);
  for (const auto& t : triangulate(surface_.points, ring)) add_triangle(t[0], t[1], t[2]);
}

Surface SurfaceBuilder::finish() {
  if (given_ == 0)
    throw InputError("holds no triangles", file_.string(), "export the surface again");
  if (surface_.size() == 0)
    throw InputError("all triangles have two corners at the same place", file_.string(),
                     "check the export's number format");
  if (!(total_area(surface_) > 0))
    throw InputError("no triangle has an area", file_.string(), "check the export's number format");
  // Parts that got no facets are dropped.
  std::vector<bool> used(surface_.part_names.size(), false);
  for (const int p : surface_.part_of) used[at(p)] = true;
  if (std::find(used.begin(), used.end(), false) != used.end())
    surface_ = select_parts(surface_, used);
  surface_.points.shrink_to_fit();
  surface_.triangles.shrink_to_fit();
  surface_.part_of.shrink_to_fit();
  return std::move(surface_);
}

}  // namespace dunefield
