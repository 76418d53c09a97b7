#include <dunefield/look/lightened_sheet.hpp>

#include <meshoptimizer.h>

#include <dunefield/base/index.hpp>

namespace dunefield {

std::vector<std::array<int, 3>> lightened_triangles(const Sheet& s, std::size_t most_triangles) {
  if (s.triangles.size() <= most_triangles) return s.triangles;
  std::vector<float> places;
  for (const Vec3& p : s.points)
    for (int k = 0; k < 3; ++k) places.push_back(static_cast<float>(p[k]));
  std::vector<unsigned> corners, kept(3 * s.triangles.size());
  for (const auto& t : s.triangles)
    for (const int c : t) corners.push_back(static_cast<unsigned>(c));
  constexpr float any_error = 1;  // of the sheet's size: the number of triangles decides
  kept.resize(meshopt_simplify(kept.data(), corners.data(), corners.size(), places.data(),
                               s.points.size(), 3 * sizeof(float), 3 * most_triangles, any_error, 0,
                               nullptr));
  std::vector<std::array<int, 3>> out(kept.size() / 3);
  for (std::size_t i = 0; i < kept.size(); ++i) out[i / 3][i % 3] = static_cast<int>(kept[i]);
  return out;
}

Sheet lightened(const Sheet& s, std::size_t most_triangles) {
  if (s.triangles.size() <= most_triangles) return s;
  Sheet out = s;
  out.points.clear(), out.values.clear(), out.normals.clear(), out.flow.clear();
  out.triangles = lightened_triangles(s, most_triangles);
  std::vector<int> number(s.points.size(), -1);
  for (auto& triangle : out.triangles)
    for (int& corner : triangle) {
      int& n = number[at(corner)];
      if (n < 0) {
        n = static_cast<int>(out.points.size());
        out.points.push_back(s.points[at(corner)]);
        if (!s.values.empty()) out.values.push_back(s.values[at(corner)]);
        if (!s.normals.empty()) out.normals.push_back(s.normals[at(corner)]);
        if (!s.flow.empty()) out.flow.push_back(s.flow[at(corner)]);
      }
      corner = n;
    }
  return out;
}

}  // namespace dunefield
