#include <dunefield/balance/frontal_area.hpp>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

double frontal_area(const Surface& s, int cells_across) {
  const Box box = bounds(s);
  if (box.empty()) return 0;
  const double low = std::max(box.lo.z, 0.0);
  const double step = std::max(box.size().y, box.hi.z - low) / cells_across;
  if (!(step > 0)) return 0;
  const int rows = static_cast<int>(std::ceil((box.hi.z - low) / step));
  // On each horizontal line the triangles cover exact intervals; their union is measured.
  std::vector<std::vector<std::pair<double, double>>> covered(static_cast<std::size_t>(std::max(rows, 0)));
  for (std::size_t t = 0; t < s.size(); ++t) {
    const Vec3 p[3] = {s.corner(t, 0), s.corner(t, 1), s.corner(t, 2)};
    const double z0 = std::min({p[0].z, p[1].z, p[2].z}), z1 = std::max({p[0].z, p[1].z, p[2].z});
    const int first = std::max(0, static_cast<int>(std::ceil((z0 - low) / step - 0.5)));
    const int last = std::min(rows - 1, static_cast<int>(std::floor((z1 - low) / step - 0.5)));
    for (int r = first; r <= last; ++r) {
      const double z = low + (r + 0.5) * step;
      double y0 = 1e300, y1 = -1e300;
      for (int k = 0; k < 3; ++k) {
        const Vec3 &a = p[k], &b = p[(k + 1) % 3];
        if ((a.z <= z) == (b.z <= z)) continue;
        const double y = a.y + (b.y - a.y) * (z - a.z) / (b.z - a.z);
        y0 = std::min(y0, y), y1 = std::max(y1, y);
      }
      if (y1 > y0) covered[static_cast<std::size_t>(r)].push_back({y0, y1});
    }
  }
  double area = 0;
  for (auto& row : covered) {
    std::sort(row.begin(), row.end());
    double reached = -1e300;
    for (const auto& [y0, y1] : row) {
      area += std::max(0.0, y1 - std::max(y0, reached)) * step;
      reached = std::max(reached, y1);
    }
  }
  return area;
}

}  // namespace dunefield
