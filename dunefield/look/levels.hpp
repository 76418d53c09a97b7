// Lines of equal value on a sheet, with their labels.
#pragma once

#include <dunefield/look/scene.hpp>

namespace dunefield {

/// Lines at these levels, linked over the triangles they pass.
Bundle level_lines(const Sheet& sheet, const std::vector<double>& levels);

/// Where a sheet meets a plane, with the sheet's values along it.
Bundle sheet_section(const Sheet& sheet, const Vec3& point, const Vec3& normal);

/// A word on each line that is long enough, and again along very long ones.
/// @param least length of a line that gets one, m
std::vector<Mark> level_labels(const Bundle& lines, double least);

}  // namespace dunefield
