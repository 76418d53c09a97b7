// What is wrong or unlikely in a run's set-up, all at once.
#pragma once

#include <string>
#include <vector>

#include <dunefield/run/run_setup.hpp>

namespace dunefield {

/// Every fault as a line that says what, where, what to do; warnings and notes go to `findings`.
std::vector<std::string> find_faults(const RunSetup& setup, Findings& findings);
/// Only those that depend on the speed: the shape, which takes longer to look at, has been checked.
std::vector<std::string> find_faults_of_speed(const RunSetup& setup, Findings& findings);

}  // namespace dunefield
