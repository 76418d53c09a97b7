// Mending on offer: nothing here is needed to mesh a dirty surface, and nothing touches a file.
#pragma once

#include <map>
#include <string>

#include <dunefield/base/findings.hpp>
#include <dunefield/geometry/loops.hpp>
#include <dunefield/geometry/surface.hpp>

namespace dunefield {

struct MendOptions {
  double weld = 0;                        ///< points nearer than that become one, m
  bool drop_doubled = false;              ///< facets that are there twice
  double drop_stray = 0;                  ///< connected pieces with a box diagonal under that, m
  bool orient = false;                    ///< facets turned outward by visibility
  double close_loops = 0;                 ///< loops of open edges under that size (box diagonal), m
  std::map<std::string, double> thicken;  ///< parts that are sheets, and the thickness they get, m
};

/// Does what is asked for, in the order of the fields. @return what was done and where; @throw
/// InputError for an unknown part
Findings mend(Surface& surface, const MendOptions& options);

/// Points nearer to each other than `distance` become one. @return number of points that vanished
std::size_t weld_within(Surface& surface, double distance);
/// Facets over the hole inside a closed loop, as part `part` (made if new).
void close_loop(Surface& surface, const EdgeLoop& loop, const std::string& part);
/// The facets of a part become a closed shell of that thickness, half of it on each side. @throw
/// InputError
void thicken_part(Surface& surface, const std::string& part, double thickness);

}  // namespace dunefield
