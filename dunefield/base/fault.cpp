#include <dunefield/base/fault.hpp>

#include <atomic>
#include <csignal>
#include <cstdlib>
#include <fstream>
#include <string>

namespace dunefield {
namespace {

struct Plan {
  bool kill = false;
  long at = 0;           ///< 0: never
  std::string count_to;  ///< file; empty: none
  std::atomic<long> calls{0};

  Plan() {
    const char* text = std::getenv("DUNEFIELD_FAULT");
    const std::string words = text ? text : "";
    const std::string number = words.substr(std::min<std::size_t>(5, words.size()));
    if (words.starts_with("kill:") || words.starts_with("fail:"))
      kill = words[0] == 'k', at = std::atol(number.c_str());
    else if (words.starts_with("count:"))
      count_to = words.substr(6);
  }
  ~Plan() {
    if (!count_to.empty()) std::ofstream(count_to) << calls << "\n";
  }
};

}  // namespace

bool fault_here() {
  static Plan plan;
  if (plan.at == 0 && plan.count_to.empty()) return false;
  const long call = ++plan.calls;
  if (call != plan.at) return false;
  if (plan.kill) std::raise(SIGKILL);
  return true;
}

}  // namespace dunefield
