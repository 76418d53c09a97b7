#include <dunefield/geometry/surface.hpp>

#include <cstring>
#include <numeric>
#include <unordered_map>

namespace dunefield {
namespace {

struct PointHash {
  std::size_t operator()(const Vec3& p) const {
    std::size_t h = 0;
    for (int i = 0; i < 3; ++i) {
      std::size_t bits;
      const double v = p[i] + 0.0;  // turns -0 into +0
      std::memcpy(&bits, &v, sizeof bits);
      h = (h ^ bits) * 0x9E3779B97F4A7C15ull;
      h ^= h >> 29;
    }
    return h;
  }
};

int find_root(std::vector<int>& parent, int i) {
  while (parent[static_cast<std::size_t>(i)] != i) {
    int& p = parent[static_cast<std::size_t>(i)];
    p = parent[static_cast<std::size_t>(p)];
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
  Box box;
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; k < 3; ++k) box.include(s.corner(t, k));
  return box;
}

Box bounds(const Surface& s, int part) {
  Box box;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.part_of[t] == part)
      for (int k = 0; k < 3; ++k) box.include(s.corner(t, k));
  return box;
}

double total_area(const Surface& s) {
  double sum = 0;
  for (std::size_t t = 0; t < s.size(); ++t) sum += norm(s.area_vector(t));
  return sum;
}

double signed_volume(const Surface& s) {
  double sum = 0;
  for (std::size_t t = 0; t < s.size(); ++t) sum += dot(s.area_vector(t), s.centroid(t));
  return sum / 3.0;
}

std::size_t weld(Surface& s) {
  std::unordered_map<Vec3, int, PointHash> number;
  number.reserve(s.points.size());
  std::vector<int> new_number(s.points.size());
  std::vector<Vec3> points;
  for (std::size_t i = 0; i < s.points.size(); ++i) {
    const auto [it, fresh] = number.try_emplace(s.points[i], static_cast<int>(points.size()));
    if (fresh) points.push_back(s.points[i]);
    new_number[i] = it->second;
  }
  s.points = std::move(points);
  std::size_t kept = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    std::array<int, 3> c = s.triangles[t];
    for (int& i : c) i = new_number[static_cast<std::size_t>(i)];
    if (c[0] == c[1] || c[1] == c[2] || c[2] == c[0]) continue;
    s.triangles[kept] = c;
    s.part_of[kept++] = s.part_of[t];
  }
  const std::size_t dropped = s.size() - kept;
  s.triangles.resize(kept);
  s.part_of.resize(kept);
  return dropped;
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
    s.part_of.push_back(part[static_cast<std::size_t>(other.part_of[t])]);
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
    if (const int p = part[static_cast<std::size_t>(s.part_of[t])]; p >= 0) {
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

Pieces connected_pieces(const Surface& s) {
  std::vector<int> parent(s.points.size());
  std::iota(parent.begin(), parent.end(), 0);
  for (const auto& c : s.triangles) {
    const int a = find_root(parent, c[0]);
    parent[static_cast<std::size_t>(find_root(parent, c[1]))] = a;
    parent[static_cast<std::size_t>(find_root(parent, c[2]))] = a;
  }
  Pieces pieces;
  std::vector<int> number(s.points.size(), -1);
  for (const auto& c : s.triangles) {
    int& n = number[static_cast<std::size_t>(find_root(parent, c[0]))];
    if (n < 0) n = pieces.count++;
    pieces.of_triangle.push_back(n);
  }
  return pieces;
}

EdgeCount count_edges(const Surface& s, const Pieces& pieces) {
  struct Edge {
    int a, b, piece;
    bool operator<(const Edge& o) const { return a != o.a ? a < o.a : b < o.b; }
  };
  std::vector<Edge> edges;
  edges.reserve(3 * s.size());
  for (std::size_t t = 0; t < s.size(); ++t)
    for (std::size_t k = 0; k < 3; ++k) {
      const int a = s.triangles[t][k], b = s.triangles[t][(k + 1) % 3];
      edges.push_back({std::min(a, b), std::max(a, b), pieces.of_triangle[t]});
    }
  std::sort(edges.begin(), edges.end());
  EdgeCount count;
  count.piece_open.assign(static_cast<std::size_t>(pieces.count), 0);
  for (std::size_t i = 0; i < edges.size();) {
    std::size_t j = i;
    while (j < edges.size() && edges[j].a == edges[i].a && edges[j].b == edges[i].b) ++j;
    if (j - i == 1) ++count.open, count.piece_open[static_cast<std::size_t>(edges[i].piece)] = 1;
    if (j - i > 2) ++count.non_manifold;
    i = j;
  }
  return count;
}

}  // namespace dunefield
