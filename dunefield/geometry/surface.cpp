#include <dunefield/geometry/surface.hpp>

#include <numeric>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/edges.hpp>
#include <dunefield/geometry/files/surface_builder.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

int find_root(std::vector<int>& parent, int i) {
  while (parent[at(i)] != i) {
    int& p = parent[at(i)];
    p = parent[at(p)];
    i = p;
  }
  return i;
}

}  // namespace

int Surface::find_part(const std::string& name) const {
  const auto it = std::find(part_names.begin(), part_names.end(), name);
  return it == part_names.end() ? -1 : static_cast<int>(it - part_names.begin());
}

Box bounds(const Surface& s) {
  return join_blocks(
      s.size(), Box{},
      [&](std::size_t first, std::size_t last) {
        Box box;
        for (std::size_t t = first; t < last; ++t)
          for (int k = 0; k < 3; ++k) box.include(s.corner(t, k));
        return box;
      },
      [](Box& all, const Box& more) { all.include(more); });
}

Box bounds(const Surface& s, int part) {
  Box box;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.part_of[t] == part)
      for (int k = 0; k < 3; ++k) box.include(s.corner(t, k));
  return box;
}

double total_area(const Surface& s) {
  return parallel_sum(s.size(), [&](std::size_t t) { return norm(s.area_vector(t)); });
}

double signed_volume(const Surface& s) {
  return parallel_sum(s.size(),
                      [&](std::size_t t) { return dot(s.area_vector(t), s.centroid(t)); }) /
         3.0;
}

std::size_t weld(Surface& s) {
  std::vector<int> new_number(s.points.size());
  std::vector<Vec3> points;
  PointWelder(points).add(s.points.data(), s.points.size(), new_number.data());
  s.points = std::move(points);
  std::size_t kept = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    std::array<int, 3> c = s.triangles[t];
    for (int& i : c) i = new_number[at(i)];
    if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0]) continue;
    s.triangles[kept] = c;
    s.part_of[kept++] = s.part_of[t];
  }
  const std::size_t dropped = s.size() - kept;
  s.triangles.resize(kept);
  s.part_of.resize(kept);
  return dropped;
}

void drop_unused_points(Surface& s) {
  std::vector<int> number(s.points.size(), -1);
  for (const auto& t : s.triangles)
    for (const int c : t) number[at(c)] = 0;
  int kept = 0;
  for (std::size_t i = 0; i < number.size(); ++i)
    if (number[i] == 0) s.points[at(kept)] = s.points[i], number[i] = kept++;
  s.points.resize(static_cast<std::size_t>(kept));
  for (auto& t : s.triangles)
    for (int& c : t) c = number[at(c)];
}

void append(Surface& s, const Surface& other) {
  std::vector<int> part(other.part_names.size());
  for (std::size_t i = 0; i < part.size(); ++i) {
    part[i] = s.find_part(other.part_names[i]);
    if (part[i] < 0) {
      part[i] = static_cast<int>(s.part_names.size());
      s.part_names.push_back(other.part_names[i]);
    }
  }
  const int first = static_cast<int>(s.points.size());
  s.points.insert(s.points.end(), other.points.begin(), other.points.end());
  for (std::size_t t = 0; t < other.size(); ++t) {
    const auto& c = other.triangles[t];
    s.triangles.push_back({c[0] + first, c[1] + first, c[2] + first});
    s.part_of.push_back(part[at(other.part_of[t])]);
  }
}

Surface select_parts(const Surface& s, const std::vector<bool>& keep) {
  Surface out;
  out.points = s.points;
  std::vector<int> part(keep.size(), -1);
  for (std::size_t i = 0; i < keep.size(); ++i)
    if (keep[i]) {
      part[i] = static_cast<int>(out.part_names.size());
      out.part_names.push_back(s.part_names[i]);
    }
  for (std::size_t t = 0; t < s.size(); ++t)
    if (const int p = part[at(s.part_of[t])]; p >= 0) {
      out.triangles.push_back(s.triangles[t]);
      out.part_of.push_back(p);
    }
  return out;
}

void scale(Surface& s, double factor) {
  for (Vec3& p : s.points) p *= factor;
}

void translate(Surface& s, const Vec3& by) {
  for (Vec3& p : s.points) p += by;
}

void rotate(Surface& s, const Vec3& centre, const Vec3& axis, double angle) {
  const Vec3 a = unit(axis);
  const double c = std::cos(angle), sn = std::sin(angle);
  for (Vec3& p : s.points) {
    const Vec3 r = p - centre;
    p = centre + r * c + cross(a, r) * sn + a * (dot(a, r) * (1 - c));
  }
}

Pieces connected_pieces(const Surface& s, const std::vector<char>& left_out) {
  std::vector<int> parent(s.points.size());
  std::iota(parent.begin(), parent.end(), 0);
  const auto joins = [&](std::size_t t) { return left_out.empty() || !left_out[t]; };
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (!joins(t)) continue;
    const auto& c = s.triangles[t];
    const int a = find_root(parent, c[0]);
    parent[at(find_root(parent, c[1]))] = a;
    parent[at(find_root(parent, c[2]))] = a;
  }
  Pieces pieces;
  pieces.of_triangle.assign(s.size(), -1);
  std::vector<int> number(s.points.size(), -1);
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (!joins(t)) continue;
    int& n = number[at(find_root(parent, s.triangles[t][0]))];
    if (n < 0) n = pieces.count++;
    pieces.of_triangle[t] = n;
  }
  return pieces;
}

EdgeCount count_edges(const Surface& s, const Pieces& pieces) {
  EdgeCount count;
  count.piece_open.assign(static_cast<std::size_t>(pieces.count), 0);
  EdgeTable(s).for_each([&](int, int, std::span<const EdgeTable::Use> uses) {
    if (uses.size() == 1)
      ++count.open, count.piece_open[at(pieces.of_triangle[at(uses[0].triangle())])] = 1;
    if (uses.size() > 2) ++count.non_manifold;
  });
  return count;
}

}  // namespace dunefield
