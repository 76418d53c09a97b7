#include <gtest/gtest.h>

#include <algorithm>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/linear/aggregation.hpp>

namespace dunefield::test {
namespace {

/// A square of cells, each connected to its neighbours: `across` times as strongly from row to row
/// as along them.
struct Square {
  Graph graph;
  std::vector<float> entry;
  Square(int side, float across) {
    graph.rows = graph.columns = side * side;
    graph.start = {0};
    for (int j = 0; j < side; ++j)
      for (int i = 0; i < side; ++i) {
        const auto connect = [&](int ni, int nj, float strength) {
          if (ni < 0 || nj < 0 || ni >= side || nj >= side) return;
          graph.column.push_back(nj * side + ni);
          entry.push_back(-strength);
        };
        connect(i, j - 1, across), connect(i - 1, j, 1), connect(i + 1, j, 1);
        connect(i, j + 1, across);
        graph.start.push_back(static_cast<int>(graph.column.size()));
      }
  }
};

TEST(Aggregation, JoinsAboutFourRowsInTheOrderOfTheirFirst) {
  const Square square(30, 1);
  int count = 0;
  const std::vector<int> aggregate = aggregate_rows(square.graph, square.entry, count);
  EXPECT_NEAR(900.0 / count, 4, 0.7);
  int next = 0;
  for (const int a : aggregate) {
    ASSERT_LE(a, next);
    next = std::max(next, a + 1);
  }
  EXPECT_EQ(next, count);
}

TEST(Aggregation, FollowsTheStrongConnections) {
  const int side = 32;
  const Square square(side, 100);
  int count = 0;
  const std::vector<int> aggregate = aggregate_rows(square.graph, square.entry, count);
  int across = 0, along = 0;
  for (int j = 0; j + 1 < side; ++j)
    for (int i = 0; i + 1 < side; ++i) {
      const int own = aggregate[at(j * side + i)];
      across += own == aggregate[at((j + 1) * side + i)];
      along += own == aggregate[at(j * side + i + 1)];
    }
  EXPECT_EQ(along, 0);
  EXPECT_GT(across, side * side / 2);
}

TEST(Aggregation, EntriesBetweenAggregatesAddUp) {
  const Square square(20, 3);
  int count = 0;
  const std::vector<int> aggregate = aggregate_rows(square.graph, square.entry, count);
  std::vector<int> slot;
  const Graph coarse = coarsen(square.graph, aggregate, count, count, slot);
  std::vector<float> entry(at(coarse.entries()));
  add_entries(square.entry, slot, entry);
  float fine_sum = 0, coarse_sum = 0;
  for (int i = 0; i < square.graph.rows; ++i)
    for (int k = square.graph.start[at(i)]; k < square.graph.start[at(i) + 1]; ++k) {
      const int other = aggregate[at(square.graph.column[at(k)])];
      if (other == aggregate[at(i)]) {
        EXPECT_EQ(slot[at(k)], -1);
        continue;
      }
      fine_sum += square.entry[at(k)];
      EXPECT_EQ(coarse.column[at(slot[at(k)])], other);
    }
  for (const float v : entry) coarse_sum += v;
  EXPECT_EQ(fine_sum, coarse_sum);
}

}  // namespace
}  // namespace dunefield::test
