// Symmetric matrices: sums of squares of directions, and their inverse.
#include <gtest/gtest.h>

#include <dunefield/base/vec.hpp>

namespace dunefield::test {
namespace {

TEST(SymmetricMat3, InverseUndoesTheProduct) {
  SymmetricMat3 m;
  m.add_square({1, 2, 3}, 0.5), m.add_square({-1, 0.5, 2}, 2), m.add_square({0.3, -1, 0.1}, 1);
  const SymmetricMat3 inverse = m.inverse();
  for (const Vec3& v : {Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}, Vec3{3, -2, 7}}) {
    EXPECT_LT(norm(inverse * (m * v) - v), 1e-12);
    EXPECT_LT(norm(m * (inverse * v) - v), 1e-12);
  }
}

TEST(SymmetricMat3, ASquareActsAlongItsDirectionAlone) {
  SymmetricMat3 m;
  m.add_square({0, 2, 0}, 3);
  EXPECT_LT(norm(m * Vec3{5, 1, 5} - Vec3{0, 12, 0}), 1e-14);
}

}  // namespace
}  // namespace dunefield::test
