#include <dunefield/mesh/planar/wall_line.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr double smooth_turn = 0.35;    // rad: the outline turns on, it has no corner
constexpr double coarsest_turn = 0.75;  // of a coarse curve, whose next points turn alike
constexpr double steepest = 0.12;       // change of spacing over the way along the wall

/// An outline with what a smooth curve through it needs.
class Curve {
 public:
  explicit Curve(const OutlineLoop& loop) : loop_(loop) {
    const std::size_t n = loop.points.size();
    turn_.resize(n), broken_.resize(n), tangent_.resize(n);
    for (std::size_t i = 0; i < n; ++i) {
      const Vec3 in = way((i + n - 1) % n), out = way(i);
      turn_[i] = std::atan2(turn({}, in, out), dot(in, out));
      tangent_[i] = parabola(i);
    }
    for (std::size_t i = 0; i < n; ++i)
      broken_[i] = is_corner(i) || loop.part_of[i] != loop.part_of[(i + n - 1) % n];
    fit_spline();
    bound_bulges();
  }

  std::size_t size() const { return turn_.size(); }
  Vec3 way(std::size_t i) const { return loop_.point(i + 1) - loop_.points[i]; }
  bool is_corner(std::size_t i) const {
    const double own = std::abs(turn_[i]);
    if (own < smooth_turn) return false;
    const double sign = turn_[i] > 0 ? 1 : -1;
    const double beside =
        std::max(sign * turn_[(i + 1) % size()], sign * turn_[(i + size() - 1) % size()]);
    return own > coarsest_turn || own > 2 * beside;
  }
  double turning(std::size_t i) const { return is_corner(i) ? turn_[i] : 0; }
  bool broken(std::size_t i) const { return broken_[i]; }
  int part(std::size_t i) const { return loop_.part_of[i]; }
  /// Radius of curvature; large at corners.
  double radius(std::size_t i) const {
    const double length = 0.5 * (norm(way(i)) + norm(way((i + size() - 1) % size())));
    return turn_[i] != 0 && !is_corner(i) ? length / std::abs(turn_[i]) : 1e300;
  }
  /// Hermite's cubic, at a share of the way from point i to the next.
  Vec3 at_share(std::size_t i, double t) const {
    const Vec3 &a = loop_.points[i], b = loop_.point(i + 1), chord = b - a;
    const std::size_t j = (i + 1) % size();
    const double length = norm(chord);
    const Vec3 from = chord + (tangent_at(i, i) * length - chord) * bulge_[i],
               to = chord + (tangent_at(j, i) * length - chord) * bulge_[i];
    const double s = 1 - t;
    return a * (s * s * (1 + 2 * t)) + b * (t * t * (3 - 2 * t)) + from * (t * s * s) -
           to * (t * t * s);
  }

 private:
  std::size_t before(std::size_t i) const { return (i + size() - 1) % size(); }

  /// The direction of the parabola through a point and its neighbours.
  Vec3 parabola(std::size_t i) const {
    const Vec3 in = way(before(i)), out = way(i);
    return unit(unit(in) * norm(out) + unit(out) * norm(in));
  }

  /// Tangents of the cubic spline through the points between corners, over the length of the chords
  /// (de Boor 1978); straight at corners.
  void fit_spline() {
    constexpr int sweeps = 60;  // each takes away three quarters of the error
    for (int sweep = 0; sweep < sweeps; ++sweep)
      for (std::size_t i = 0; i < size(); ++i) {
        if (broken_[i]) continue;
        const Vec3 in = way(before(i)), out = way(i);
        const double a = norm(in), b = norm(out);
        const Vec3 right = (unit(in) * b + unit(out) * a) * 3;
        tangent_[i] =
            (right - tangent_at(before(i), before(i)) * b - tangent_at((i + 1) % size(), i) * a) /
            (2 * (a + b));
      }
    // Where uneven points make it swing, the parabolas do.
    for (std::size_t i = 0; i < size(); ++i) {
      if (broken_[i]) continue;
      const double most = 0.02 + 0.8 * std::max({std::abs(turn_[before(i)]), std::abs(turn_[i]),
                                                 std::abs(turn_[(i + 1) % size()])});
      for (const Vec3& chord : {way(before(i)), way(i)})
        if (dot(unit(tangent_[i]), unit(chord)) < std::cos(most)) tangent_[i] = parabola(i);
    }
  }

  /// A long flat side beside finely cut curves is flat: a curve may not leave its chord by much
  /// more than those beside it do.
  void bound_bulges() {
    const auto sagitta = [&](std::size_t i) {
      const std::size_t j = (i + 1) % size();
      return norm(way(i)) * (std::abs(turn_[i]) * !broken_[i] + std::abs(turn_[j]) * !broken_[j]) /
             16;
    };
    bulge_.resize(size());
    for (std::size_t i = 0; i < size(); ++i) {
      const double own = sagitta(i),
                   beside = std::max(sagitta(before(i)), sagitta((i + 1) % size()));
      const double shorter = std::min(norm(way(before(i))), norm(way((i + 1) % size())));
      constexpr double much_longer = 4;
      bulge_[i] = norm(way(i)) > much_longer * shorter ? 0
                  : own > 2 * beside                   ? 2 * beside / own
                                                       : 1;
    }
  }

