// The plan of the layers: how thick, how many, which way, and how the core makes room.
#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/layers/layer_plan.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

constexpr double leaf = 0.05;

MeshResult bare(const Surface& s) {
  MeshOptions o;
  o.surface_size = leaf, o.largest_size = 0.4;
  return build_mesh(s, Box{{-2, -2, 0}, {2, 2, 2.4}}, o);
}

LayerOptions three() {
  LayerOptions o;
  o.count = 3, o.growth = 1.5, o.total_leaves = 0.5;
  return o;
}

TEST(LayerPlan, HeightsGrowByTheRatioUpToTheTotal) {
  const LayerOptions o = three();
  EXPECT_DOUBLE_EQ(o.sum(3), 1 + 1.5 + 2.25);
  EXPECT_NEAR(o.first_at(leaf) * o.sum(3), 0.5 * leaf, 1e-15);
  LayerOptions fixed = o;
  fixed.total_leaves = 0, fixed.first_height = 0.002;
  EXPECT_DOUBLE_EQ(fixed.first_at(leaf), 0.002) << "a height in metres is the same everywhere";
}

TEST(LayerPlan, OnASphereAllStandAlongTheRadius) {
  const Vec3 centre{0, 0, 1.2};
  const MeshResult m = bare(sphere("ball", centre, 0.5, 96));
  const LayerOptions o = three();
  const LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  ASSERT_FALSE(plan.wall_points().empty());
  for (const WallPoint& w : plan.wall_points()) {
    const Vec3 out = unit(m.mesh.points[at(w.point)] - centre);
    EXPECT_GT(dot(w.direction, out), 0.98);
    EXPECT_EQ(w.layers, 3);
    EXPECT_NEAR(plan.height(w, 1) / w.stretch, o.first_at(leaf), 1e-6 * leaf)
        << "the first height is what was asked for";
    EXPECT_GE(plan.height(w, 3) / w.stretch, 0.5 * leaf - 1e-9);
    EXPECT_NEAR(plan.height(w, 2) - plan.height(w, 1), w.growth * plan.height(w, 1), 1e-9);
    EXPECT_GE(w.growth, 1.5);
    EXPECT_LE(w.growth, 1.4 * 1.5 + 1e-6);
  }
}

TEST(LayerPlan, ANarrowGapLeavesLessRoom) {
  Surface pair = rounded_box("left", Box{{-0.6, -0.4, 0.6}, {-0.04, 0.4, 1.4}}, 0);
  append(pair, rounded_box("right", Box{{0.04, -0.4, 0.6}, {0.6, 0.4, 1.4}}, 0));
  const MeshResult m = bare(pair);
  LayerOptions o = three();
  o.total_leaves = 0.7;
  const LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  bool in_gap = false;
  for (const WallPoint& w : plan.wall_points()) {
    const Vec3& p = m.mesh.points[at(w.point)];
    if (std::abs(p.x) > 0.041 || std::abs(p.y) > 0.3 || std::abs(p.z - 1) > 0.3) continue;
    in_gap = true;
    EXPECT_LE(plan.height(w, w.layers), 0.4 * 0.08 + 1e-9)
        << "two sides share four fifths of the gap";
  }
  EXPECT_TRUE(in_gap);
}

/// Over the flat top of a block: the height of the first core points above it as they are and when
/// they have made room, the thickness of the layers and the height of the last.
struct OverTheTop {
  double before = 1e300, now = 1e300, thickness = 0, last = 0;
};

OverTheTop over_the_top(double top) {
  const MeshResult m = bare(rounded_box("block", Box{{-0.5, -0.5, 0.5}, {0.5, 0.5, top}}, 0));
  const LayerOptions o = three();
  const LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  const std::vector<Vec3> after = plan.core_points();
  OverTheTop found;
  for (std::size_t p = 0; p < after.size(); ++p) {
    const Vec3& q = m.mesh.points[p];
    if (std::abs(q.x) > 0.2 || std::abs(q.y) > 0.2 || q.z < top - 1e-6 || q.z > top + 2 * leaf)
      continue;
    if (const int slot = plan.wall_point_at(static_cast<int>(p)); slot >= 0) {
      const WallPoint& w = plan.wall_points()[at(slot)];
      found.thickness = plan.height(w, 3), found.last = plan.height(w, 3) - plan.height(w, 2);
    } else {
      found.before = std::min(found.before, q.z - top),
      found.now = std::min(found.now, after[p].z - top);
    }
  }
  return found;
}

TEST(LayerPlan, BeforeAHighCoreCellLayersGrowFaster) {
  const OverTheTop high = over_the_top(1.005), low = over_the_top(1.045);
  ASSERT_GT(high.before, 1.1 * leaf);
  ASSERT_LT(low.before, 0.8 * leaf);
  EXPECT_NEAR(low.thickness, 0.5 * leaf, 1e-9);
  EXPECT_GT(high.thickness, 1.2 * low.thickness);
  for (const OverTheTop& t : {high, low}) {
    EXPECT_GT(t.now - t.before, 0.6 * t.thickness) << "the core makes room";
    EXPECT_GT(t.last / (t.now - t.thickness), 0.3) << "no big step from the last layer to the core";
  }
}

