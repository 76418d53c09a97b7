// Surface files that are damaged or made to do harm.
#include <gtest/gtest.h>

#include <chrono>

#include <dunefield/geometry/files/aerofoil.hpp>
#include <dunefield/geometry/files/obj.hpp>
#include <dunefield/geometry/files/ply.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/damage.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class DamagedSurfaces : public testing::Test {
 protected:
  const TemporaryFolder folder_;
  const Surface ball_ = sphere("ball", {0, 0, 1}, 0.5, 6);
};

TEST_F(DamagedSurfaces, OfStlAreRefusedOrRead) {
  const auto binary = folder_ / "b.stl", text = folder_ / "t.stl";
  write_stl_binary(binary, ball_), write_stl_ascii(text, ball_);
  for (const auto& file : {binary, text})
    expect_taken_or_refused([&] { read_stl(file); }, file, 1500);
}

TEST_F(DamagedSurfaces, OfObjAreRefusedOrRead) {
  const auto file = folder_ / "b.obj";
  write_obj(file, ball_);
  expect_taken_or_refused([&] { read_obj(file); }, file, 1500);
}

TEST_F(DamagedSurfaces, OfPlyAreRefusedOrRead) {
  const auto file = folder_ / "b.ply";
  for (const char* form : {"ascii", "binary_little_endian"}) {
    write_text(file,
               std::string("ply\nformat ") + form +
                   " 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
                   "property float z\nelement face 1\nproperty list uchar int vertex_indices\n"
                   "end_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n" +
                   std::string(60, '\1'));
    expect_taken_or_refused([&] { read_ply(file); }, file, 1500);
  }
}

TEST_F(DamagedSurfaces, OfASectionAreRefusedOrRead) {
  const auto file = folder_ / "s.dat";
  std::string text = "section\n";
  for (const auto& p : four_digit_section("4412", 20).points)
    text += std::to_string(p[0]) + " " + std::to_string(p[1]) + "\n";
  write_text(file, text);
  expect_taken_or_refused([&] { read_aerofoil(file); }, file, 3000);
  for (const char* far : {"1e308 0\n-1e308 0\n", "1e200 1e200\n0 -1e200\n"}) {
    write_text(file, text + far);
    EXPECT_THROW(read_aerofoil(file), InputError) << far;
  }
}

}  // namespace
}  // namespace dunefield::test
