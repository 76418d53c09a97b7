#include <dunefield/geometry/outline.hpp>

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

/// Of the outline's size: ends so near are joined, and told.
constexpr double joined_gap = 0.01;

/// A straight piece with the body to its left.
struct Piece {
  Vec3 from, to;
  int part = 0;
};

/// The line in which the plane cuts each triangle.
std::vector<Piece> cut_pieces(const Surface& s, double y) {
  std::vector<Piece> pieces;
  for (std::size_t t = 0; t < s.size(); ++t) {
    Vec3 end[2];
    int ends = 0;
    for (int k = 0; k < 3; ++k) {
      // In the order of the points, so that both triangles at an edge find the same place.
      int a = s.triangles[t][at(k)], b = s.triangles[t][at((k + 1) % 3)];
      if (a > b) std::swap(a, b);
      const Vec3 &p = s.points[at(a)], &q = s.points[at(b)];
      const double from = p.y - y, to = q.y - y;
      if ((from > 0) == (to > 0)) continue;
      end[ends] = p + (q - p) * (from / (from - to));
      end[ends++].y = 0;
    }
    if (ends != 2 || end[0] == end[1]) continue;
    if (dot(to_the_right(end[1] - end[0]), s.area_vector(t)) < 0) std::swap(end[0], end[1]);
    pieces.push_back({end[0], end[1], s.part_of[t]});
  }
  return pieces;
}

struct ByPlace {
  bool operator()(const Vec3& a, const Vec3& b) const {
    return a.x < b.x || (a.x == b.x && a.z < b.z);
  }
};

/// Chains of pieces that meet end to end, whichever way these run.
class Chaining {
 public:
  explicit Chaining(const std::vector<Piece>& pieces) : pieces_(pieces), used_(pieces.size(), 0) {
    for (std::size_t i = 0; i < pieces.size(); ++i)
      at_[pieces[i].from].push_back(i), at_[pieces[i].to].push_back(i);
  }

  /// Closed loops, and open chains with their last point.
  void run(std::vector<OutlineLoop>& closed, std::vector<OutlineLoop>& open) {
    // Chains that have an end first, so that they are not begun in their middle.
    for (const auto& [place, meeting] : at_)
      if (meeting.size() % 2 == 1) take_all(place, closed, open);
    for (const auto& [place, meeting] : at_) take_all(place, closed, open);
  }

 private:
  OutlineLoop from(const Vec3& start) {
    OutlineLoop chain;
    chain.points.push_back(start);
    for (Vec3 here = start;;) {
      const auto& meeting = at_.at(here);
      const auto next =
          std::find_if(meeting.begin(), meeting.end(), [&](std::size_t i) { return !used_[i]; });
      if (next == meeting.end()) return chain;
      const Piece& piece = pieces_[*next];
      used_[*next] = 1;
      here = here == piece.from ? piece.to : piece.from;
      chain.points.push_back(here), chain.part_of.push_back(piece.part);
      if (here == start) return chain;
    }
  }

  void take_all(const Vec3& start, std::vector<OutlineLoop>& closed,
                std::vector<OutlineLoop>& open) {
    for (OutlineLoop chain = from(start); !chain.part_of.empty(); chain = from(start))
      keep(std::move(chain), closed, open);
  }

  static void keep(OutlineLoop chain, std::vector<OutlineLoop>& closed,
                   std::vector<OutlineLoop>& open) {
    if (chain.points.back() == chain.points.front() && chain.part_of.size() > 2)
      chain.points.pop_back(), closed.push_back(std::move(chain));
    else if (!(chain.points.back() == chain.points.front()))
      open.push_back(std::move(chain));
  }

  const std::vector<Piece>& pieces_;
  std::vector<char> used_;
  std::map<Vec3, std::vector<std::size_t>, ByPlace> at_;
};

/// Joins open chains end to end over small gaps, the nearest first.
void join_gaps(std::vector<OutlineLoop> open, std::vector<OutlineLoop>& closed, double size,
               Findings& findings) {
  while (!open.empty()) {
    OutlineLoop chain = std::move(open.back());
    open.pop_back();
    for (;;) {
      const Vec3 end = chain.points.back();
      double least = norm(end - chain.points.front());
      std::size_t nearest = open.size();
      bool turned = false;
      for (std::size_t i = 0; i < open.size(); ++i)
        for (const bool back : {false, true})
          if (const double d = norm(end - (back ? open[i].points.back() : open[i].points.front()));
              d < least)
            least = d, nearest = i, turned = back;
      if (least > joined_gap * size)
        throw InputError(
            fmt::format("the outline has a gap of {:.2f} mm at x = {:.4f}, z = {:.4f} m",
                        1000 * least, end.x, end.z),
            "section", "close it, cut elsewhere, or leave that part out");
      findings.note(
          fmt::format("the outline's gap of {:.3g} mm at x = {:.4f}, z = {:.4f} m is closed",
                      1000 * least, end.x, end.z));
      chain.part_of.push_back(chain.part_of.back());
      if (nearest == open.size()) break;
      OutlineLoop next = std::move(open[nearest]);
      open.erase(open.begin() + static_cast<std::ptrdiff_t>(nearest));
      if (turned)
        std::reverse(next.points.begin(), next.points.end()),
            std::reverse(next.part_of.begin(), next.part_of.end());
      chain.points.insert(chain.points.end(), next.points.begin(), next.points.end());
      chain.part_of.insert(chain.part_of.end(), next.part_of.begin(), next.part_of.end());
    }
    if (chain.points.size() > 2) closed.push_back(std::move(chain));
  }
}

