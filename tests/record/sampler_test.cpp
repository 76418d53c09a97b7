// Values between the cells.
#include <gtest/gtest.h>

#include <dunefield/record/sampler.hpp>
#include <tests/run/small_run.hpp>

namespace dunefield::test {
namespace {

TEST(Sampler, IsExactForLinearFieldsAtPointsAndOverPlanes) {
  const VolumeMesh& m = *small_record().mesh;
  const Sampler sampler(m);
  const Vec3 slope{0.7, -0.4, 1.1};
  std::vector<double> q;
  for (const Vec3& x : m.cell_centre) q.push_back(2 + dot(slope, x));
  for (const Vec3& x : {Vec3{-1, 0.3, 0.4}, Vec3{0.62, 0.21, 0.11}, Vec3{1.1, 0.5, 0.9}}) {
    const auto cell = sampler.cell_at(x);
    ASSERT_TRUE(cell.has_value());
    EXPECT_NEAR(sampler.value_at(*cell, q, x), 2 + dot(slope, x), 1e-5);
  }
  EXPECT_FALSE(sampler.cell_at({0, 0.01, 0.2}).has_value()) << "within the vehicle";
  EXPECT_FALSE(sampler.cell_at({0, 0.1, 90}).has_value()) << "above the tunnel";
  double area = 0, integral = 0;
  Vec3 middle;
  sampler.for_pieces({{-1.2, 0, 0.5}, {1, 0, 0}}, 0.8, 0.6, [&](const Sampler::Piece& p) {
    area += p.area, middle += p.middle * p.area;
    integral += p.area * sampler.value_in(p.cell, q, p.middle);
  });
  EXPECT_NEAR(area, 0.4 * 0.6, 1e-9) << "the half that is meshed";
  EXPECT_NEAR(integral / area, 2 + dot(slope, middle / area), 1e-5);
}

}  // namespace
}  // namespace dunefield::test
