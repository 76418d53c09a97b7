// Ctrl-C and time limits.
#include <atomic>
#include <chrono>
#include <csignal>
#include <ctime>
#include <optional>

#include "commands.hpp"

#include <dunefield/base/error.hpp>
#include <dunefield/base/units.hpp>

namespace dunefield::tool {
namespace {

std::atomic<int> interrupts{0};
std::optional<std::chrono::steady_clock::time_point> deadline;

}  // namespace

bool stop_requested() {
  return interrupts > 0 || (deadline && std::chrono::steady_clock::now() > *deadline);
}

void set_time_limit(const std::string& limit) {
  if (limit.empty()) return;
  const double seconds = parse_quantity(limit, Dimension::time, "--time-limit");
  if (!(seconds > 0))
    throw InputError("'" + limit + "' is no time to run", "--time-limit",
                     "write a time like \"90 min\"");
  deadline = std::chrono::steady_clock::now() +
             std::chrono::duration_cast<std::chrono::steady_clock::duration>(
                 std::chrono::duration<double>(seconds));
}

void catch_interrupt() {
  const auto handler = [](int signal) {
    // A second Ctrl-C means now. Launchers may deliver one twice, so that it counts only after a
    // moment.
    static std::atomic<std::time_t> first{0};
    const std::time_t now = std::time(nullptr);
    if (++interrupts == 1) {
      first = now;
    } else if (now > first + 1) {
      std::signal(signal, SIG_DFL);
      std::raise(signal);
    }
  };
  std::signal(SIGINT, handler);
  std::signal(SIGTERM, handler);
  // A terminal that is closed, and a reader that is gone, end no run with its results unsaved.
  // Under nohup the run goes on.
  if (std::signal(SIGHUP, handler) == SIG_IGN) std::signal(SIGHUP, SIG_IGN);
  std::signal(SIGPIPE, SIG_IGN);
}

}  // namespace dunefield::tool
