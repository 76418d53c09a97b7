// Spectra of series in time.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include <dunefield/balance/spectrum.hpp>
#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

std::vector<double> tone(double frequency, double step, int count) {
  std::vector<double> v;
  for (int i = 0; i < count; ++i)
    v.push_back(3 + 0.5 * std::sin(2 * std::numbers::pi * frequency * step * i));
  return v;
}

TEST(Spectrum, HasItsPeakAtATonesFrequency) {
  const Spectrum s = spectrum_of(tone(7.3, 0.01, 1000), 0.01);
  EXPECT_NEAR(s.peak(), 7.3, 0.1);
  EXPECT_GE(s.pieces, 4);
  EXPECT_NEAR(s.frequency.back(), 50, 1e-9);
}

TEST(Spectrum, ItsIntegralIsTheVariance) {
  const Spectrum s = spectrum_of(tone(7, 0.01, 1000), 0.01);
  double sum = 0;
  for (const double d : s.density) sum += d * (s.frequency[1] - s.frequency[0]);
  EXPECT_NEAR(sum, 0.125, 0.002);
}

TEST(Spectrum, ShortSeriesAreRefused) {
  EXPECT_THROW(spectrum_of(tone(1, 0.1, 15), 0.1), InputError);
  EXPECT_THROW(spectrum_of(tone(1, 0.1, 100), 0), InputError);
}

}  // namespace
}  // namespace dunefield
