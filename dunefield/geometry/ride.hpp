// Ride height and pitch of the body over its wheels.
#pragma once

#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {

/// Change of the body's height over its wheels, which stay on the road.
struct Ride {
  double front = 0, rear = 0;  ///< up positive, at the foremost and the rearmost axle, m
  double pitch = 0;            ///< nose up, about mid-wheelbase, rad
  bool none() const { return front == 0 && rear == 0 && pitch == 0; }
};

/// Raises and tilts what does not turn; wheels stay where they are.
/// @param surface placed: origin at mid-wheelbase
/// @throw InputError for a pitch, or heights that differ, without two known axles
void apply_ride(Surface& surface, const Ride& ride, const std::vector<Wheel>& wheels,
                const std::string& where);

}  // namespace dunefield
