#include <dunefield/geometry/query/shells.hpp>

#include <array>
#include <numeric>
#include <random>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/slivers.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// Sets of triangles with a sense: each knows whether it must be turned to agree with its root.
class SensedSets {
 public:
  explicit SensedSets(std::size_t n) : parent_(n) {
    std::iota(parent_.begin(), parent_.end(), 0);
    turned_.assign(n, 0);
  }
  struct Root {
    int set;
    char turned;
  };
  Root find(int i) {
    int root = i;
    char turned = 0;
    while (parent_[at(root)] != root) turned ^= turned_[at(root)], root = parent_[at(root)];
    for (char t = turned; parent_[at(i)] != root && i != root;) {  // shorten the way
      const int next = parent_[at(i)];
      const char own = turned_[at(i)];
      parent_[at(i)] = root, turned_[at(i)] = t;
      t ^= own, i = next;
    }
    return {root, turned};
  }
  void join(int a, int b, bool opposed) {
    const Root ra = find(a), rb = find(b);
    if (ra.set == rb.set) return;  // a one-sided band keeps its tear
    parent_[at(rb.set)] = ra.set;
    turned_[at(rb.set)] = static_cast<char>(ra.turned ^ rb.turned ^ static_cast<char>(opposed));
  }

 private:
  std::vector<int> parent_;
  std::vector<char> turned_;
};

int third_point(const Surface& s, int triangle, int a, int b) {
  for (const int p : s.triangles[at(triangle)])
    if (p != a && p != b) return p;
  return a;
}

/// Uses of an edge by triangles that are not left out.
int kept_uses(std::span<const EdgeTable::Use> uses, const std::vector<char>& left_out,
              const EdgeTable::Use* (&two)[2]) {
  int n = 0;
  for (const auto& u : uses)
    if (!left_out[at(u.triangle())]) {
      if (n < 2) two[n] = &u;
      ++n;
    }
  return n;
}

/// Slivers back to back, as cutting facets makes them, bound nothing: both are left out, where no
/// open edge comes of that. What is wider may be a sheet, of which one side stays.
/// @param against per triangle: the one back to back with it, or -1
void drop_flaps(const EdgeTable& edges, std::vector<int>& against, Shells& out) {
  for (std::size_t t = 0; t < against.size(); ++t)
    if (against[t] >= 0) out.doubled[t] = 1;
  for (bool restored = true; restored;) {
    restored = false;
    edges.for_each([&](int, int, std::span<const EdgeTable::Use> uses) {
      const EdgeTable::Use* two[2];
      if (kept_uses(uses, out.doubled, two) != 1) return;
      for (const auto& u : uses)
        if (const int t = u.triangle(), other = against[at(t)]; other >= 0) {
          out.doubled[at(std::min(t, other))] = 0;
          against[at(t)] = against[at(other)] = -1;
          restored = true;
        }
    });
  }
}

void find_doubled(const Surface& s, const EdgeTable& edges, Shells& out) {
  constexpr double flap_shape = 1e-4;  // height over longest side: no strip of a sheet is so thin
  out.doubled.assign(s.size(), 0);
  std::vector<int> against(s.size(), -1);
  bool any_flap = false;
  edges.for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    for (std::size_t i = 1; i < uses.size(); ++i)
      for (std::size_t j = 0; j < i; ++j) {
        const int t = uses[i].triangle(), earlier = uses[j].triangle();
        if (earlier == t || out.doubled[at(earlier)] ||
            third_point(s, t, low, high) != third_point(s, earlier, low, high))
          continue;
        if (!out.doubled[at(t)] && against[at(earlier)] < 0 &&
            uses[i].backward() != uses[j].backward() && is_sliver(s, at(t), flap_shape))
          against[at(t)] = earlier, against[at(earlier)] = t, any_flap = true;
        out.doubled[at(t)] = 1;
        break;
      }
  });
  if (any_flap) drop_flaps(edges, against, out);
  out.doubled_count =
      static_cast<std::size_t>(std::count(out.doubled.begin(), out.doubled.end(), 1));
}

