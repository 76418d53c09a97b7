#include <dunefield/record/planes.hpp>

#include <cmath>

#include <dunefield/base/index.hpp>
#include <dunefield/mesh/section.hpp>

namespace dunefield {
namespace {

/// Values where a cell is cut, and the cut's size.
struct Piece {
  int cell;
  double area, pressure;  ///< m2, pressure over density
  Vec3 velocity;
  Mat3 gradient;  ///< of the velocity
};

class Cutter {
 public:
  explicit Cutter(const FlowReadings& field) : field_(field), rows_(faces_of_cells(field.mesh)) {}

  /// Calls `visit` with each piece of the plane within the rectangle.
  template <class Visit>
  void for_pieces(const MeasuringPlane& p, const Visit& visit) const {
    const Plane plane{p.centre, p.normal};
    const PlaneAxes axes(p.normal);
    for (const int c : cut_cells(field_.mesh, plane)) {
      std::vector<Vec3> outline = cell_section(field_.mesh, rows_, c, plane);
      for (const auto& [axis, size] :
           {std::pair{axes.across, p.width}, std::pair{axes.up, p.height}})
        for (const double side : {1.0, -1.0})
          if (size > 0)
            outline = clipped(outline, [&](const Vec3& x) {
              return 0.5 * size - side * dot(x - p.centre, axis);
            });
      if (outline.size() >= 3) visit(piece(c, outline));
    }
  }

 private:
  Piece piece(int c, const std::vector<Vec3>& outline) const {
    Vec3 vector, middle;
    double weight = 0;
    for (std::size_t i = 1; i + 1 < outline.size(); ++i) {
      const Vec3 part = cross(outline[i] - outline[0], outline[i + 1] - outline[0]) * 0.5;
      vector += part, weight += norm(part);
      middle += (outline[0] + outline[i] + outline[i + 1]) * (norm(part) / 3);
    }
    const Vec3 off = weight > 0 ? middle / weight - field_.mesh.cell_centre[at(c)] : Vec3{};
    Mat3 gradient;
    Vec3 slope;
    fit(c, gradient, slope);
    return {c, norm(vector), field_.pressure[at(c)] + dot(slope, off),
            field_.velocity[at(c)] + gradient * off, gradient};
  }
  /// Least squares over the neighbours, the nearer the heavier.
  void fit(int c, Mat3& gradient, Vec3& slope) const {
    const VolumeMesh& m = field_.mesh;
    SymmetricMat3 sum;
    for (int r = rows_.start[at(c)]; r < rows_.start[at(c) + 1]; ++r) {
      const int f = rows_.face[at(r)];
      if (f >= m.interior_faces()) continue;
      const int other = m.cell_below[at(f)] == c ? m.cell_above[at(f)] : m.cell_below[at(f)];
      const Vec3 d = m.cell_centre[at(other)] - m.cell_centre[at(c)],
                 du = field_.velocity[at(other)] - field_.velocity[at(c)];
      const double w = 1 / norm2(d);
      sum.add_square(d, w);
      for (int i = 0; i < 3; ++i) gradient.row[i] += d * (w * du[i]);
      slope += d * (w * (field_.pressure[at(other)] - field_.pressure[at(c)]));
    }
    constexpr double share = 1e-6;  // added each way: all neighbours may lie in a plane
    const double more = share * (sum.xx + sum.yy + sum.zz) + 1e-300;
    sum.xx += more, sum.yy += more, sum.zz += more;
    const SymmetricMat3 inverse = sum.inverse();
    for (Vec3& row : gradient.row) row = inverse * row;
    slope = inverse * slope;
  }

  const FlowReadings& field_;
  const CellFaces rows_;
};

Vec3 mirrored(const Vec3& v) { return {v.x, -v.y, v.z}; }

}  // namespace

std::vector<PlaneReading> read_planes(const FlowReadings& field,
                                      const std::vector<MeasuringPlane>& planes,
                                      const ReferenceValues& reference) {
  std::vector<PlaneReading> readings;
  if (planes.empty()) return readings;
  const Cutter cutter(field);
  for (const MeasuringPlane& plane : planes) {
    PlaneReading r{plane.name, 0, 0, {}, 0, 0, 0};
    // Half a model is read as it is, and, for the other half, with the plane in the mirror.
    for (const bool other_half : {false, true}) {
      if (other_half && !field.half) break;
      MeasuringPlane p = plane;
      if (other_half) p.centre = mirrored(p.centre), p.normal = mirrored(p.normal);
      cutter.for_pieces(p, [&](const Piece& piece) {
        const double pressure = reference.density * piece.pressure - field.undisturbed;
        r.area += piece.area;
        r.mass_flow += reference.density * piece.area * dot(piece.velocity, p.normal);
        r.velocity += (other_half ? mirrored(piece.velocity) : piece.velocity) * piece.area;
        r.pressure += pressure * piece.area;
        r.total_cp += (pressure / reference.dynamic_pressure() +
                       norm2(piece.velocity) / (reference.speed * reference.speed)) *
                      piece.area;
      });
    }
    if (r.area > 0) r.velocity = r.velocity / r.area, r.pressure /= r.area, r.total_cp /= r.area;
    r.cp = r.pressure / reference.dynamic_pressure();
    readings.push_back(r);
  }
  return readings;
}

double section_momentum(const FlowReadings& field, double x, const std::vector<double>& viscosity,
                        double density) {
  double sum = 0;
  Cutter(field).for_pieces({"", {x, 0, 0}, {1, 0, 0}, 0, 0}, [&](const Piece& p) {
    sum += p.area * (p.pressure + p.velocity.x * p.velocity.x -
                     2 * viscosity[at(p.cell)] * p.gradient.row[0].x);
  });
  return density * sum * (field.half ? 2 : 1);
}

}  // namespace dunefield
