#include <dunefield/geometry/edges.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

EdgeTable::EdgeTable(const Surface& s) : start_(s.points.size() + 1, 0), uses_(3 * s.size()) {
  if (s.size() >= std::size_t{1} << 30)
    throw InputError("the surface has more than a thousand million triangles", "", "thin it out");
  for (const auto& t : s.triangles)
    for (std::size_t k = 0; k < 3; ++k) ++start_[at(std::min(t[k], t[(k + 1) % 3])) + 1];
  for (std::size_t p = 1; p < start_.size(); ++p) start_[p] += start_[p - 1];
  std::vector<std::size_t> next(start_.begin(), start_.end() - 1);
  for (std::size_t t = 0; t < s.size(); ++t)
    for (std::size_t k = 0; k < 3; ++k) {
      const int a = s.triangles[t][k], b = s.triangles[t][(k + 1) % 3];
      uses_[next[at(std::min(a, b))]++] = {std::max(a, b),
                                           static_cast<std::int32_t>(2 * t + (a > b))};
    }
  parallel_for(
      s.points.size(),
      [&](std::size_t p) {
        std::sort(uses_.begin() + static_cast<std::ptrdiff_t>(start_[p]),
                  uses_.begin() + static_cast<std::ptrdiff_t>(start_[p + 1]),
                  [](const Use& a, const Use& b) {
                    return a.other != b.other ? a.other < b.other : a.triangle2 < b.triangle2;
                  });
      },
      4096);
}

}  // namespace dunefield
