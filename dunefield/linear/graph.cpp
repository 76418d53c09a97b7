#include <dunefield/linear/graph.hpp>

#include <algorithm>
#include <numeric>

#include <dunefield/base/index.hpp>

namespace dunefield {
Graph make_graph(int own_cells, int all_cells, const std::vector<int>& below,
                 const std::vector<int>& above, FaceSlots& slots) {
  struct Entry {
    int column, face;
  };
  Graph g;
  g.rows = own_cells, g.columns = all_cells;
  g.start.assign(at(own_cells) + 1, 0);
  for (const auto* cells : {&below, &above})
    for (const int c : *cells)
      if (c < own_cells) ++g.start[at(c) + 1];
  std::partial_sum(g.start.begin(), g.start.end(), g.start.begin());
  std::vector<Entry> entries(at(g.start.back()));
  std::vector<int> next(g.start.begin(), g.start.end() - 1);
  for (std::size_t f = 0; f < above.size(); ++f) {
    if (below[f] < own_cells) entries[at(next[at(below[f])]++)] = {above[f], static_cast<int>(f)};
    if (above[f] < own_cells) entries[at(next[at(above[f])]++)] = {below[f], static_cast<int>(f)};
  }
  g.column.resize(entries.size());
  slots.of_below.assign(above.size(), g.entries());
  slots.of_above.assign(above.size(), g.entries());
  for (int row = 0; row < own_cells; ++row) {
    const auto first = entries.begin() + g.start[at(row)],
               last = entries.begin() + g.start[at(row) + 1];
    std::sort(first, last, [](const Entry& a, const Entry& b) {
      return a.column != b.column ? a.column < b.column : a.face < b.face;
    });
    for (auto e = first; e != last; ++e) {
      const auto k = static_cast<int>(e - entries.begin());
      g.column[at(k)] = e->column;
      (below[at(e->face)] == row ? slots.of_below : slots.of_above)[at(e->face)] = k;
    }
  }
  return g;
}

}  // namespace dunefield
