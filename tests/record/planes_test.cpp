// What flows through planes in the air.
#include <dunefield/record/planes.hpp>
#include <tests/record/block_in_tunnel.hpp>

namespace dunefield {
namespace {

class Planes : public BlockInTunnel {
 protected:
  PlaneReading read(const MeasuringPlane& plane) const {
    return read_planes(field(), {plane}, reference_).at(0);
  }
};

TEST_F(Planes, OfTheWholeTunnelReadBothHalvesAndLeaveTheVehicleOut) {
  const double section = 2 * tunnel_.size().y * tunnel_.size().z;
  const PlaneReading wake = read({"wake", {1.03, 0, 0}, {1, 0, 0}, 0, 0});
  EXPECT_NEAR(wake.area, section, 1e-6 * section);
  EXPECT_NEAR(wake.mass_flow, 1.2 * 21.03 * section, 1e-6 * 1.2 * 21.03 * section);
  EXPECT_NEAR(wake.velocity.y, 0, 1e-9) << "the other half's is the mirror image";
  const PlaneReading through = read({"middle", {0.01, 0, 0}, {1, 0, 0}, 0, 0});
  EXPECT_NEAR(through.area, section - 0.6 * 0.5, 0.002 * section);
}

TEST_F(Planes, RectanglesAreCutSharp) {
  const PlaneReading r = read({"side window", {1.03, 0.63, 1.01}, {1, 0, 0}, 0.37, 0.53});
  EXPECT_NEAR(r.area, 0.37 * 0.53, 1e-6);
  EXPECT_NEAR(r.velocity.x, 21.03, 1e-6);
  EXPECT_NEAR(r.velocity.y, 0.5 * 0.63, 1e-6);
  EXPECT_NEAR(r.pressure, 1.2 * (3 * 1.03 - 1.01), 1e-6);
  EXPECT_NEAR(r.cp, r.pressure / 240, 1e-12);
  const PlaneReading other = read({"other side", {1.03, -0.63, 1.01}, {1, 0, 0}, 0.37, 0.53});
  EXPECT_NEAR(other.mass_flow, r.mass_flow, 1e-9);
  EXPECT_NEAR(other.velocity.y, -r.velocity.y, 1e-9);
}

TEST_F(Planes, FlowAgainstTheNormalIsNegative) {
  const PlaneReading ahead = read({"a", {1.03, 0.5, 1}, {1, 0, 0}, 0.2, 0.2}),
                     back = read({"b", {1.03, 0.5, 1}, {-1, 0, 0}, 0.2, 0.2});
  EXPECT_NEAR(ahead.mass_flow, -back.mass_flow, 1e-9);
  const PlaneReading floor = read({"c", {1.03, 0.5, 1.01}, {0, 0, 1}, 0.2, 0.2});
  EXPECT_NEAR(floor.mass_flow, -1.2 * 1.01 * 0.04, 1e-6);
}

TEST_F(Planes, OutsideTheTunnelThereIsNothing) {
  const PlaneReading r = read({"far", {50, 0, 0}, {1, 0, 0}, 0, 0});
  EXPECT_EQ(r.area, 0);
  EXPECT_EQ(r.mass_flow, 0);
}

}  // namespace
}  // namespace dunefield
