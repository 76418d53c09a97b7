#include <dunefield/record/points.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/record/quantities.hpp>
#include <dunefield/record/sampler.hpp>

namespace dunefield {
namespace {

template <class T>
std::vector<std::optional<T>> read_at(const Record& r, const std::vector<T>& values,
                                      const std::vector<Vec3>& points) {
  const Sampler sampler(*r.mesh);
  std::vector<std::optional<T>> out;
  out.reserve(points.size());
  for (const Vec3& p : points) {
    const Vec3 x = meshed_side(p, r.run.half);
    const auto cell = sampler.cell_at(x);
    out.push_back(cell ? std::optional(sampler.value_at(*cell, values, x)) : std::nullopt);
  }
  return out;
}

}  // namespace

std::vector<Vec3> points_along(const Vec3& from, const Vec3& to, int count) {
  if (count < 1) throw InputError(fmt::format("{} points", count), "a line", "give one or more");
  std::vector<Vec3> points;
  for (int i = 0; i < count; ++i)
    points.push_back(from + (to - from) * (count > 1 ? static_cast<double>(i) / (count - 1) : 0));
  return points;
}

std::vector<std::optional<double>> scalars_at(const Record& r, const std::string& quantity,
                                              const std::vector<Vec3>& points) {
  return read_at(r, scalar_in_air(r, quantity), points);
}

std::vector<std::optional<Vec3>> vectors_at(const Record& r, const std::string& quantity,
                                            const std::vector<Vec3>& points) {
  auto out = read_at(r, vector_in_air(r, quantity), points);
  const auto list = quantities(r);
  const bool axial = std::any_of(list.begin(), list.end(),
                                 [&](const Quantity& q) { return q.name == quantity && q.axial; });
  for (std::size_t i = 0; i < points.size(); ++i)
    if (r.run.half && points[i].y < 0 && out[i]) {
      const Vec3 image = in_mirror(*out[i]);
      out[i] = axial ? -image : image;
    }
  return out;
}

}  // namespace dunefield
