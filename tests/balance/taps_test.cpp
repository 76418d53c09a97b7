// Taps read the wall next to them, rakes the air around them; nothing is read where no air is.
#include <gtest/gtest.h>

#include <dunefield/balance/taps.hpp>
#include <dunefield/geometry/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>

namespace dunefield {
namespace {

/// Half a block in a tunnel with a linear field in it.
class Probes : public testing::Test {
 protected:
  Probes() {
    MeshOptions o;
    o.surface_size = 0.05, o.largest_size = 0.2, o.half = true;
    mesh_ = build_mesh(rounded_box("block", Box{{-0.5, -0.3, 0.4}, {0.5, 0.3, 0.9}}, 0), Box{{-2, 0, 0}, {3, 1.5, 2}}, o).mesh;
    for (const Vec3& c : mesh_.cell_centre) velocity_.push_back({20 + c.x, 0.5 * c.y, 0}), pressure_.push_back(3 * c.x - c.z);
    loads_.resize(static_cast<std::size_t>(mesh_.faces() - mesh_.interior_faces()));
    for (std::size_t i = 0; i < loads_.size(); ++i) {
      const Vec3& c = mesh_.face_centre[static_cast<std::size_t>(mesh_.interior_faces()) + i];
      loads_[i].pressure_at = 1.2 * (3 * c.x - c.z) + 7;
    }
  }
  FlowReadings field() const { return {mesh_, loads_, velocity_, pressure_, 0, true}; }

  VolumeMesh mesh_;
  std::vector<WallLoad> loads_;
  std::vector<Vec3> velocity_;
  std::vector<double> pressure_;
  const ReferenceValues reference_{20, 1.2, 2, 1};
};

TEST_F(Probes, TapsReadTheNearestWallAndSayHowFarItIs) {
  const auto r = read_taps(field(), {{"nose", {-0.52, 0.1, 0.6}}, {"left side", {0.1, -0.3, 0.7}}}, reference_);
  ASSERT_EQ(r.size(), 2u);
  EXPECT_EQ(r[0].part, "block");
  EXPECT_NEAR(r[0].off, 0.02, 1e-6);
  EXPECT_NEAR(r[0].pressure, 1.2 * (3 * -0.5 - 0.6) + 7, 0.05) << "a face's width off at most";
  EXPECT_NEAR(r[0].cp, r[0].pressure / 240, 1e-12);
  EXPECT_NEAR(r[1].place.y, -0.3, 1e-6) << "read in the mirror, told where it was asked for";
}

TEST_F(Probes, RakesReadPressureAndVelocity) {
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

TEST_F(Probes, TheOtherHalfIsReadInTheMirrorAndTheVehicleNotAtAll) {
  const auto r = read_rakes(field(), {{"r", {{1, 0.6, 1}, {1, -0.6, 1}, {0, 0.1, 0.6}, {50, 0, 1}}}}, reference_);
  ASSERT_EQ(r.size(), 4u);
  EXPECT_EQ(r[0].velocity.y, -r[1].velocity.y);
  EXPECT_EQ(r[0].pressure, r[1].pressure);
  EXPECT_FALSE(r[2].air) << "within the block";
  EXPECT_FALSE(r[3].air) << "outside the tunnel";
}

}  // namespace
}  // namespace dunefield
