#include <dunefield/flow/air_devices.hpp>

#include <algorithm>
#include <cmath>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/flow/flow_state.hpp>
#include <dunefield/mesh/section.hpp>

namespace dunefield {
namespace {

constexpr double heat_capacity = 1006;  // of air at constant pressure, J/(kg K)
constexpr double still = 1e-6;          // m/s: slower air is not divided by

Vec3 face_centre(const FlowMesh& m, std::size_t f) {
  const double w = static_cast<double>(m.weight[f]);
  return m.centre[at(m.below[f])] * w + m.centre[at(m.above[f])] * (1 - w) + m.skew[f];
}

}  // namespace

double PressureCurve::at(double v) const {
  if (points.empty()) return linear * v + quadratic * v * v;
  if (points.size() == 1) return points[0].second;
  std::size_t i = 1;
  while (i + 1 < points.size() && v > points[i].first) ++i;
  const auto& [v0, p0] = points[i - 1];
  const auto& [v1, p1] = points[i];
  return p0 + (p1 - p0) * (v - v0) / (v1 - v0);
}

bool AirDevice::contains(const Vec3& x) const {
  const Vec3 d = x - centre;
  const PlaneAxes face(axis);
  return std::abs(dot(d, axis)) <= depth / 2 && std::abs(dot(d, face.across)) <= width / 2 &&
         std::abs(dot(d, face.up)) <= height / 2;
}

AirDevices::AirDevices(const FlowState& s, const std::vector<AirDevice>& devices) {
  const FlowMesh& m = s.mesh;
  std::vector<int> number(at(m.own));
  for (const AirDevice& device : devices) {
    Own own;
    own.device = device;
    std::fill(number.begin(), number.end(), -1);
    for (int c = 0; c < m.own; ++c)
      if (device.contains(m.centre[at(c)]))
        number[at(c)] = static_cast<int>(own.cells.size()), own.cells.push_back({c, 0, 0});
    std::vector<std::vector<Term>> terms(own.cells.size());
    double sums[2] = {0, 0};  // volume; area of the face that looks along the axis
    const auto inside = [&](int c) { return c < m.own && number[at(c)] >= 0; };
    const auto add = [&](int c, int face, bool boundary, const Vec3& centre, double sign) {
      if (inside(c))
        terms[at(number[at(c)])].push_back(
            {face, boundary, sign * dot(centre - m.centre[at(c)], device.axis)});
    };
    for (std::size_t f = 0; f < m.faces(); ++f) {
      const Vec3 x = face_centre(m, f);
      add(m.below[f], static_cast<int>(f), false, x, 1);
      add(m.above[f], static_cast<int>(f), false, x, -1);
      // Outward faces of the whole device: whether a halo cell is in it is told by its centre.
      const double through = dot(m.area[f], device.axis);
      const bool below = device.contains(m.centre[at(m.below[f])]),
                 above = device.contains(m.centre[at(m.above[f])]);
      if (m.below[f] < m.own && below && !above) sums[1] += std::max(through, 0.0);
      if (m.above[f] < m.own && above && !below) sums[1] += std::max(-through, 0.0);
    }
    for (std::size_t i = 0; i < m.boundary_faces.size(); ++i) {
      const auto& b = m.boundary_faces[i];
      add(b.cell, static_cast<int>(i), true, b.centre, 1);
    }
    for (std::size_t i = 0; i < own.cells.size(); ++i) {
      own.cells[i].first = own.terms.size();
      own.terms.insert(own.terms.end(), terms[i].begin(), terms[i].end());
      own.cells[i].end = own.terms.size();
      sums[0] += m.volume[at(own.cells[i].cell)];
    }
    s.comm.sum(std::span(sums));
    own.volume = sums[0], own.area = sums[1];
    if (!(own.volume > 0 && own.area > 0))
      throw InputError("lies in no air, or is thinner than a cell", "device '" + device.name + "'",
                       "check its place and size");
    own.depth = own.volume / own.area;
    devices_.push_back(std::move(own));
  }
}

double AirDevices::through(const FlowState& s, const Own& own, std::size_t i) {
  const Cell& cell = own.cells[i];
  double sum = 0;
  for (std::size_t k = cell.first; k < cell.end; ++k) {
    const Term& t = own.terms[k];
    sum += t.weight * (t.boundary ? s.boundary_flux[at(t.face)] : s.flux[at(t.face)]);
  }
  return sum / s.mesh.volume[at(cell.cell)];
}

double AirDevices::volume_of(const FlowState& s, int cell) { return s.mesh.volume[at(cell)]; }

double AirDevices::push(const FlowState& s, const Own& own, double v) {
  const double per = 1 / (own.depth * s.flow_case.air.density);
  if (own.device.is_fan) return own.device.curve.at(std::max(v, 0.0)) * per;
  return -std::copysign(own.device.curve.at(std::abs(v)), v) * per;
}

std::pair<double, double> AirDevices::resistances(const FlowState& s, const Own& own, double v) {
  // The slope of the curve: what a change of velocity meets.
  const double dv = std::max(0.01 * std::abs(v), 0.01);
  const double slope = std::max(0.0, -(push(s, own, v + dv) - push(s, own, v)) / dv);
  if (own.device.is_fan) return {slope, 0};
  const double secant = std::abs(push(s, own, v)) / std::max(std::abs(v), still);
  return {std::max(slope, secant), own.device.off_axis * secant};
}

Vec3 AirDevices::force_on_air(const FlowState& s, const Own& own, std::size_t i) const {
  const int c = own.cells[i].cell;
  const Vec3& axis = own.device.axis;
  const double v = through(s, own, i);
  Vec3 f = axis * push(s, own, v);
  const double across = resistances(s, own, v).second;
  f -= (s.u[at(c)] - axis * dot(s.u[at(c)], axis)) * across;
  return f * s.mesh.volume[at(c)];
}

void AirDevices::add_forces(const FlowState& s, std::vector<Vec3>& force) const {
  for (const Own& d : devices_)
    for (std::size_t i = 0; i < d.cells.size(); ++i)
      force[at(d.cells[i].cell)] += force_on_air(s, d, i);
}

std::vector<DeviceFigures> AirDevices::figures(const FlowState& s) const {
  std::vector<DeviceFigures> all;
  const double rho = s.flow_case.air.density;
  for (const Own& d : devices_) {
    double sums[6] = {};  // of velocity, its square, pressure change (all by volume), force
    for (std::size_t i = 0; i < d.cells.size(); ++i) {
      const double volume = s.mesh.volume[at(d.cells[i].cell)], v = through(s, d, i);
      const Vec3 f = force_on_air(s, d, i);
      sums[0] += volume * v, sums[1] += volume * v * v;
      sums[2] += volume * push(s, d, v) * d.depth * rho;
      for (int k = 0; k < 3; ++k) sums[3 + k] -= rho * f[k];
    }
    s.comm.sum(std::span(sums));
    const double mean = sums[0] / d.volume;
    all.push_back({d.device.name,
                   rho * mean * d.area,
                   mean,
                   std::sqrt(std::max(0.0, sums[1] / d.volume - mean * mean)),
                   sums[2] / d.volume,
                   {sums[3], sums[4], sums[5]},
                   d.area,
                   heat_capacity * rho * mean * d.area * d.device.warming});
  }
  return all;
}

}  // namespace dunefield
