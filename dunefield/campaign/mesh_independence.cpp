#include <dunefield/campaign/mesh_independence.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

/// Solves p = |ln|e32/e21| + ln((r21^p - s) / (r32^p - s))| / ln r21. 0 where there is none.
double observed_order(double e21, double e32, double r21, double r32) {
  if (e21 == 0 || e32 == 0) return 0;
  const double s = e32 / e21 > 0 ? 1 : -1;
  double p = 1;
  for (int i = 0; i < 200; ++i) {
    const double q = std::log((std::pow(r21, p) - s) / (std::pow(r32, p) - s));
    const double next = std::abs(std::log(std::abs(e32 / e21)) + q) / std::log(r21);
    if (!std::isfinite(next)) return 0;
    if (std::abs(next - p) < 1e-12) return next;
    p = 0.5 * (p + next);
  }
  return p;
}

}  // namespace

Extrapolated extrapolated(const std::vector<OnMesh>& meshes) {
  if (meshes.size() < 3)
    throw InputError("three meshes at least are needed to see where they tend to", "recipes",
                     "name three, from coarse to fine");
  const OnMesh &coarse = meshes[meshes.size() - 3], &middle = meshes[meshes.size() - 2],
               &fine = meshes.back();
  const double r21 = std::cbrt(fine.cells / middle.cells),
               r32 = std::cbrt(middle.cells / coarse.cells);
  constexpr double least_ratio = 1.03;  // of lengths: a tenth more cells
  if (!(r21 > least_ratio) || !(r32 > least_ratio))
    throw InputError("the meshes do not get finer from one to the next", "recipes",
                     "name them from coarse to fine");
  const double e21 = middle.value - fine.value, e32 = coarse.value - middle.value;
  Extrapolated x;
  x.order = e32 / (e21 == 0 ? 1 : e21) > 0 ? observed_order(e21, e32, r21, r32) : 0;
  constexpr double least_order = 0.5, most_order = 2.5, safety = 1.25, wide = 1.5;
  x.usable_order = x.order >= least_order && x.order <= most_order;
  if (x.usable_order) {
    const double further = e21 / (std::pow(r21, x.order) - 1);
    x.value = fine.value - further;
    x.band = safety * std::abs(further);
  } else {
    const auto [least, most] = std::minmax({coarse.value, middle.value, fine.value});
    x.value = fine.value, x.band = wide * (most - least);
  }
  x.band = std::hypot(x.band, fine.half_interval);
  return x;
}

}  // namespace dunefield
