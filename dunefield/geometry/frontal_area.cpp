#include <dunefield/geometry/frontal_area.hpp>

#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

namespace {

using Intervals = std::vector<std::pair<double, double>>;

/// Adds what triangle `t` covers of the lines [begin, end).
void cover(const Surface& s, std::size_t t, double low, double step, int begin, int end,
           std::vector<Intervals>& covered) {
  const double z[3] = {s.corner(t, 0).z, s.corner(t, 1).z, s.corner(t, 2).z};
  const double z0 = std::min({z[0], z[1], z[2]}), z1 = std::max({z[0], z[1], z[2]});
  const int first = std::max(begin, static_cast<int>(std::ceil((z0 - low) / step - 0.5)));
  const int last = std::min(end - 1, static_cast<int>(std::floor((z1 - low) / step - 0.5)));
  for (int r = first; r <= last; ++r) {
    const double level = low + (r + 0.5) * step;
    double y0 = 1e300, y1 = -1e300;
    for (int k = 0; k < 3; ++k) {
      const Vec3 &a = s.corner(t, k), &b = s.corner(t, (k + 1) % 3);
      if ((a.z <= level) == (b.z <= level)) continue;
      const double y = a.y + (b.y - a.y) * (level - a.z) / (b.z - a.z);
      y0 = std::min(y0, y), y1 = std::max(y1, y);
    }
    if (y1 > y0) covered[at(r - begin)].push_back({y0, y1});
  }
}

double length_of_union(Intervals& row) {
  std::sort(row.begin(), row.end());
  double length = 0, reached = -1e300;
  for (const auto& [y0, y1] : row) {
    length += std::max(0.0, y1 - std::max(y0, reached));
    reached = std::max(reached, y1);
  }
  return length;
}

}  // namespace

double frontal_area(const Surface& s, int cells_across) {
  const Box box = bounds(s);
  if (box.empty()) return 0;
  const double low = std::max(box.lo.z, 0.0);
  const double step = std::max(box.size().y, box.hi.z - low) / cells_across;
  if (!(step > 0) || box.hi.z <= low) return 0;
  const int rows = static_cast<int>(std::ceil((box.hi.z - low) / step));
  // On each horizontal line the triangles cover exact intervals; their union is measured. Each core
  // takes a band of lines.
  std::vector<double> width(static_cast<std::size_t>(std::max(rows, 0)));
  const int bands = threads_allowed();
  parallel_for(
      static_cast<std::size_t>(bands),
      [&](std::size_t band) {
        const int begin = rows * static_cast<int>(band) / bands,
                  end = rows * (static_cast<int>(band) + 1) / bands;
        std::vector<std::vector<std::pair<double, double>>> covered(
            static_cast<std::size_t>(end - begin));
        for (std::size_t t = 0; t < s.size(); ++t) cover(s, t, low, step, begin, end, covered);
        for (int r = begin; r < end; ++r) width[at(r)] = length_of_union(covered[at(r - begin)]);
      },
      1);
  return step * std::accumulate(width.begin(), width.end(), 0.0);
}

}  // namespace dunefield