/// How often rays from the two sides of a piece get away from the surface.
struct Visibility {
  double front = 0, back = 0, rays = 0;
  bool has_edge = false;  ///< an edge with this piece alone on it
};

/// A direction over the hemisphere around `n`, by the cosine law.
Vec3 scattered(const Vec3& n, std::mt19937& random) {
  std::uniform_real_distribution<double> uniform(-1, 1);
  for (;;) {
    const Vec3 v{uniform(random), uniform(random), uniform(random)};
    const double l = norm2(v);
    if (l > 1 || l < 1e-4) continue;
    const Vec3 d = n + v / std::sqrt(l) * 0.999;
    return unit(d);
  }
}

std::vector<Visibility> look_at_pieces(const Surface& s, const RayScene& rays,
                                       const std::vector<std::vector<int>>& members,
                                       const std::vector<char>& turned) {
  const Box box = bounds(s);
  const double far = 2 * norm(box.size()) + 1e-30, off = 1e-6 * far;
  std::vector<Visibility> seen(members.size());
  // A work unit is a piece; its rays grow with its share of the triangles.
  parallel_for(
      members.size(),
      [&](std::size_t i) {
        const auto& own = members[i];
        std::vector<double> area(own.size());
        double total = 0;
        for (std::size_t k = 0; k < own.size(); ++k)
          area[k] = total += norm(s.area_vector(at(own[k])));
        if (!(total > 0)) return;
        std::mt19937 random(static_cast<unsigned>(own[0]) + 1u);
        std::uniform_real_distribution<double> uniform(0, 1);
        const int count = own.size() > 1000 ? 512 : own.size() > 20 ? 128 : 32;
        for (int r = 0; r < count; ++r) {
          const auto k = std::min<std::size_t>(
              static_cast<std::size_t>(
                  std::lower_bound(area.begin(), area.end(), uniform(random) * total) -
                  area.begin()),
              own.size() - 1);
          const int t = own[k];
          double u = uniform(random), v = uniform(random);
          if (u + v > 1) u = 1 - u, v = 1 - v;
          const Vec3 a = s.corner(at(t), 0);
          const Vec3 p = a + (s.corner(at(t), 1) - a) * u + (s.corner(at(t), 2) - a) * v;
          const Vec3 n = unit(s.area_vector(at(t))) * (turned[at(t)] ? -1.0 : 1.0);
          const Vec3 d = scattered(n, random);
          seen[i].front += !rays.blocked(p + n * off, p + n * off + d * far);
          const Vec3 e = d - n * (2 * dot(d, n));
          seen[i].back += !rays.blocked(p - n * off, p - n * off + e * far);
          seen[i].rays += 1;
        }
      },
      1);
  return seen;
}

/// Pieces joined by points; sheets and doubled facets left out.
void collect_shells(const Surface& s, const EdgeTable& edges, Shells& out) {
  std::vector<char> left_out(s.size());
  for (std::size_t t = 0; t < s.size(); ++t) left_out[t] = out.doubled[t] || out.sheet[t];
  const Pieces pieces = connected_pieces(s, left_out);
  std::vector<Shell> shells(at(pieces.count));
  for (std::size_t t = 0; t < s.size(); ++t)
    if (!left_out[t]) shells[at(pieces.of_triangle[t])].triangles.push_back(static_cast<int>(t));
  for (Shell& shell : shells) shell.closed = true;
  edges.for_each([&](int, int, std::span<const EdgeTable::Use> uses) {
    // The uses of an edge belong to one piece: they share its points.
    int sum = 0, piece = -1;
    for (const auto& u : uses)
      if (!left_out[at(u.triangle())])
        sum += u.backward() != static_cast<bool>(out.turned[at(u.triangle())]) ? -1 : 1,
            piece = pieces.of_triangle[at(u.triangle())];
    if (sum != 0) shells[at(piece)].closed = false;
  });
  out.shells = std::move(shells);
}

}  // namespace

