#include <algorithm>

#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/base/vec.hpp>
#include <dunefield/linear/graph.hpp>

namespace dunefield {
namespace {

/// A chain of five cells; the second and third share two faces.
const std::vector<int> below = {0, 1, 1, 2, 3}, above = {1, 2, 2, 3, 4};

TEST(Graph, HasARowForEachOwnCellAndAnEntryForEachFace) {
  FaceSlots slots;
  const Graph g = make_graph(5, 5, below, above, slots);
  EXPECT_EQ(g.start, (std::vector<int>{0, 1, 4, 7, 9, 10}));
  EXPECT_EQ(g.column, (std::vector<int>{1, 0, 2, 2, 1, 1, 3, 2, 4, 3}));
  std::vector<int> all = slots.of_below;
  all.insert(all.end(), slots.of_above.begin(), slots.of_above.end());
  std::sort(all.begin(), all.end());
  for (int k = 0; k < g.entries(); ++k)
    EXPECT_EQ(all[at(k)], k)
        << "each face has its own entries, also the second between the same cells";
}

TEST(Graph, EntriesOfHaloRowsGoToTheSpareSlot) {
  FaceSlots slots;
  const Graph g = make_graph(4, 5, below, above, slots);
  EXPECT_EQ(g.rows, 4);
  EXPECT_EQ(slots.of_above[4], g.entries());
  EXPECT_EQ(g.column[at(slots.of_below[4])], 4);
}

TEST(GaussSeidel, SolvesADominantSystemOfVectors) {
  FaceSlots slots;
  const Graph g = make_graph(5, 5, below, above, slots);
  Matrix<double> m;
  m.resize(g);
  for (std::size_t f = 0; f < below.size(); ++f) {
    m.entry[at(slots.of_below[f])] -= 1;
    m.entry[at(slots.of_above[f])] -= 1;
    m.diagonal[at(below[f])] += 1.5;
    m.diagonal[at(above[f])] += 1.5;
  }
  SoloCommunicator solo;
  Halo halo(solo, {});
  const std::vector<Vec3> exact = {{1, 0, 2}, {2, 1, 0}, {-1, 3, 1}, {0, 0, 4}, {5, -2, 1}};
  std::vector<Vec3> rhs(5), x(5);
  for (std::size_t i = 0; i < 5; ++i) {
    rhs[i] = exact[i] * m.diagonal[i];
    for (int k = g.start[i]; k < g.start[i + 1]; ++k)
      rhs[i] += exact[at(g.column[at(k)])] * m.entry[at(k)];
  }
  gauss_seidel(g, m, rhs, x, 60, halo);
  for (std::size_t i = 0; i < 5; ++i) EXPECT_LT(norm(x[i] - exact[i]), 1e-9);
}

}  // namespace
}  // namespace dunefield
