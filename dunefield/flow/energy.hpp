// The energy equation of fast air, for the total enthalpy H = cp T + u^2 / 2.
#pragma once

#include <dunefield/flow/turbulence/scalar_transport.hpp>

namespace dunefield {

/// Heat and the work of shear are both taken along by the gradient of H, as they are where the
/// Prandtl numbers are near one (Busemann and Crocco, in White 2006): without heat through walls H
/// stays that of the stream, and stagnation temperatures are exact.
class Energy {
 public:
  explicit Energy(FlowState& state);
  void solve(double courant);

 private:
  /// Walls of a given heat flux, or of a given temperature by the analogy of heat and friction
  /// (Reynolds 1874).
  void add_walls();

  FlowState& s_;
  ScalarTransport<1> transport_;
  std::vector<double> wall_source_, wall_rate_;
};

}  // namespace dunefield
