#include <dunefield/geometry/loops.hpp>

#include <dunefield/geometry/edges.hpp>

namespace dunefield {
namespace {

constexpr std::size_t at(int i) { return static_cast<std::size_t>(i); }

struct RimEdge {
  int from, to;
  bool taken = false;
};

std::vector<RimEdge> rim_edges(const Surface& s, const std::vector<char>& left_out, const std::vector<char>& turned) {
  std::vector<RimEdge> rim;
  EdgeTable(s).for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    const EdgeTable::Use* only = nullptr;
    int n = 0;
    for (const auto& u : uses)
      if (left_out.empty() || !left_out[at(u.triangle())]) only = &u, ++n;
    if (n == 1) rim.push_back(only->backward() != (!turned.empty() && turned[at(only->triangle())]) ? RimEdge{high, low} : RimEdge{low, high});
  });
  return rim;
}

}  // namespace

std::vector<EdgeLoop> open_loops(const Surface& s, const std::vector<char>& left_out, const std::vector<char>& turned) {
  std::vector<RimEdge> rim = rim_edges(s, left_out, turned);
  std::sort(rim.begin(), rim.end(), [](const RimEdge& a, const RimEdge& b) { return a.from != b.from ? a.from < b.from : a.to < b.to; });
  const auto next_from = [&](int point) -> RimEdge* {
    auto it = std::lower_bound(rim.begin(), rim.end(), point, [](const RimEdge& e, int p) { return e.from < p; });
    for (; it != rim.end() && it->from == point; ++it)
      if (!it->taken) return &*it;
    return nullptr;
  };
  // Chains must start where none leads in, or they would be cut in two.
  std::vector<int> balance_points;
  for (const RimEdge& e : rim) balance_points.push_back(e.to);
  std::sort(balance_points.begin(), balance_points.end());
  const auto leads_in = [&](int p) { return std::binary_search(balance_points.begin(), balance_points.end(), p); };
  std::vector<EdgeLoop> loops;
  const auto follow = [&](RimEdge& first) {
    EdgeLoop loop;
    for (RimEdge* e = &first; e; e = e->to == first.from ? nullptr : next_from(e->to)) {
      e->taken = true;
      loop.points.push_back(e->from);
      loop.length += norm(s.points[at(e->to)] - s.points[at(e->from)]);
      loop.closed = e->to == first.from;
      if (!loop.closed && !next_from(e->to)) loop.points.push_back(e->to);
    }
    Box box;
    for (const int p : loop.points) loop.centre += s.points[at(p)] / static_cast<double>(loop.points.size()), box.include(s.points[at(p)]);
    loop.size = norm(box.size());
    loops.push_back(std::move(loop));
  };
  for (RimEdge& e : rim)
    if (!e.taken && !leads_in(e.from)) follow(e);
  for (RimEdge& e : rim)
    if (!e.taken) follow(e);
  std::stable_sort(loops.begin(), loops.end(), [](const EdgeLoop& a, const EdgeLoop& b) { return a.length > b.length; });
  return loops;
}

}  // namespace dunefield
