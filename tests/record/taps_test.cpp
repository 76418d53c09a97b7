// Taps read the wall next to them, rakes the air around them; nothing is read where no air is.
#include <algorithm>
#include <limits>

#include <tests/record/block_in_tunnel.hpp>

namespace dunefield {
namespace {

using TapsAndRakes = BlockInTunnel;

TEST_F(TapsAndRakes, TapsReadTheNearestWallAndSayHowFarItIs) {
  const auto r = read_taps(field(), {{"nose", {-0.52, 0.1, 0.6}}, {"left side", {0.1, -0.3, 0.7}}},
                           reference_);
  ASSERT_EQ(r.size(), 2u);
  EXPECT_EQ(r[0].part, "block");
  EXPECT_NEAR(r[0].off, 0.02, 1e-6);
  EXPECT_NEAR(r[0].pressure, 1.2 * (3 * -0.5 - 0.6) + 7, 0.05) << "a face's width off at most";
  EXPECT_NEAR(r[0].cp, r[0].pressure / 240, 1e-12);
  EXPECT_NEAR(r[1].place.y, -0.3, 1e-6) << "read in the mirror, told where it was asked for";
}

TEST_F(TapsAndRakes, RakesReadPressureAndVelocity) {
  const Rake wake = rake_grid("wake", {1, 0.1, 0.2}, {1, 0.1, 1.6}, {1, 1.2, 0.2}, 8, 5);
  ASSERT_EQ(wake.points.size(), 40u);
  EXPECT_NEAR(wake.points.back().y, 1.2, 1e-12);
  EXPECT_NEAR(wake.points.back().z, 1.6, 1e-12);
  for (const RakeReading& r : read_rakes(field(), {wake}, reference_)) {
    ASSERT_TRUE(r.air);
    EXPECT_NEAR(r.velocity.x, 20 + r.place.x, 0.1);
    EXPECT_NEAR(r.pressure, 1.2 * (3 * r.place.x - r.place.z), 0.4);
    EXPECT_NEAR(r.total_cp, r.cp + norm2(r.velocity) / 400, 1e-12);
  }
}

TEST_F(TapsAndRakes, TheOtherHalfIsReadInTheMirrorAndTheVehicleNotAtAll) {
  const auto r = read_rakes(
      field(), {{"r", {{1, 0.6, 1}, {1, -0.6, 1}, {0, 0.1, 0.6}, {50, 0, 1}}}}, reference_);
  ASSERT_EQ(r.size(), 4u);
  EXPECT_EQ(r[0].velocity.y, -r[1].velocity.y);
  EXPECT_EQ(r[0].pressure, r[1].pressure);
  EXPECT_FALSE(r[2].air) << "within the block";
  EXPECT_FALSE(r[3].air) << "outside the tunnel";
}

TEST_F(TapsAndRakes, SayWhatOfTheFieldTheyRead) {
  const Probes probes(mesh_, {{"nose", {-0.5, 0.1, 0.6}}},
                      {{"r", {{1, 0.6, 1}, {1, -0.6, 1}, {0, 0.1, 0.6}}}}, true);
  const auto before = probes.rakes(field(), reference_);
  const double tap = probes.taps(field(), reference_).at(0).pressure;
  const auto keep = [](auto& values, const std::vector<int>& wanted, const auto& nothing) {
    EXPECT_LT(wanted.size(), values.size() / 10);
    for (int i = 0; i < static_cast<int>(values.size()); ++i)
      if (!std::binary_search(wanted.begin(), wanted.end(), i)) values[at(i)] = nothing;
  };
  const double none = std::numeric_limits<double>::quiet_NaN();
  keep(pressure_, probes.cells(), none);
  keep(velocity_, probes.cells(), Vec3{none, none, none});
  WallLoad no_load;
  no_load.pressure_at = none;
  keep(loads_, probes.loads(), no_load);
  EXPECT_EQ(probes.taps(field(), reference_).at(0).pressure, tap);
  const auto after = probes.rakes(field(), reference_);
  for (std::size_t i = 0; i < before.size(); ++i) {
    EXPECT_EQ(after[i].pressure, before[i].pressure);
    EXPECT_EQ(after[i].velocity.y, before[i].velocity.y);
  }
}

}  // namespace
}  // namespace dunefield
