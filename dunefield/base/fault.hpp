// Faults on purpose, for tests: the process dies, or the call fails, at a chosen change of a file.
#pragma once

namespace dunefield {

/// Called before each write, sync and rename of a file that a result consists of. The variable
/// DUNEFIELD_FAULT of the environment, "kill:N" or "fail:N", chooses the Nth call of the process;
/// "count:FILE" writes at its end how many there were. Without it nothing happens.
/// @return true if the call is to fail
bool fault_here();

}  // namespace dunefield
