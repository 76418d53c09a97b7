#include <dunefield/geometry/ride.hpp>

#include <dunefield/base/error.hpp>

namespace dunefield {

void apply_ride(Surface& s, const Ride& ride, const std::vector<Wheel>& wheels,
                const std::string& where) {
  if (ride.none()) return;
  const double wheelbase = wheelbase_of(wheels);
  if (!(wheelbase > 0) && (ride.front != ride.rear || ride.pitch != 0))
    throw InputError("a pitch or ride heights need two axles, but they are not known", where,
                     "name the wheels");
  double front_axle = 1e300;
  for (const Wheel& w : wheels) front_axle = std::min(front_axle, w.centre.x);
  const double heave = 0.5 * (ride.front + ride.rear),
               nose_up =
                   ride.pitch + (wheelbase > 0 ? std::atan2(ride.front - ride.rear, wheelbase) : 0);
  const Vec3 middle{wheelbase > 0 ? front_axle + 0.5 * wheelbase : 0, 0, 0};
  std::vector<char> stays(s.points.size(), 0);
  for (const Wheel& w : wheels)
    for (std::size_t t = 0; t < s.size(); ++t)
      if (s.part_names[at(s.part_of[t])] == w.part)
        for (const int c : s.triangles[t]) stays[at(c)] = 1;
  Surface moved = s;
  rotate(moved, middle, {0, 1, 0}, nose_up);
  translate(moved, {0, 0, heave});
  for (std::size_t i = 0; i < s.points.size(); ++i)
    if (!stays[i]) s.points[i] = moved.points[i];
}

}  // namespace dunefield
