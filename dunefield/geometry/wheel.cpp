#include <dunefield/geometry/wheel.hpp>

#include <Eigen/Dense>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr double largest_fit_error = 0.15;  // a wheel with spokes or lettering still passes, a mirror does not
constexpr double largest_tilt_cos = 0.97;   // |axis . y| below which a body of revolution is no wheel (14 degrees)

}  // namespace

Wheel fit_wheel(const Surface& s, int part) {
  Wheel wheel;
  wheel.part = s.part_names[static_cast<std::size_t>(part)];
  const Box box = bounds(s, part);
  const Vec3 origin = box.centre();
  const double size = norm(box.size()) + 1e-300;
  // For a body of revolution every normal line meets the axis: a . (p x n) + m . n = 0 with the moment m = c x a.
  Eigen::Matrix<double, 6, 6> sum = Eigen::Matrix<double, 6, 6>::Zero();
  double area = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (s.part_of[t] != part) continue;
    const Vec3 s_t = s.area_vector(t), n = unit(s_t), p = (s.centroid(t) - origin) / size, pn = cross(p, n);
    Eigen::Matrix<double, 6, 1> row;
    row << pn.x, pn.y, pn.z, n.x, n.y, n.z;
    sum += norm(s_t) * row * row.transpose();
    area += norm(s_t);
  }
  if (!(area > 0)) return wheel.fit_error = 1, wheel;
  sum /= area;
  const Eigen::Matrix3d aa = sum.topLeftCorner<3, 3>(), am = sum.topRightCorner<3, 3>(), mm = sum.bottomRightCorner<3, 3>();
  const Eigen::Matrix3d m_of_a = -mm.completeOrthogonalDecomposition().solve(am.transpose());
  const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> eigen(aa + am * m_of_a);
  Eigen::Vector3d a = eigen.eigenvectors().col(0);
  if (a.y() < 0) a = -a;
  const Eigen::Vector3d m = m_of_a * a, c = a.cross(m);  // m = c x a, c normal to a
  wheel.axis = {a.x(), a.y(), a.z()};
  const Vec3 on_axis = origin + Vec3{c.x(), c.y(), c.z()} * size;
  double lo = 1e300, hi = -1e300;
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (s.part_of[t] != part) continue;
    for (int k = 0; k < 3; ++k) {
      const Vec3 r = s.corner(t, k) - on_axis;
      const double along = dot(r, wheel.axis);
      lo = std::min(lo, along), hi = std::max(hi, along);
      wheel.radius = std::max(wheel.radius, norm(r - wheel.axis * along));
    }
  }
  wheel.width = hi - lo;
  wheel.centre = on_axis + wheel.axis * (0.5 * (lo + hi));
  // Facets that face along the axis fit any axis: the others decide.
  double error = 0, decisive = 0;
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (s.part_of[t] != part) continue;
    const Vec3 s_t = s.area_vector(t);
    const Vec3 n = unit(s_t);
    const double sine = dot(n, unit(cross(wheel.axis, s.centroid(t) - on_axis)));
    const double weight = norm(s_t) * (1 - std::pow(dot(n, wheel.axis), 2));
    error += weight * sine * sine;
    decisive += weight;
  }
  wheel.fit_error = decisive > 0 ? std::sqrt(error / decisive) : 1;
  return wheel;
}

std::vector<Wheel> find_wheels(const Surface& s) {
  std::vector<Wheel> wheels;
  for (int part = 0; part < static_cast<int>(s.part_names.size()); ++part) {
    const Box box = bounds(s, part);
    if (box.empty()) continue;
    const Vec3 size = box.size();
    const bool round = std::abs(size.x - size.z) < 0.1 * size.z && size.y < 0.9 * size.z;
    const bool near_road = std::abs(box.lo.z) < 0.1 * size.z;
    if (!round || !near_road) continue;
    const Wheel wheel = fit_wheel(s, part);
    if (wheel.fit_error < largest_fit_error && wheel.axis.y > largest_tilt_cos) wheels.push_back(wheel);
  }
  return wheels;
}

Wheel named_wheel(const Surface& s, const std::string& part, const std::string& where) {
  const int number = s.find_part(part);
  if (number < 0) throw InputError("there is no part named '" + part + "'", where, "name one of the vehicle's parts");
  Wheel wheel = fit_wheel(s, number);
  if (wheel.fit_error > 2 * largest_fit_error)
    throw InputError("part '" + part + "' is not a body of revolution, so no axle can be fitted", where, "name the wheel alone as a part");
  return wheel;
}

double wheelbase_of(const std::vector<Wheel>& wheels) {
  if (wheels.size() < 2) return 0;
  double lo = 1e300, hi = -1e300;
  for (const Wheel& w : wheels) lo = std::min(lo, w.centre.x), hi = std::max(hi, w.centre.x);
  return hi - lo > 0.1 * wheels[0].radius ? hi - lo : 0;
}

}  // namespace dunefield
