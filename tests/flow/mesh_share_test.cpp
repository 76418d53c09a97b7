// How a mesh is cut into the shares of ranks.
#include <gtest/gtest.h>

#include <algorithm>
#include <map>

#include <dunefield/base/index.hpp>
#include <dunefield/flow/mesh_share.hpp>

namespace dunefield::test {
namespace {

class Partition : public testing::TestWithParam<int> {
 protected:
  Partition() {
    mesh_ = structured_mesh(6, 5, 7, [](const Vec3& a) { return Vec3{a.x * a.x, a.y, a.z}; });
    mesh_.derive();
    distance_.assign(at(mesh_.cells), 1.0);
    const MeshPartition partition(mesh_, distance_, GetParam());
    for (int r = 0; r < GetParam(); ++r) shares_.push_back(partition.share(r));
  }
  VolumeMesh mesh_;
  std::vector<double> distance_;
  std::vector<Share> shares_;
};

TEST_P(Partition, GivesEachCellToOneRankInOrder) {
  int next = 0;
  for (const Share& s : shares_) {
    EXPECT_EQ(s.first_global, next);
    EXPECT_GT(s.own, 0);
    for (int c = 0; c < s.own; ++c) EXPECT_EQ(s.volume[at(c)], mesh_.cell_volume[at(next + c)]);
    next += s.own;
  }
  EXPECT_EQ(next, mesh_.cells);
}

TEST_P(Partition, SharesTheWorkEvenly) {
  const auto [least, most] = std::minmax_element(
      shares_.begin(), shares_.end(),
      [](const Share& a, const Share& b) { return a.below.size() < b.below.size(); });
  EXPECT_LT(static_cast<double>(most->below.size()),
            1.5 * static_cast<double>(least->below.size()));
}

TEST_P(Partition, FacesBetweenRanksAreInBothShares) {
  std::size_t all = 0, between = 0;
  for (const Share& s : shares_) {
    all += s.below.size();
    for (std::size_t f = 0; f < s.below.size(); ++f) {
      EXPECT_TRUE(s.below[f] < s.own || s.above[f] < s.own) << "it touches a cell of the rank";
      between += s.below[f] >= s.own || s.above[f] >= s.own;
    }
  }
  EXPECT_EQ(all - between / 2, at(mesh_.interior_faces()));
  EXPECT_EQ(between % 2, 0u);
}

TEST_P(Partition, BoundaryFacesKeepTheirOrderAndTheirBoundary) {
  for (std::size_t b = 0; b < mesh_.boundaries.size(); ++b) {
    int count = 0;
    for (const Share& s : shares_) count += s.boundary_counts[b];
    EXPECT_EQ(count, mesh_.boundaries[b].count) << mesh_.boundaries[b].name;
  }
  for (const Share& s : shares_) {
    std::size_t i = 0;
    for (std::size_t b = 0; b < mesh_.boundaries.size(); ++b)
      for (int k = 0; k < s.boundary_counts[b]; ++k, ++i) {
        const auto& face = s.boundary_faces[i];
        const Boundary& boundary = mesh_.boundaries[b];
        EXPECT_GE(face.global, boundary.first);
        EXPECT_LT(face.global, boundary.first + boundary.count);
        EXPECT_EQ(face.cell + s.first_global, mesh_.cell_below[at(face.global)]);
      }
    EXPECT_EQ(i, s.boundary_faces.size());
  }
}

TEST_P(Partition, WhatARankSendsIsWhatItsNeighbourExpects) {
  // Global numbers sent from one rank to another, by the plan of the sender.
  std::map<std::pair<int, int>, std::vector<int>> sent;
  for (int r = 0; r < GetParam(); ++r) {
    const Share& s = shares_[at(r)];
    auto next = s.send_cells.begin();
    for (std::size_t n = 0; n < s.neighbour_ranks.size(); ++n)
      for (int k = 0; k < s.send_counts[n]; ++k)
        sent[{r, s.neighbour_ranks[n]}].push_back(*next++ + s.first_global);
    EXPECT_EQ(next, s.send_cells.end());
  }
  for (int r = 0; r < GetParam(); ++r) {
    const Share& s = shares_[at(r)];
    std::size_t halo = at(s.own);
    for (std::size_t n = 0; n < s.neighbour_ranks.size(); ++n) {
      const auto& cells = sent[{s.neighbour_ranks[n], r}];
      ASSERT_EQ(static_cast<int>(cells.size()), s.received[n]);
      for (const int c : cells) EXPECT_EQ(s.centre[halo++], mesh_.cell_centre[at(c)]);
    }
    EXPECT_EQ(halo, s.centre.size());
  }
}

INSTANTIATE_TEST_SUITE_P(Ranks, Partition, testing::Values(1, 2, 3, 8));

TEST(Partition, OfAsManyRanksAsCellsGivesEachOne) {
  VolumeMesh mesh = structured_mesh(2, 2, 1, [](const Vec3& a) { return a; });
  mesh.derive();
  const std::vector<double> distance(4, 1.0);
  const MeshPartition partition(mesh, distance, 4);
  for (int r = 0; r < 4; ++r) EXPECT_EQ(partition.share(r).own, 1);
}

}  // namespace
}  // namespace dunefield::test