void turn_left(OutlineLoop& loop) {
  if (loop.area() >= 0) return;
  std::reverse(loop.points.begin(), loop.points.end());
  // The way from a point to the next was the way from the next to it.
  std::reverse(loop.part_of.begin(), loop.part_of.end());
  std::rotate(loop.part_of.begin(), loop.part_of.begin() + 1, loop.part_of.end());
}

/// Cuts the ways of all loops where they cross. @throw InputError where one crosses itself
std::vector<Piece> split_at_crossings(const std::vector<OutlineLoop>& loops, bool& any) {
  struct Way {
    Vec3 from, to;
    Box box;
    std::size_t loop, place, count;
    int part;
    std::vector<std::pair<double, Vec3>> cuts;
  };
  std::vector<Way> ways;
  for (std::size_t l = 0; l < loops.size(); ++l)
    for (std::size_t i = 0; i < loops[l].points.size(); ++i) {
      Way way{loops[l].points[i],     loops[l].point(i + 1), {}, l, i,
              loops[l].points.size(), loops[l].part_of[i],   {}};
      way.box.include(way.from), way.box.include(way.to);
      ways.push_back(way);
    }
  std::vector<std::size_t> order(ways.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return ways[a].box.lo.x < ways[b].box.lo.x; });
  any = false;
  for (std::size_t i = 0; i < order.size(); ++i)
    for (std::size_t j = i + 1; j < order.size(); ++j) {
      Way &a = ways[order[i]], &b = ways[order[j]];
      if (b.box.lo.x > a.box.hi.x) break;
      const bool same = a.loop == b.loop;
      const std::size_t apart = a.place > b.place ? a.place - b.place : b.place - a.place;
      if (same && (apart <= 1 || apart + 1 >= a.count)) continue;
      const Crossing x = crossing(a.from, a.to, b.from, b.to);
      if (!x.found) continue;
      const Vec3 place = a.from + (a.to - a.from) * x.of_first;
      if (same)
        throw InputError(
            fmt::format("the outline crosses itself at x = {:.4f}, z = {:.4f} m", place.x, place.z),
            "section", "mend the shape there, or cut elsewhere");
      any = true;
      a.cuts.push_back({x.of_first, place}), b.cuts.push_back({x.of_second, place});
    }
  std::vector<Piece> pieces;
  for (Way& way : ways) {
    std::sort(way.cuts.begin(), way.cuts.end(),
              [](const auto& a, const auto& b) { return a.first < b.first; });
    Vec3 from = way.from;
    for (const auto& [share, place] : way.cuts)
      pieces.push_back({from, place, way.part}), from = place;
    pieces.push_back({from, way.to, way.part});
  }
  return pieces;
}

/// The outer border of all loops together.
std::vector<OutlineLoop> united(const std::vector<OutlineLoop>& loops, double size,
                                Findings& findings) {
  bool any = false;
  std::vector<Piece> pieces = split_at_crossings(loops, any);
  const double aside = 1e-7 * size;
  const Winding winding(loops);
  std::erase_if(pieces, [&](const Piece& p) {
    const Vec3 middle = (p.from + p.to) * 0.5, right = unit(to_the_right(p.to - p.from)) * aside;
    return winding(middle + right) > 0 || winding(middle - right) <= 0;
  });
  std::vector<OutlineLoop> closed, open;
  Chaining(pieces).run(closed, open);
  join_gaps(std::move(open), closed, size, findings);
  for (OutlineLoop& loop : closed) turn_left(loop);
  if (any) findings.note("pieces that cross in the section are taken as one body");
  return closed;
}

/// Points in the middle of a straight way, as the diagonals of flat sides leave them, and those at
/// the place of another one are no points of the outline.
void drop_needless_points(OutlineLoop& loop, double size) {
  const double nothing = 1e-9 * size, same_place = 1e-6 * size;
  OutlineLoop kept;
  const std::size_t n = loop.points.size();
  for (std::size_t i = 0; i < n; ++i) {
    const Vec3 &before = kept.points.empty() ? loop.points[n - 1] : kept.points.back(),
               &p = loop.points[i], after = loop.point(i + 1);
    const bool same_part = loop.part_of[i] == loop.part_of[(i + n - 1) % n];
    const bool straight = std::abs(turn(before, p, after)) <= nothing * norm(after - before) &&
                          dot(p - before, after - p) >= 0;
    if ((same_part && straight) || norm(p - before) < same_place) continue;
    kept.points.push_back(p), kept.part_of.push_back(loop.part_of[i]);
  }
  if (kept.points.size() > 2) loop = std::move(kept);
}

}  // namespace