  /// At point i as an end of a segment. A corner's own: as the curve bends least towards it.
  Vec3 tangent_at(std::size_t i, std::size_t segment) const {
    if (!broken_[i]) return tangent_[i];
    const std::size_t other = i == segment ? (segment + 1) % size() : segment;
    const Vec3 chord = unit(way(segment));
    return broken_[other] ? chord : (chord * 3 - tangent_[other]) * 0.5;
  }

  const OutlineLoop& loop_;
  std::vector<double> turn_;
  std::vector<char> broken_;
  std::vector<Vec3> tangent_;
  std::vector<double> bulge_;  ///< share of the curve's way from the chord that is taken
};

/// A place on a curve, with the spacing that is wanted there.
struct Sample {
  Vec3 place, normal;
  std::size_t segment = 0;
  double share = 0, spacing = 0, along = 0;
  bool starts_piece = false;  ///< a point of the wall must lie here
};

double usual_size(const MeshOptions& o, const std::string& part) {
  const auto own = o.part_size.find(part);
  return own == o.part_size.end() ? o.surface_size : own->second;
}

std::vector<Sample> samples_of(const Curve& c, const std::vector<std::string>& parts,
                               const MeshOptions& o) {
  std::vector<Sample> all;
  const auto curved = [&](std::size_t i) {
    const double turns = 2 * std::numbers::pi * c.radius(i);
    return o.cells_per_turn > 0 ? turns / o.cells_per_turn : 1e300;
  };
  for (std::size_t i = 0; i < c.size(); ++i) {
    const std::size_t j = (i + 1) % c.size();
    const double usual = usual_size(o, parts[at(c.part(i))]),
                 least = std::min(usual, o.smallest_size);
    const int pieces = std::max(2, static_cast<int>(std::ceil(norm(c.way(i)) / (0.5 * usual))));
    for (int k = 0; k < pieces; ++k) {
      Sample s;
      s.segment = i, s.share = k / static_cast<double>(pieces), s.place = c.at_share(i, s.share);
      s.normal = unit(to_the_right(c.at_share(i, s.share + 1e-3) - s.place));
      s.starts_piece = k == 0 && c.broken(i);
      s.spacing =
          std::clamp((1 - s.share) * std::min(curved(i), 1e3) + s.share * std::min(curved(j), 1e3),
                     least, usual);
      if (s.starts_piece && c.turning(i) != 0 && o.edge_size > 0)
        s.spacing = std::min(s.spacing, o.edge_size);
      all.push_back(s);
    }
  }
  for (std::size_t i = 0; i < all.size(); ++i)
    all[i].along = norm(all[(i + 1) % all.size()].place - all[i].place);
  return all;
}

/// Radius of the ball of air that touches at `p` and goes through `q`; large where q lies behind.
double ball_radius(const Vec3& p, const Vec3& normal, const Vec3& q) {
  const double ahead = dot(q - p, normal);
  return ahead > 1e-12 ? norm2(q - p) / (2 * ahead) : 1e300;
}

/// Cells across gaps: between walls that face each other, and over the road.
void fit_to_gaps(std::vector<std::vector<Sample>>& lines, const MeshOptions& o, bool road) {
  if (!(o.gap_cells > 0)) return;
  constexpr double facing = -0.3;  // cosine between normals
  for (auto& line : lines)
    parallel_for(
        line.size(),
        [&](std::size_t i) {
          Sample& s = line[i];
          double gap = road && s.normal.z < facing ? s.place.z / -s.normal.z : 1e300;
          for (const auto& other : lines)
            for (const Sample& q : other)
              if (dot(q.normal, s.normal) < facing)
                gap = std::min(gap, 2 * ball_radius(s.place, s.normal, q.place));
          s.spacing = std::max(std::min(s.spacing, gap / o.gap_cells),
                               std::min(s.spacing, o.smallest_size));
        },
        16);
}

/// Where points of the wall must lie; the first sample where there is none.
std::vector<std::size_t> starts_of_pieces(const std::vector<Sample>& line) {
  std::vector<std::size_t> starts;
  for (std::size_t i = 0; i < line.size(); ++i)
    if (line[i].starts_piece) starts.push_back(i);
  if (starts.empty()) starts = {0};
  return starts;
}

constexpr int fewest_faces = 3;        // on a piece, a blunt base say
constexpr double least_of_base = 0.2;  // of the smallest size: shorter faces a base does not make

