#include <dunefield/geometry/wheels/wheel.hpp>

#include <optional>
#include <set>

#include <fmt/format.h>
#include <Eigen/Dense>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

// a wheel with spokes or lettering still passes, a mirror does not
constexpr double largest_fit_error = 0.15;
// |axis . y| below which a body of revolution is no wheel (14 degrees)
constexpr double largest_tilt_cos = 0.97;

constexpr double largest_slip = 0.05;  // between tread and road, of the road's speed

Box box_of(const Surface& s, const std::vector<int>& triangles) {
  Box box;
  for (const int t : triangles)
    for (int k = 0; k < 3; ++k) box.include(s.corner(static_cast<std::size_t>(t), k));
  return box;
}

/// Round seen from the side, not wider than high, and down to the road.
bool may_be_wheel(const Box& box, double road) {
  if (box.empty()) return false;
  const Vec3 size = box.size();
  return std::abs(size.x - size.z) < 0.1 * size.z && size.y < 0.9 * size.z &&
         std::abs(box.lo.z - road) < 0.1 * size.z;
}

bool is_wheel(const Wheel& wheel) {
  return wheel.fit_error < largest_fit_error && wheel.axis.y > largest_tilt_cos;
}

/// A piece that turns with the wheel: about the same axle, within its cylinder.
bool turns_inside(const Box& box, const Wheel& wheel) {
  if (box.empty()) return false;
  const Vec3 r = box.centre() - wheel.centre;
  const double along = dot(r, wheel.axis),
               half = 0.5 * norm(Vec3{box.size().x, 0, box.size().z}) / std::sqrt(2.0);
  return std::abs(along) < 0.6 * wheel.width && norm(r - wheel.axis * along) < 0.1 * wheel.radius &&
         half < wheel.radius && box.size().y < 1.4 * wheel.width;
}

/// All of it within the wheel's cylinder: spokes, nuts.
bool lies_inside(const Surface& s, const std::vector<int>& piece, const Wheel& wheel) {
  constexpr double slack = 1.01;
  for (const int t : piece)
    for (int k = 0; k < 3; ++k) {
      const Vec3 r = s.corner(at(t), k) - wheel.centre;
      const double along = dot(r, wheel.axis);
      if (std::abs(along) > 0.5 * slack * wheel.width ||
          norm(r - wheel.axis * along) > slack * wheel.radius)
        return false;
    }
  return true;
}

/// "wheel front left", "wheel axle 2 right", "wheel rear" for one in the middle.
std::string place_name(const Wheel& wheel, const std::vector<Wheel>& all) {
  std::vector<double> axles;
  for (const Wheel& w : all) axles.push_back(w.centre.x);
  std::sort(axles.begin(), axles.end());
  axles.erase(std::unique(axles.begin(), axles.end(),
                          [&](double a, double b) { return b - a < 0.3 * wheel.radius; }),
              axles.end());
  std::size_t axle = 0;
  while (axle + 1 < axles.size() && wheel.centre.x > axles[axle] + 0.3 * wheel.radius) ++axle;
  std::string name = axles.size() == 2 ? (axle ? "wheel rear" : "wheel front")
                                       : fmt::format("wheel axle {}", axle + 1);
  double lo = 1e300, hi = -1e300;
  for (const Wheel& w : all) lo = std::min(lo, w.centre.y), hi = std::max(hi, w.centre.y);
  const double aside = wheel.centre.y - 0.5 * (lo + hi);
  if (std::abs(aside) > 0.25 * wheel.radius) name += aside < 0 ? " left" : " right";
  return name;
}

}  // namespace

Wheel fit_wheel(const Surface& s, int part) {
  std::vector<int> own;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.part_of[t] == part) own.push_back(static_cast<int>(t));
  Wheel wheel = fit_wheel(s, own);
  wheel.part = s.part_names[at(part)];
  return wheel;
}