TEST(LayerPlan, BetweenWallAndRoadTheCoreGivesWayInProportion) {
  // Between the floor of a block and the road: a point half-way moves by about half as much as the
  // tops of the layers.
  const MeshResult m = bare(rounded_box("block", Box{{-0.5, -0.5, 0.16}, {0.5, 0.5, 0.6}}, 0));
  const LayerOptions o = three();
  const LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  const std::vector<Vec3> after = plan.core_points();
  int looked = 0;
  for (std::size_t p = 0; p < after.size(); ++p) {
    const Vec3& q = m.mesh.points[p];
    if (std::abs(q.x) > 0.2 || std::abs(q.y) > 0.2 || std::abs(q.z - 0.08) > 0.03) continue;
    EXPECT_NEAR((q.z - after[p].z) / (0.5 * leaf), q.z / 0.16, 0.25);
    ++looked;
  }
  EXPECT_GT(looked, 10);
}

TEST(LayerPlan, WhatIsGivenUpStaysWhereItWas) {
  const MeshResult m = bare(sphere("ball", {0, 0, 1.2}, 0.5, 96));
  const LayerOptions o = three();
  LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  const int point = plan.wall_points()[10].point;
  EXPECT_TRUE(plan.shrink({point}, 0));
  plan.smooth();
  EXPECT_EQ(plan.wall_points()[10].layers, 0);
  EXPECT_TRUE(plan.core_points()[at(point)] == m.mesh.points[at(point)]);
  const int slot = plan.wall_point_at(point);
  EXPECT_EQ(slot, 10);
  // Beside it fewer stand, and no first one that ends is thin.
  for (const int f : plan.faces()) {
    int fewest = 99;
    const auto visit = [&](const auto& act) {
      for (int k = m.mesh.face_start[at(f)]; k < m.mesh.face_start[at(f) + 1]; ++k)
        act(plan.wall_points()[at(plan.wall_point_at(m.mesh.face_points[at(k)]))]);
    };
    visit([&](const WallPoint& w) { fewest = std::min(fewest, w.layers); });
    if (fewest == 0)
      visit([&](const WallPoint& w) {
        if (w.layers > 0) {
          EXPECT_GT(plan.height(w, 1), 0.1 * leaf);
        }
      });
  }
}

TEST(LayerPlan, ManyThinLayersStandOnASphereAndEndWithoutThinOnes) {
  const MeshResult m = bare(sphere("ball", {0, 0, 1.2}, 0.5, 96));
  LayerOptions o = three();
  o.count = 10, o.growth = 1.25, o.total_leaves = 0.6;
  LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  for (const WallPoint& w : plan.wall_points()) EXPECT_EQ(w.layers, 10);
  plan.shrink({plan.wall_points()[10].point}, 0);
  plan.smooth();
  int all = 0;
  for (const WallPoint& w : plan.wall_points()) {
    all += w.layers == 10;
    if (w.layers > 0 && w.layers < 10) {
      EXPECT_GT(plan.height(w, w.layers) - plan.height(w, w.layers - 1), 0.04 * leaf)
          << "the last is high enough for the core";
    }
  }
  EXPECT_GT(all, 0.9 * static_cast<double>(plan.wall_points().size()))
      << "what is given up at one place is not given up far around";
}

TEST(LayerPlan, ColumnsInTheCornerOfADentEndBeforeTheyMeet) {
  // A step: its inner corner runs along y, and columns there lean towards those beside it.
  Surface step = rounded_box("low", Box{{-0.8, -0.5, 0.5}, {0.8, 0.5, 1.0}}, 0);
  append(step, rounded_box("high", Box{{0, -0.5, 0.5}, {0.8, 0.5, 1.6}}, 0));
  const MeshResult m = bare(step);
  LayerOptions o = three();
  o.total_leaves = 0.7;
  const LayerPlan plan(m.mesh, std::vector<double>(m.mesh.points.size(), leaf), o);
  const std::vector<Vec3> after = plan.core_points();
  for (const int f : plan.faces()) {
    const int first = m.mesh.face_start[at(f)], n = m.mesh.face_start[at(f) + 1] - first;
    for (int k = 0; k < n; ++k) {
      const auto a = static_cast<std::size_t>(m.mesh.face_points[at(first + k)]),
                 b = static_cast<std::size_t>(m.mesh.face_points[at(first + (k + 1) % n)]);
      const Vec3 way = m.mesh.points[b] - m.mesh.points[a];
      if (norm(way) > 0.3 * leaf) {
        EXPECT_GT(dot(after[b] - after[a], way), 0.2 * dot(way, way));
      }
    }
  }
}

}  // namespace
}  // namespace dunefield
