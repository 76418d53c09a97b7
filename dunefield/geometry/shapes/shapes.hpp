// Shapes without CAD: closed, outward oriented surfaces of one part each.
#pragma once

#include <array>
#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// A skin through closed rings of equally many points, the two end rings closed by fans about their
/// mean point. The triangles are turned outward whichever way the rings run.
/// @throw InputError for fewer than two rings, or rings of differing or too small length
Surface loft(const std::string& part, const std::vector<std::vector<Vec3>>& rings);

/// A body of revolution about the axis `direction` through `centre`.
/// @param profile pairs (along the axis, radius), in order; a radius of 0 at both ends closes it,
/// else the ends get flat caps
/// @param segments points around
Surface revolve(const std::string& part, const std::vector<std::array<double, 2>>& profile,
                const Vec3& centre, const Vec3& direction, int segments);

/// A box with all edges rounded (radius 0: sharp edges, two triangles a side).
/// @param per_quarter segments on a quarter circle of the rounding
Surface rounded_box(const std::string& part, const Box& box, double radius, int per_quarter = 6);

/// A cylinder with flat ends about the axis from `from` to `to`.
Surface cylinder(const std::string& part, const Vec3& from, const Vec3& to, double radius,
                 int segments = 48);

/// A plate: a polyline (at least two points), moved by `extrusion`, with a thickness, half of it on
/// each side.
/// @throw InputError
Surface plate(const std::string& part, const std::vector<Vec3>& line, const Vec3& extrusion,
              double thickness);

/// The surface mirrored at the plane y = 0, still outward.
Surface mirrored(const Surface& surface);

/// A sphere as a body of revolution.
Surface sphere(const std::string& part, const Vec3& centre, double radius, int segments);

}  // namespace dunefield
