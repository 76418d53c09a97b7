#include <dunefield/geometry/loops.hpp>

#include <unordered_map>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/edges.hpp>

namespace dunefield {
namespace {

struct RimEdge {
  int from, to;
  bool taken = false;
};

std::vector<RimEdge> rim_edges(const Surface& s, const std::vector<char>& left_out,
                               const std::vector<char>& turned) {
  std::vector<RimEdge> rim;
  EdgeTable(s).for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    const EdgeTable::Use* only = nullptr;
    int n = 0;
    for (const auto& u : uses)
      if (left_out.empty() || !left_out[at(u.triangle())]) only = &u, ++n;
    if (n == 1)
      rim.push_back(only->backward() != (!turned.empty() && turned[at(only->triangle())])
                        ? RimEdge{high, low}
                        : RimEdge{low, high});
  });
  return rim;
}

}  // namespace

std::vector<EdgeLoop> open_loops(const Surface& s, const std::vector<char>& left_out,
                                 const std::vector<char>& turned) {
  std::vector<RimEdge> rim = rim_edges(s, left_out, turned);
  std::sort(rim.begin(), rim.end(), [](const RimEdge& a, const RimEdge& b) {
    return a.from != b.from ? a.from < b.from : a.to < b.to;
  });
  const auto next_from = [&](int point) -> RimEdge* {
    auto it = std::lower_bound(rim.begin(), rim.end(), point,
                               [](const RimEdge& e, int p) { return e.from < p; });
    for (; it != rim.end() && it->from == point; ++it)
      if (!it->taken) return &*it;
    return nullptr;
  };
  // Chains must start where none leads in, or they would be cut in two.
  std::vector<int> balance_points;
  for (const RimEdge& e : rim) balance_points.push_back(e.to);
  std::sort(balance_points.begin(), balance_points.end());
  const auto leads_in = [&](int p) {
    return std::binary_search(balance_points.begin(), balance_points.end(), p);
  };
  std::vector<EdgeLoop> loops;
  const auto keep = [&](std::vector<int> points, bool closed) {
    EdgeLoop loop;
    loop.closed = closed;
    Box box;
    for (std::size_t i = 0; i < points.size(); ++i) {
      const Vec3& p = s.points[at(points[i])];
      loop.centre += p / static_cast<double>(points.size()), box.include(p);
      if (closed || i + 1 < points.size())
        loop.length += norm(s.points[at(points[(i + 1) % points.size()])] - p);
    }
    loop.size = norm(box.size());
    loop.points = std::move(points);
    loops.push_back(std::move(loop));
  };
  const auto follow = [&](RimEdge& first) {
    std::vector<int> chain = {first.from};
    std::unordered_map<int, std::size_t> place = {{first.from, 0}};
    for (RimEdge* e = &first; e; e = next_from(e->to)) {
      e->taken = true;
      const auto [met, fresh] = place.try_emplace(e->to, chain.size());
      if (fresh) {
        chain.push_back(e->to);
        continue;
      }
      // Where two holes touch in a point each is a loop of its own.
      const std::size_t begin = met->second;
      keep({chain.begin() + static_cast<std::ptrdiff_t>(begin), chain.end()}, true);
      for (std::size_t i = begin + 1; i < chain.size(); ++i) place.erase(chain[i]);
      chain.resize(begin + 1);
      if (begin == 0) return;
    }
    if (chain.size() > 1) keep(std::move(chain), false);
  };
  for (RimEdge& e : rim)
    if (!e.taken && !leads_in(e.from)) follow(e);
  for (RimEdge& e : rim)
    if (!e.taken) follow(e);
  std::stable_sort(loops.begin(), loops.end(),
                   [](const EdgeLoop& a, const EdgeLoop& b) { return a.length > b.length; });
  return loops;
}

}  // namespace dunefield