/// Faces beside short pieces are not much longer than theirs.
void fit_to_short_pieces(std::vector<Sample>& line, double smallest) {
  const std::vector<std::size_t> starts = starts_of_pieces(line);
  for (std::size_t i = 0; starts.size() > 1 && i < starts.size(); ++i) {
    const std::size_t to = i + 1 < starts.size() ? starts[i + 1] : starts[0] + line.size();
    double length = 0;
    for (std::size_t k = starts[i]; k < to; ++k) length += line[k % line.size()].along;
    for (Sample* end : {&line[starts[i]], &line[to % line.size()]})
      end->spacing =
          std::min(end->spacing, std::max(length / fewest_faces, least_of_base * smallest));
  }
}

/// No spacing changes faster along the wall than `steepest`.
void ease_spacing(std::vector<Sample>& line) {
  const std::size_t n = line.size();
  for (std::size_t k = 0; k < 2 * n; ++k) {
    Sample &a = line[k % n], &b = line[(k + 1) % n];
    b.spacing = std::min(b.spacing, a.spacing + steepest * a.along);
  }
  for (std::size_t k = 2 * n; k-- > 0;) {
    Sample &a = line[k % n], &b = line[(k + 1) % n];
    a.spacing = std::min(a.spacing, b.spacing + steepest * a.along);
  }
}

/// Points between two places that must have one, as the spacing asks for.
void place_points(const Curve& c, const std::vector<Sample>& line, std::size_t from, std::size_t to,
                  double smallest, WallLine& wall) {
  const std::size_t n = line.size();
  std::vector<double> counted = {0};
  for (std::size_t k = from; k < to; ++k) {
    const Sample &a = line[k % n], &b = line[(k + 1) % n];
    counted.push_back(counted.back() + a.along * 2 / (a.spacing + b.spacing));
  }
  double length = 0;
  for (std::size_t k = from; k < to; ++k) length += line[k % n].along;
  const int fewest = length > fewest_faces * least_of_base * smallest ? fewest_faces : 1;
  const int faces = std::max(fewest, static_cast<int>(std::lround(counted.back())));
  std::size_t k = 0;
  for (int f = 0; f < faces; ++f) {
    const double wanted = counted.back() * f / faces;
    while (k + 2 < counted.size() && counted[k + 1] <= wanted) ++k;
    const double part = (wanted - counted[k]) / (counted[k + 1] - counted[k]);
    const Sample &a = line[(from + k) % n], &b = line[(from + k + 1) % n];
    const double end = b.segment == a.segment && b.share > a.share ? b.share : 1;
    wall.points.push_back(c.at_share(a.segment, a.share + part * (end - a.share)));
    wall.part_of.push_back(c.part(a.segment));
    wall.turning.push_back(f == 0 && a.starts_piece ? c.turning(a.segment) : 0);
  }
}

WallLine wall_line(const Curve& c, const std::vector<Sample>& line, double smallest) {
  WallLine wall;
  const std::vector<std::size_t> starts = starts_of_pieces(line);
  for (std::size_t i = 0; i < starts.size(); ++i)
    place_points(c, line, starts[i],
                 i + 1 < starts.size() ? starts[i + 1] : starts[0] + line.size(), smallest, wall);
  if (wall.size() < 8)
    throw MeshError(fmt::format("an outline near x = {:.3f}, z = {:.3f} m gets {} faces only",
                                wall.points[0].x, wall.points[0].z, wall.size()),
                    "mesh", "use a smaller surface size, or leave that part out");
  return wall;
}

/// How much air there is over each point.
void measure_room(std::vector<WallLine>& walls, bool road) {
  for (WallLine& wall : walls) {
    wall.room.assign(wall.size(), 1e300);
    parallel_for(
        wall.size(),
        [&](std::size_t i) {
          const Vec3& p = wall.points[i];
          const Vec3 normal = unit(unit(to_the_right(wall.towards_next(i))) +
                                   unit(to_the_right(wall.towards_next(wall.before(i)))));
          double room = road && normal.z < 0 ? p.z / (1 - normal.z) : 1e300;
          for (const WallLine& other : walls)
            for (std::size_t j = 0; j < other.size(); ++j)
              if (&other != &wall || j != i)
                room = std::min(room, ball_radius(p, normal, other.points[j]));
          wall.room[i] = room;
        },
        16);
  }
}

}  // namespace

std::vector<WallLine> wall_lines(const Outline& outline, const MeshOptions& o, bool road) {
  std::vector<Curve> curves;
  std::vector<std::vector<Sample>> lines;
  for (const OutlineLoop& loop : outline.loops) {
    curves.emplace_back(loop);
    lines.push_back(samples_of(curves.back(), outline.part_names, o));
  }
  fit_to_gaps(lines, o, road);
  std::vector<WallLine> walls;
  for (std::size_t l = 0; l < lines.size(); ++l) {
    fit_to_short_pieces(lines[l], o.smallest_size);
    ease_spacing(lines[l]);
    walls.push_back(wall_line(curves[l], lines[l], o.smallest_size));
  }
  measure_room(walls, road);
  return walls;
}

}  // namespace dunefield
