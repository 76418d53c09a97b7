#include <dunefield/record/planes.hpp>

#include <cmath>

#include <dunefield/base/index.hpp>
#include <dunefield/record/points.hpp>
#include <dunefield/record/sampler.hpp>

namespace dunefield {
std::vector<PlaneReading> read_planes(const FlowReadings& field,
                                      const std::vector<MeasuringPlane>& planes,
                                      const ReferenceValues& reference) {
  std::vector<PlaneReading> readings;
  if (planes.empty()) return readings;
  const Sampler sampler(field.mesh);
  for (const MeasuringPlane& plane : planes) {
    PlaneReading r{plane.name, 0, 0, {}, 0, 0, 0};
    // Half a model is read as it is, and, for the other half, with the plane in the mirror.
    for (const bool other_half : {false, true}) {
      if (other_half && !field.half) break;
      MeasuringPlane p = plane;
      if (other_half) p.centre = in_mirror(p.centre), p.normal = in_mirror(p.normal);
      sampler.for_pieces({p.centre, p.normal}, p.width, p.height, [&](const Sampler::Piece& piece) {
        const Vec3 u = sampler.value_in(piece.cell, field.velocity, piece.middle);
        const double pressure =
            reference.density * sampler.value_in(piece.cell, field.pressure, piece.middle) -
            field.undisturbed;
        r.area += piece.area;
        r.mass_flow += reference.density * piece.area * dot(u, p.normal);
        r.velocity += (other_half ? in_mirror(u) : u) * piece.area;
        r.pressure += pressure * piece.area;
        r.total_cp += (pressure / reference.dynamic_pressure() +
                       norm2(u) / (reference.speed * reference.speed)) *
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
  const Sampler sampler(field.mesh);
  sampler.for_pieces({{x, 0, 0}, {1, 0, 0}}, 0, 0, [&](const Sampler::Piece& piece) {
    const Mat3 gradient = sampler.gradient(piece.cell, field.velocity);
    const Vec3 off = piece.middle - field.mesh.cell_centre[at(piece.cell)];
    const double u = field.velocity[at(piece.cell)].x + dot(gradient.row[0], off);
    const double p = sampler.value_in(piece.cell, field.pressure, piece.middle);
    sum += piece.area * (p + u * u - 2 * viscosity[at(piece.cell)] * gradient.row[0].x);
  });
  return density * sum * (field.half ? 2 : 1);
}

}  // namespace dunefield