Shells find_shells(const Surface& s, const RayScene& rays, const std::vector<char>& sheet_parts) {
  return find_shells(s, rays, EdgeTable(s), sheet_parts);
}

Shells find_shells(const Surface& s, const RayScene& rays, const EdgeTable& edges,
                   const std::vector<char>& sheet_parts) {
  Shells out;
  find_doubled(s, edges, out);
  SensedSets sets(s.size());
  edges.for_each([&](int, int, std::span<const EdgeTable::Use> uses) {
    const EdgeTable::Use* two[2];
    if (kept_uses(uses, out.doubled, two) == 2)
      sets.join(two[0]->triangle(), two[1]->triangle(), two[0]->backward() == two[1]->backward());
  });
  out.turned.assign(s.size(), 0);
  out.piece.assign(s.size(), -1);
  out.sheet.assign(s.size(), 0);
  std::vector<std::vector<int>> members;
  {
    std::vector<int> number(s.size(), -1);
    for (std::size_t t = 0; t < s.size(); ++t) {
      if (out.doubled[t]) continue;
      const auto root = sets.find(static_cast<int>(t));
      int& n = number[at(root.set)];
      if (n < 0) n = static_cast<int>(members.size()), members.emplace_back();
      out.piece[t] = n;
      out.turned[t] = root.turned;
      members[at(n)].push_back(static_cast<int>(t));
    }
  }
  // Most facets of a piece are taken to be right as they are.
  for (const auto& own : members) {
    std::size_t turned = 0;
    for (const int t : own) turned += static_cast<std::size_t>(out.turned[at(t)]);
    if (2 * turned > own.size())
      for (const int t : own) out.turned[at(t)] ^= 1;
  }
  std::vector<Visibility> seen = look_at_pieces(s, rays, members, out.turned);
  edges.for_each([&](int, int, std::span<const EdgeTable::Use> uses) {
    const EdgeTable::Use* two[2];
    if (kept_uses(uses, out.doubled, two) == 1)
      seen[at(out.piece[at(two[0]->triangle())])].has_edge = true;
  });
  // A sheet is seen from its one side at least half as often as from the other; a flat one may lie
  // above something that hides its other side. What is nearly closed by itself is no flat one: the
  // sum of its area vectors is the area of its opening.
  constexpr double two_sided = 0.5, two_sided_flat = 0.2, flat = 0.6;
  constexpr double least_seen = 0.02;  // of the rays, to decide anything
  for (std::size_t i = 0; i < members.size(); ++i) {
    const Visibility& v = seen[i];
    const bool named = !sheet_parts.empty() && sheet_parts[at(s.part_of[at(members[i][0])])];
    const double most = std::max(v.front, v.back);
    Vec3 sum;
    double area = 0;
    for (const int t : members[i]) {
      const Vec3 own = s.area_vector(at(t));
      sum += out.turned[at(t)] ? -own : own, area += norm(own);
    }
    const double seen_share = norm(sum) > flat * area ? two_sided_flat : two_sided;
    const bool sheet = named || (v.has_edge && most > least_seen * v.rays &&
                                 std::min(v.front, v.back) > seen_share * most);
    const bool turn = v.back > v.front && most > least_seen * v.rays;
    for (const int t : members[i]) {
      out.sheet[at(t)] = sheet;
      if (turn) out.turned[at(t)] ^= 1;
    }
  }
  for (std::size_t t = 0; t < s.size(); ++t)
    out.turned_count += static_cast<std::size_t>(out.turned[t]),
        out.sheet_count += static_cast<std::size_t>(out.sheet[t]);
  collect_shells(s, edges, out);
  return out;
}

}  // namespace dunefield
