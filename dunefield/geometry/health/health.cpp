#include <dunefield/geometry/health/health.hpp>

#include <memory>

#include <fmt/format.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/health/self_crossings.hpp>
#include <dunefield/geometry/query/slivers.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr std::size_t most_places = 500;  // kept of each kind, for the picture
// of the vehicle's length: a piece smaller than that is a stray bit
constexpr double stray_share = 0.01;
constexpr double uneven = 1e-3;  // of the width: sides that differ by more are told

void add_place(std::vector<Vec3>& places, const Vec3& p) {
  if (places.size() < most_places) places.push_back(p);
}

/// Open and over-full edges; doubled facets do not count.
void count_edges_of(const Surface& s, const EdgeTable& edges, const Shells& shells,
                    HealthReport& r) {
  edges.for_each([&](int low, int high, std::span<const EdgeTable::Use> uses) {
    const auto n = std::count_if(uses.begin(), uses.end(), [&](const EdgeTable::Use& u) {
      return !shells.doubled[at(u.triangle())];
    });
    r.open_edges += n == 1;
    if (n > 2) {
      ++r.non_manifold_edges;
      add_place(r.non_manifold_places, 0.5 * (s.points[at(low)] + s.points[at(high)]));
    }
  });
  if (r.open_edges) r.loops = open_loops(s, shells.doubled, shells.turned);
}

void count_slivers(const Surface& s, HealthReport& r) {
  std::vector<char> sliver(s.size());
  parallel_for(s.size(), [&](std::size_t t) { sliver[t] = is_sliver(s, t); });
  for (std::size_t t = 0; t < s.size(); ++t)
    if (sliver[t]) ++r.slivers, add_place(r.sliver_places, s.centroid(t));
}

void find_stray_bits(const Surface& s, const Pieces& pieces, HealthReport& r) {
  const auto n = static_cast<std::size_t>(pieces.count);
  std::vector<Box> box(n);
  std::vector<std::size_t> count(n, 0), first(n, 0);
  for (std::size_t t = s.size(); t-- > 0;) {
    const auto p = static_cast<std::size_t>(pieces.of_triangle[t]);
    for (int k = 0; k < 3; ++k) box[p].include(s.corner(t, k));
    ++count[p], first[p] = t;
  }
  const double limit = stray_share * norm(bounds(s).size());
  for (std::size_t p = 0; p < n; ++p)
    if (const double size = norm(box[p].size()); size < limit)
      r.stray_bits.push_back(
          {box[p].centre(), size, count[p], s.part_names[at(s.part_of[first[p]])]});
  std::stable_sort(r.stray_bits.begin(), r.stray_bits.end(),
                   [](const StrayBit& a, const StrayBit& b) { return a.size < b.size; });
}

std::string place(const Vec3& p) {
  return fmt::format("({:.3f}, {:.3f}, {:.3f}) m", p.x, p.y, p.z);
}

}  // namespace

HealthReport check_health(const Surface& s, const Progress& progress) {
  HealthReport r;
  const auto stage = [&](const char* name, double share) {
    progress.check(), progress(name, share);
  };
  stage("orientation", 0);
  const RayScene rays(s);
  {
    auto edges = std::make_unique<EdgeTable>(s);
    const Shells shells = find_shells(s, rays, *edges);
    r.doubled_facets = shells.doubled_count, r.flipped_facets = shells.turned_count,
    r.sheet_facets = shells.sheet_count;
    r.closed =
        shells.sheet_count == 0 && std::all_of(shells.shells.begin(), shells.shells.end(),
                                               [](const Shell& shell) { return shell.closed; });
    const std::size_t every = shells.turned_count / most_places + 1;
    std::size_t n = 0;
    for (std::size_t t = 0; t < s.size(); ++t)
      if (shells.turned[t] && n++ % every == 0) r.flipped_places.push_back(s.centroid(t));
    stage("edges", 0.3);
    count_edges_of(s, *edges, shells, r);
    edges.reset();
    stage("thickness and gaps", 0.5);
    r.widths = measure_widths(s, rays, shells);
  }
  count_slivers(s, r);
  const Pieces pieces = connected_pieces(s);
  r.pieces = pieces.count;
  find_stray_bits(s, pieces, r);
  stage("crossings", 0.6);
  {
    Crossings crossings = find_self_crossings(s, pieces);
    r.crossings_in_a_piece = crossings.within_piece;
    r.crossings_between_pieces = crossings.count - crossings.within_piece;
    r.crossing_places = std::move(crossings.places);
  }
  stage("symmetry", 0.9);
  r.across = asymmetry(s, rays, 1);
  stage("done", 1);
  return r;
}

Findings findings_of(const HealthReport& r, const Surface& s) {
  Findings f;
  if (r.open_edges) {
    f.warn(fmt::format(
        "{} open edges in {} loops: the mesh closes holes, and has a wall on each side of sheets",
        r.open_edges, r.loops.size()));
    for (std::size_t i = 0; i < std::min<std::size_t>(5, r.loops.size()); ++i)
      f.note(fmt::format("open loop {}: {:.3f} m long, {:.3f} m across, at {}", i + 1,
                         r.loops[i].length, r.loops[i].size, place(r.loops[i].centre)));
  }
  if (r.sheet_facets)
    f.note(fmt::format("{} facets are sheets: the mesh has a wall on each side of them",
                       r.sheet_facets));
  if (r.non_manifold_edges)
    f.warn(fmt::format("{} edges join more than two facets, the first at {}", r.non_manifold_edges,
                       place(r.non_manifold_places[0])));
  if (r.doubled_facets)
    f.warn(fmt::format(
        "{} facets are there twice: the copies are left out, slivers back to back altogether",
        r.doubled_facets));
  if (r.flipped_facets)
    f.warn(fmt::format("{} facets are turned inside out, the first at {}: they are turned back",
                       r.flipped_facets, place(r.flipped_places[0])));
  if (r.crossings_in_a_piece)
    f.warn(fmt::format("{} pairs of facets of one piece pass through each other, one at {}",
                       r.crossings_in_a_piece, place(r.crossing_places[0])));
  if (r.crossings_between_pieces)
    f.note(fmt::format("{} pairs of facets of different pieces cross: the pieces are united",
                       r.crossings_between_pieces));
  if (!r.stray_bits.empty())
    f.warn(fmt::format("{} stray bits, the smallest {:.2g} mm, at {}", r.stray_bits.size(),
                       1000 * r.stray_bits[0].size, place(r.stray_bits[0].centre)));
  if (r.slivers)
    f.note(fmt::format("{} slivers (height under a hundredth of the longest side): harmless",
                       r.slivers));
  const double width = bounds(s).size().y;
  if (r.across.largest > uneven * width)
    f.note(fmt::format(
        "the two sides differ by up to {:.1f} mm at {}, {:.2f} mm on average, about the plane y = "
        "{:.3f} m",
        1000 * r.across.largest, place(r.across.place), 1000 * r.across.mean, r.across.plane));
  return f;
}

}  // namespace dunefield