double OutlineLoop::area() const {
  double twice = 0;
  for (std::size_t i = 0; i < points.size(); ++i) twice += turn({}, points[i], point(i + 1));
  return 0.5 * twice;
}

Box Outline::bounds() const {
  Box box;
  for (const OutlineLoop& loop : loops)
    for (const Vec3& p : loop.points) box.include(p);
  return box;
}

double Outline::chord() const {
  double longest = 0;
  for (const OutlineLoop& a : loops)
    for (const Vec3& p : a.points)
      for (const OutlineLoop& b : loops)
        for (const Vec3& q : b.points) longest = std::max(longest, norm2(p - q));
  return std::sqrt(longest);
}

Crossing crossing(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
  const double ca = turn(c, d, a), cb = turn(c, d, b), ac = turn(a, b, c), ad = turn(a, b, d);
  if ((ca > 0) == (cb > 0) || (ac > 0) == (ad > 0)) return {};
  return {ca / (ca - cb), ac / (ac - ad), true};
}

Winding::Winding(const std::vector<OutlineLoop>& loops) {
  std::size_t sides = 0;
  for (const OutlineLoop& loop : loops)
    for (const Vec3& p : loop.points) box_.include(p), ++sides;
  rows_.resize(std::max<std::size_t>(1, sides));
  for (const OutlineLoop& loop : loops)
    for (std::size_t i = 0; i < loop.points.size(); ++i) {
      const Side side{loop.points[i], loop.point(i + 1)};
      const std::size_t last = row_of(std::max(side.from.z, side.to.z));
      for (std::size_t row = row_of(std::min(side.from.z, side.to.z)); row <= last; ++row)
        rows_[row].push_back(side);
    }
}

std::size_t Winding::row_of(double z) const {
  const double share = (z - box_.lo.z) / std::max(1e-300, box_.size().z);
  return std::min(rows_.size() - 1, static_cast<std::size_t>(
                                        std::max(0.0, share * static_cast<double>(rows_.size()))));
}

int Winding::operator()(const Vec3& p) const {
  if (p.x < box_.lo.x || p.x > box_.hi.x || p.z < box_.lo.z || p.z > box_.hi.z) return 0;
  int count = 0;
  for (const Side& s : rows_[row_of(p.z)]) {
    if ((s.from.z > p.z) == (s.to.z > p.z)) continue;
    const double side = turn(s.from, s.to, p);
    if (s.to.z > s.from.z && side > 0) ++count;
    if (s.to.z < s.from.z && side < 0) --count;
  }
  return count;
}

Outline outline_at(const Surface& surface, double y, Findings& findings) {
  Outline outline;
  outline.part_names = surface.part_names;
  const std::vector<Piece> pieces = cut_pieces(surface, y);
  if (pieces.empty())
    throw InputError(fmt::format("nothing of the vehicle lies at y = {:.4f} m", y), "section.at",
                     "choose a place that it reaches");
  Box box;
  for (const Piece& p : pieces) box.include(p.from), box.include(p.to);
  const double size = norm(box.size());
  std::vector<OutlineLoop> closed, open;
  Chaining(pieces).run(closed, open);
  join_gaps(std::move(open), closed, size, findings);
  constexpr double speck = 1e-8;  // of the square of the size: no body
  std::erase_if(closed,
                [&](const OutlineLoop& l) { return std::abs(l.area()) < speck * size * size; });
  for (OutlineLoop& loop : closed) turn_left(loop);
  outline.loops = united(closed, size, findings);
  std::erase_if(outline.loops,
                [&](const OutlineLoop& l) { return std::abs(l.area()) < speck * size * size; });
  for (OutlineLoop& loop : outline.loops) drop_needless_points(loop, size);
  if (outline.loops.empty())
    throw InputError("the section has sheets only, and no body", "section",
                     "give the parts a thickness, or cut elsewhere");
  return outline;
}

Surface slab(const Outline& outline, double y, double depth) {
  Surface s;
  s.part_names = outline.part_names;
  for (const OutlineLoop& loop : outline.loops) {
    const int first = static_cast<int>(s.points.size()), n = static_cast<int>(loop.points.size());
    for (const Vec3& p : loop.points)
      for (const double side : {-0.5, 0.5}) s.points.push_back({p.x, y + side * depth, p.z});
    for (int i = 0; i < n; ++i) {
      const int a = first + 2 * i, b = first + 2 * ((i + 1) % n);
      // From a to b with the body to the left: x times y is z, so that this order points outward.
      s.triangles.push_back({a, a + 1, b + 1}), s.triangles.push_back({a, b + 1, b});
      s.part_of.insert(s.part_of.end(), 2, loop.part_of[at(i)]);
    }
  }
  return s;
}

}  // namespace dunefield
