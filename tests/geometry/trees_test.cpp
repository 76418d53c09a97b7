// Trees, loops and polygons against plain counting.
#include <gtest/gtest.h>

#include <random>
#include <set>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/files/aerofoil.hpp>
#include <dunefield/geometry/health/self_crossings.hpp>
#include <dunefield/geometry/loops.hpp>
#include <dunefield/geometry/query/box_tree.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/geometry/shapes/polygon.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/surfaces.hpp>

namespace dunefield {
namespace {

class Random {
 public:
  double operator()(double lo, double hi) {
    return std::uniform_real_distribution<double>(lo, hi)(engine_);
  }
  Vec3 place(double size) {
    return {(*this)(-size, size), (*this)(-size, size), (*this)(-size, size)};
  }

 private:
  std::mt19937 engine_{11};
};

Surface random_triangles(int n) {
  Random random;
  Surface s;
  s.part_names = {"crumbs"};
  for (int i = 0; i < n; ++i) {
    const Vec3 p = random.place(1);
    for (int k = 0; k < 3; ++k) s.points.push_back(p + random.place(0.1));
    s.triangles.push_back({3 * i, 3 * i + 1, 3 * i + 2});
    s.part_of.push_back(0);
  }
  return s;
}

TEST(NearestTree, FindsWhatTryingAllFinds) {
  for (const int n : {1, 7, 8, 9, 64, 65, 700}) {
    const Surface s = random_triangles(n);
    const NearestTree tree(s);
    Random random;
    for (int i = 0; i < 200; ++i) {
      const Vec3 p = random.place(1.5);
      double best = 1e300;
      for (std::size_t t = 0; t < s.size(); ++t)
        best = std::min(
            best, norm(nearest_on_triangle(p, s.corner(t, 0), s.corner(t, 1), s.corner(t, 2)) - p));
      const auto found = tree.nearest(p, 1e3);
      ASSERT_GE(found.triangle, 0);
      EXPECT_NEAR(found.distance, best, 1e-12);
      EXPECT_LT(tree.nearest(p, 0.99 * best).triangle, 0) << "nothing lies within a shorter reach";
      for (const double reach : {0.5, 1 - 1e-9, 1 + 1e-9, 1.5, 100.0})
        EXPECT_EQ(tree.within(p, reach * best), reach > 1) << reach << " of the distance";
    }
  }
}

TEST(NearestTree, OfNothingFindsNothingAndNeedlesDoNoHarm) {
  EXPECT_LT(NearestTree(Surface{}).nearest({}, 1).triangle, 0);
  Surface needle;
  needle.part_names = {"needle"};
  needle.points = {{0, 0, 0}, {1, 0, 0}};
  needle.triangles = {{0, 1, 1}};
  needle.part_of = {0};
  EXPECT_NEAR(NearestTree(needle).nearest({0.5, 2, 0}, 10).distance, 2, 1e-12);
}

TEST(NearestTree, NeedlesOfAnyDirectionAreSegments) {
  Random random;
  for (int i = 0; i < 500; ++i) {
    const Vec3 a = random.place(3), b = a + random.place(1), middle = 0.3 * a + 0.7 * b;
    const Vec3 across = cross(b - a, Vec3{0.3, 0.5, 0.8});
    for (const auto& [p, q, r] :
         {std::array{a, b, b}, std::array{a, a, b}, std::array{b, a, b}, std::array{a, middle, b}})
      EXPECT_NEAR(norm(nearest_on_triangle(middle + across, p, q, r) - middle), 0, 1e-7) << i;
  }
}

TEST(BoxTree, FindsAllPairsThatTouch) {
  Random random;
  std::vector<SmallBox> boxes;
  for (int i = 0; i < 300; ++i) {
    Box b;
    const Vec3 p = random.place(1);
    b.include(p), b.include(p + random.place(0.15));
    boxes.emplace_back(b);
  }
  const BoxTree tree(boxes);
  std::set<std::pair<int, int>> expected, found;
  for (int i = 0; i < 300; ++i)
    for (int j = i + 1; j < 300; ++j)
      if (boxes[at(i)].touches(boxes[at(j)])) expected.insert({i, j});
  tree.touching_pairs(boxes, [&](int i, int j) { found.insert({i, j}); });
  EXPECT_FALSE(expected.empty());
  EXPECT_EQ(found, expected);
}

TEST(SelfCrossings, AreFoundBetweenAndWithinPieces) {
  Surface s = rounded_box("a", Box{{0, 0, 0}, {1, 1, 1}}, 0);
  EXPECT_EQ(find_self_crossings(s, connected_pieces(s)).count, 0u);
  append(s, rounded_box("b", Box{{0.5, 0.3, 0.3}, {1.5, 0.7, 0.7}}, 0));
  const Crossings two = find_self_crossings(s, connected_pieces(s));
  EXPECT_GT(two.count, 0u);
  EXPECT_EQ(two.within_piece, 0u);
  for (const Vec3& p : two.places)
    EXPECT_NEAR(p.x, 1, 1e-9) << "the small box passes through the large one's side";
}

TEST(Loops, OfTwoHolesComeLongestFirstAndClosed) {
  Surface s = rounded_box("box", Box{{0, 0, 0}, {1, 1, 1}}, 0.2);
  EXPECT_TRUE(open_loops(s).empty());
  s.triangles.erase(s.triangles.begin() + 50), s.part_of.pop_back();
  s.triangles.erase(s.triangles.begin() + 300), s.part_of.pop_back();
  const auto loops = open_loops(s);
  ASSERT_EQ(loops.size(), 2u);
  EXPECT_GE(loops[0].length, loops[1].length);
  for (const EdgeLoop& loop : loops) EXPECT_TRUE(loop.closed);
}

TEST(Polygon, OfAnyShapeIsCutIntoItsOwnArea) {
  // A comb: five teeth, none of them convex with its neighbour.
  std::vector<Vec3> points;
  std::vector<int> ring;
  for (int i = 0; i < 5; ++i)
    points.insert(points.end(),
                  {{2.0 * i, 1, 0}, {2.0 * i, 5, 0}, {2.0 * i + 1, 5, 0}, {2.0 * i + 1, 1, 0}});
  points.insert(points.end(), {{9, 0, 0}, {0, 0, 0}});
  for (std::size_t i = 0; i < points.size(); ++i)
    ring.push_back(static_cast<int>(points.size() - 1 - i));
  const Vec3 whole = area_vector(points, ring);
  EXPECT_NEAR(norm(whole), 5 * 4 + 9, 1e-12);
  Vec3 sum;
  double total = 0;
  for (const auto& t : triangulate(points, ring)) {
    const Vec3 a = area_vector(points, {t[0], t[1], t[2]});
    sum += a, total += norm(a);
  }
  EXPECT_LT(norm(sum - whole), 1e-12);
  EXPECT_NEAR(total, norm(whole), 1e-12) << "no triangle is turned over";
}

TEST(Sampling, SpreadsPointsByArea) {
  Surface s = rounded_box("small", Box{{0, 0, 0}, {1, 1, 1}}, 0);
  append(s, rounded_box("large", Box{{5, 0, 0}, {8, 3, 3}}, 0));
  std::size_t large = 0;
  const auto samples = sample_surface(s, 5000);
  for (const auto& p : samples) large += s.part_of[at(p.triangle)] == 1;
  EXPECT_NEAR(static_cast<double>(large) / static_cast<double>(samples.size()), 0.9, 0.002);
}

TEST(Sampling, PointsWhereALatticePiercesDoNotDependOnHowFacesAreCut) {
  const Surface s = rounded_box("box", Box{{0, 0, 0}, {1, 0.8, 0.6}}, 0.1);
  const auto places = [](const Surface& of) {
    std::vector<Vec3> p;
    for (const SurfaceSample& sample : pierced_surface(of, 0.02)) p.push_back(sample.point);
    const auto key = [](const Vec3& a) {  // rounding must not decide the order
      return a.x + 7.1 * a.y + 31.7 * a.z;
    };
    std::sort(p.begin(), p.end(), [&](const Vec3& a, const Vec3& b) { return key(a) < key(b); });
    return p;
  };
  const auto whole = places(s), cut = places(test::quartered(s));
  ASSERT_EQ(whole.size(), cut.size());
  EXPECT_GT(static_cast<double>(whole.size()), 0.58 * total_area(s) / (0.02 * 0.02));
  EXPECT_LT(static_cast<double>(whole.size()), total_area(s) / (0.02 * 0.02));
  double farthest = 0;
  for (std::size_t i = 0; i < whole.size(); ++i)
    farthest = std::max(farthest, norm(whole[i] - cut[i]));
  EXPECT_LT(farthest, 1e-9);
}

TEST(Aerofoil, FourDigitsGiveThicknessAndCamber) {
  const Aerofoil a = four_digit_section("2412");
  double top = -1, bottom = 1;
  for (const auto& p : a.points) top = std::max(top, p[1]), bottom = std::min(bottom, p[1]);
  EXPECT_NEAR(top - bottom, 0.12, 0.003);
  EXPECT_GT(top + bottom, 0.03) << "twice the camber, nearly";
  for (const char* bad : {"241", "24123", "ab12", "2400", "2012"})
    EXPECT_THROW(four_digit_section(bad), InputError) << bad;
}

}  // namespace
}  // namespace dunefield
