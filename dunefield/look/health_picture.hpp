// The health report as a picture: the vehicle from two sides with what was found marked on it.
#pragma once

#include <filesystem>

#include <dunefield/geometry/health/health.hpp>

namespace dunefield {

/// @throw OutputError
void draw_health(const std::filesystem::path& file, const Surface& surface,
                 const HealthReport& report, const std::vector<Wheel>& wheels,
                 const std::string& title);

}  // namespace dunefield
