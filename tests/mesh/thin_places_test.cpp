// Thin things by chance: no hole, the whole area, rims in place, slots open.
#include <gtest/gtest.h>

#include <tests/support/thin_assemblies.hpp>

namespace dunefield {
namespace {

class ThinPlaces : public testing::TestWithParam<unsigned> {};

TEST_P(ThinPlaces, AreInTheMeshAsTheyAre) {
  const ThinAssembly a = thin_assembly(GetParam());
  MeshOptions o = thin_mesh_options();
  o.layers.count = 0;
  const MeshResult m = build_mesh(a.surface, thin_tunnel(), o);
  EXPECT_TRUE(m.quality.sound());
  const ThinMeasures t = measure_thin(a, m);
  EXPECT_EQ(t.through, 0) << a.what << ": air goes through, m2";
  EXPECT_LT(t.missing, 0.003 * t.area) << a.what;
  EXPECT_LT(t.too_much, 0.003 * t.area) << a.what;
  EXPECT_NEAR(t.area_ratio, 1, 0.02) << a.what;
  EXPECT_LT(t.glued, 0.5) << a.what << ": a gap is closed, in cells";
}

// A wing of several elements, a closed one with end plates, a skin, a slotted plate, a wing and
// louvres on a body, and so on: one of each kind, and both of most.
INSTANTIATE_TEST_SUITE_P(Seeds, ThinPlaces,
                         testing::Values(1u, 2u, 4u, 5u, 9u, 10u, 16u, 17u, 19u));

}  // namespace
}  // namespace dunefield
