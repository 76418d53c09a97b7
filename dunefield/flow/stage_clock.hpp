// Where the time of an iteration goes.
#pragma once

#include <array>
#include <chrono>
#include <cstddef>
#include <utility>

#include <dunefield/base/index.hpp>

namespace dunefield {

enum class Stage {
  other,
  gradients,
  walls,
  momentum_assembly,
  momentum_solve,
  fluxes,
  pressure_assembly,
  multigrid_refresh,
  pressure_solve,
  correction,
  turbulence
};
constexpr std::array stage_names = {"other",
                                    "gradients",
                                    "walls",
                                    "momentum assembly",
                                    "momentum solve",
                                    "fluxes",
                                    "pressure assembly",
                                    "multigrid refresh",
                                    "pressure solve",
                                    "correction",
                                    "turbulence"};

/// Wall-clock seconds by stage on one rank. A stage inside another is counted by itself only.
class StageClock {
 public:
  /// The stage lasts until the scope ends; then the one before goes on.
  class Scope {
   public:
    Scope(StageClock& clock, Stage stage) : clock_(clock), before_(clock.switch_to(stage)) {}
    ~Scope() { clock_.switch_to(before_); }
    Scope(const Scope&) = delete;
    Scope& operator=(const Scope&) = delete;

   private:
    StageClock& clock_;
    Stage before_;
  };

  double seconds(Stage stage) const { return seconds_[at(stage)]; }

 private:
  using Clock = std::chrono::steady_clock;

  Stage switch_to(Stage stage) {
    const auto now = Clock::now();
    seconds_[at(now_)] += std::chrono::duration<double>(now - since_).count();
    since_ = now;
    return std::exchange(now_, stage);
  }

  std::array<double, stage_names.size()> seconds_{};
  Stage now_ = Stage::other;
  Clock::time_point since_ = Clock::now();
};

}  // namespace dunefield
