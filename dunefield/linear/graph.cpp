#include <dunefield/linear/graph.hpp>

#include <algorithm>
#include <numeric>

namespace dunefield {

Graph make_graph(int own_cells, int all_cells, const std::vector<int>& below, const std::vector<int>& above, FaceSlots& slots) {
  struct Entry {
    int row, column, face;
    bool from_below;
  };
  std::vector<Entry> entries;
  for (std::size_t f = 0; f < above.size(); ++f) {
    if (below[f] < own_cells) entries.push_back({below[f], above[f], static_cast<int>(f), true});
    if (above[f] < own_cells) entries.push_back({above[f], below[f], static_cast<int>(f), false});
  }
  std::sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) {
    return a.row != b.row ? a.row < b.row : a.column != b.column ? a.column < b.column : a.face < b.face;
  });
  Graph g;
  g.rows = own_cells, g.columns = all_cells;
  g.start.assign(static_cast<std::size_t>(own_cells) + 1, 0);
  slots.of_below.assign(above.size(), -1);
  slots.of_above.assign(above.size(), -1);
  for (std::size_t i = 0; i < entries.size(); ++i) {
    const Entry& e = entries[i];
    // Two cells may share several faces: they add into one entry.
    const bool again = i > 0 && entries[i - 1].row == e.row && entries[i - 1].column == e.column;
    if (!again) g.column.push_back(e.column), ++g.start[static_cast<std::size_t>(e.row) + 1];
    (e.from_below ? slots.of_below : slots.of_above)[static_cast<std::size_t>(e.face)] = g.entries() - 1;
  }
  std::partial_sum(g.start.begin(), g.start.end(), g.start.begin());
  for (auto* s : {&slots.of_below, &slots.of_above})
    for (int& k : *s)
      if (k < 0) k = g.entries();
  return g;
}

}  // namespace dunefield
