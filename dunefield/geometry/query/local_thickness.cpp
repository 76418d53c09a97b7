#include <dunefield/geometry/query/local_thickness.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/sampling.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

void count(WidthHistogram& h, double width, const Vec3& place, double share) {
  std::size_t bin = WidthHistogram::limits_mm.size();
  if (width > 0) {
    bin = 0;
    while (bin < WidthHistogram::limits_mm.size() && 1000 * width >= WidthHistogram::limits_mm[bin])
      ++bin;
    if (h.least == 0 || width < h.least) h.least = width, h.least_place = place;
  }
  h.share[bin] += share;
}

}  // namespace

LocalWidths measure_widths(const Surface& s, const RayScene& rays, const Shells& shells,
                           std::size_t wanted) {
  const auto samples = sample_surface(s, wanted);
  const double far = 2 * norm(bounds(s).size()), off = 1e-6 * far;
  constexpr double against = -0.5;  // cosine from which on a surface faces the ray
  std::vector<std::array<double, 2>> width(samples.size());
  parallel_for(
      samples.size(),
      [&](std::size_t i) {
        const auto t = static_cast<std::size_t>(samples[i].triangle);
        const auto outer = [&](std::size_t k) {
          return unit(s.area_vector(k)) * (shells.turned[k] ? -1.0 : 1.0);
        };
        const Vec3 n = outer(t);
        for (const int side : {0, 1}) {
          const Vec3 d = side ? n : -n;
          const auto hit =
              rays.first_crossing(samples[i].point + d * off, samples[i].point + d * far);
          // Inward the ray leaves through a surface that faces along it; outward it meets one that
          // faces back.
          const double facing = hit ? dot(outer(static_cast<std::size_t>(hit->triangle)), d) : 0;
          const bool counts = hit && (side ? facing < against : facing > -against);
          width[i][at(side)] = counts ? hit->distance + off : 0;
        }
      },
      64);
  LocalWidths out;
  const double share = samples.empty() ? 0 : 1.0 / static_cast<double>(samples.size());
  for (std::size_t i = 0; i < samples.size(); ++i) {
    count(out.thickness, width[i][0], samples[i].point, share);
    count(out.gap, width[i][1], samples[i].point, share);
  }
  return out;
}

}  // namespace dunefield