Wheel fit_wheel(const Surface& s, const std::vector<int>& triangles) {
  Wheel wheel;
  const Box box = box_of(s, triangles);
  const Vec3 origin = box.centre();
  const double size = norm(box.size()) + 1e-300;
  // For a body of revolution every normal line meets the axis: a . (p x n) + m . n = 0 with the
  // moment m = c x a.
  Eigen::Matrix<double, 6, 6> sum = Eigen::Matrix<double, 6, 6>::Zero();
  double area = 0;
  for (const int number : triangles) {
    const auto t = static_cast<std::size_t>(number);
    const Vec3 s_t = s.area_vector(t), n = unit(s_t), p = (s.centroid(t) - origin) / size,
               pn = cross(p, n);
    Eigen::Matrix<double, 6, 1> row;
    row << pn.x, pn.y, pn.z, n.x, n.y, n.z;
    sum += norm(s_t) * row * row.transpose();
    area += norm(s_t);
  }
  if (!(area > 0)) return wheel.fit_error = 1, wheel;
  sum /= area;
  const Eigen::Matrix3d aa = sum.topLeftCorner<3, 3>(), am = sum.topRightCorner<3, 3>(),
                        mm = sum.bottomRightCorner<3, 3>();
  const Eigen::Matrix3d m_of_a = -mm.completeOrthogonalDecomposition().solve(am.transpose());
  const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> eigen(aa + am * m_of_a);
  Eigen::Vector3d a = eigen.eigenvectors().col(0);
  if (a.y() < 0) a = -a;
  const Eigen::Vector3d m = m_of_a * a, c = a.cross(m);  // m = c x a, c normal to a
  wheel.axis = {a.x(), a.y(), a.z()};
  const Vec3 on_axis = origin + Vec3{c.x(), c.y(), c.z()} * size;
  double lo = 1e300, hi = -1e300;
  for (const int number : triangles) {
    const auto t = static_cast<std::size_t>(number);
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
  for (const int number : triangles) {
    const auto t = static_cast<std::size_t>(number);
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

namespace {

/// The wheel that some facets are with all that lies inside of it, if they are one: a tyre decides,
/// open rims and their spokes are no bodies of revolution.
std::optional<Wheel> wheel_of(const Surface& s, const std::vector<int>& members, double road) {
  if (Wheel whole = fit_wheel(s, members); is_wheel(whole)) return whole;
  std::vector<char> left_out(s.size(), 1);
  for (const int t : members) left_out[at(t)] = 0;
  const Pieces pieces = connected_pieces(s, left_out);
  std::vector<std::vector<int>> of_piece(at(pieces.count));
  for (const int t : members) of_piece[at(pieces.of_triangle[at(t)])].push_back(t);
  for (const std::vector<int>& piece : of_piece) {
    if (piece.size() < 24 || !may_be_wheel(box_of(s, piece), road)) continue;
    const Wheel tyre = fit_wheel(s, piece);
    if (is_wheel(tyre) &&
        std::all_of(of_piece.begin(), of_piece.end(),
                    [&](const std::vector<int>& other) { return lies_inside(s, other, tyre); }))
      return tyre;
  }
  return std::nullopt;
}

}  // namespace

std::vector<Wheel> find_wheels(const Surface& s) {
  std::vector<Wheel> wheels;
  const double road = bounds(s).lo.z;
  std::vector<Box> boxes(s.part_names.size());
  for (std::size_t t = 0; t < s.size(); ++t)
    for (int k = 0; k < 3; ++k) boxes[at(s.part_of[t])].include(s.corner(t, k));
  std::vector<std::vector<int>> members(boxes.size());
  for (std::size_t t = 0; t < s.size(); ++t)
    if (const auto part = static_cast<std::size_t>(s.part_of[t]); may_be_wheel(boxes[part], road))
      members[part].push_back(static_cast<int>(t));
  for (std::size_t part = 0; part < members.size(); ++part) {
    if (members[part].empty()) continue;
    auto wheel = wheel_of(s, members[part], road);
    if (!wheel) continue;
    wheel->part = s.part_names[part];
    wheels.push_back(*wheel);
  }
  return wheels;
}

Findings separate_wheels(Surface& s) {
  Findings findings;
  const double road = bounds(s).lo.z;
  std::set<int> done;  // parts that are wheels as they are
  for (const Wheel& w : find_wheels(s)) done.insert(s.find_part(w.part));
  const Pieces pieces = connected_pieces(s);
  std::vector<Box> boxes(static_cast<std::size_t>(pieces.count));
  for (std::size_t t = 0; t < s.size(); ++t)
    if (!done.count(s.part_of[t]))
      for (int k = 0; k < 3; ++k) boxes[at(pieces.of_triangle[t])].include(s.corner(t, k));
  if (std::none_of(boxes.begin(), boxes.end(), [&](const Box& b) { return may_be_wheel(b, road); }))
    return findings;
  std::vector<std::vector<int>> members(boxes.size());
  for (std::size_t t = 0; t < s.size(); ++t)
    if (!done.count(s.part_of[t]))
      members[at(pieces.of_triangle[t])].push_back(static_cast<int>(t));
  std::vector<std::pair<Wheel, std::vector<int>>> found;
  for (std::size_t i = 0; i < members.size(); ++i) {
    const auto& own = members[i];
    if (own.size() < 24 || !may_be_wheel(boxes[i], road)) continue;
    const Wheel wheel = fit_wheel(s, own);
    if (is_wheel(wheel)) found.push_back({wheel, own});
  }
  for (auto& [wheel, own] : found)
    for (std::size_t i = 0; i < members.size(); ++i) {
      if (members[i].empty() || members[i][0] == own[0]) continue;
      // Of another part only what is as round as the wheel turns with it: a brake does not.
      const bool same_part = s.part_of[at(members[i][0])] == s.part_of[at(own[0])];
      if (turns_inside(boxes[i], wheel) || (same_part && lies_inside(s, members[i], wheel)))
        own.insert(own.end(), members[i].begin(), members[i].end());
    }
  std::vector<Wheel> all = find_wheels(s);
  for (const auto& f : found) all.push_back(f.first);
  for (const auto& [wheel, own] : found) {
    const std::string from = s.part_names[at(s.part_of[at(own[0])])];
    std::string name = place_name(wheel, all);
    for (int n = 2; s.find_part(name) >= 0; ++n)
      name = place_name(wheel, all) + " " + std::to_string(n);
    for (const int t : own) s.part_of[at(t)] = static_cast<int>(s.part_names.size());
    s.part_names.push_back(name);
    findings.note(fmt::format(
        "a wheel was found in part '{}' at x = {:.3f}, y = {:.3f} m and is now part '{}'", from,
        wheel.centre.x, wheel.centre.y, name));
  }
  return findings;
}

void cut_out_wheel(Surface& s, Wheel& wheel, const std::string& from_part,
                   const std::string& where) {
  if (wheel.axis.y < 0) wheel.axis = -wheel.axis;
  wheel.axis = unit(wheel.axis);
  if (wheel.axis.y < largest_tilt_cos)
    throw InputError("the axis of wheel '" + wheel.part + "' does not lie across the vehicle",
                     where, "write it near [0, 1, 0]");
  const int from = from_part.empty() ? -1 : s.find_part(from_part);
  if (!from_part.empty() && from < 0)
    throw InputError("there is no part named '" + from_part + "'", where,
                     "name one of the vehicle's parts");
  if (s.find_part(wheel.part) >= 0 && wheel.part != from_part)
    throw InputError("there is already a part named '" + wheel.part + "'", where,
                     "give the wheel another name");
  std::vector<std::size_t> own;
  const double reach = 1.01 * wheel.radius, half = 0.505 * wheel.width;
  for (std::size_t t = 0; t < s.size(); ++t) {
    if (from >= 0 && s.part_of[t] != from) continue;
    bool within = true;
    for (int k = 0; k < 3; ++k) {
      const Vec3 r = s.corner(t, k) - wheel.centre;
      const double along = dot(r, wheel.axis);
      within = within && std::abs(along) <= half && norm(r - wheel.axis * along) <= reach;
    }
    if (within) own.push_back(t);
  }
  if (own.empty())
    throw InputError("no facets lie in the cylinder given for wheel '" + wheel.part + "'", where,
                     "check its centre, radius and width with inspect");
  int part = s.find_part(wheel.part);
  if (part < 0) part = static_cast<int>(s.part_names.size()), s.part_names.push_back(wheel.part);
  for (const std::size_t t : own) s.part_of[t] = part;
}

double tread_speed(const Wheel& wheel, const Vec3& spin) {
  return cross(spin, {0, 0, -wheel.loaded_radius()}).x;
}

void check_spin(const Wheel& wheel, const Vec3& spin, double road_speed, const std::string& where) {
  const double speed = tread_speed(wheel, spin);
  if (road_speed > 0 && speed < 0)
    throw InputError(
        fmt::format(
            "wheel '{}' would turn backwards: its tread at the road moves forward at {:.2f} m/s",
            wheel.part, -speed),
        where, "check nose and axis");
  if (std::abs(speed - road_speed) > largest_slip * std::abs(road_speed))
    throw InputError(fmt::format("the tread of wheel '{}' moves at {:.2f} m/s where it meets the "
                                 "road, but the road at {:.2f} m/s",
                                 wheel.part, speed, road_speed),
                     where, "check its centre's height and its axis");
}

Wheel named_wheel(const Surface& s, const std::string& part, const std::string& where) {
  const int number = s.find_part(part);
  if (number < 0)
    throw InputError("there is no part named '" + part + "'", where,
                     "name one of the vehicle's parts");
  std::vector<int> members;
  for (std::size_t t = 0; t < s.size(); ++t)
    if (s.part_of[t] == number) members.push_back(static_cast<int>(t));
  Wheel wheel = wheel_of(s, members, bounds(s).lo.z).value_or(fit_wheel(s, members));
  wheel.part = part;
  if (wheel.fit_error > 2 * largest_fit_error)
    throw InputError("part '" + part + "' is not a body of revolution, so no axle can be fitted",
                     where, "name the wheel alone as a part");
  return wheel;
}

bool meets_road(const Wheel& wheel) {
  return std::abs(wheel.radius / wheel.loaded_radius() - 1) <= largest_slip;
}

double wheelbase_of(const std::vector<Wheel>& wheels) {
  if (wheels.size() < 2) return 0;
  double lo = 1e300, hi = -1e300;
  for (const Wheel& w : wheels) lo = std::min(lo, w.centre.x), hi = std::max(hi, w.centre.x);
  return hi - lo > 0.1 * wheels[0].radius ? hi - lo : 0;
}

}  // namespace dunefield
