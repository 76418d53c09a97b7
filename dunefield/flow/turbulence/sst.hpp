// The k-omega SST model (Menter, Kuntz, Langtry 2003), with sustaining terms for the stream
// (Spalart and Rumsey 2007).
#pragma once

#include <dunefield/flow/turbulence/k_omega.hpp>

namespace dunefield {

class Sst : public KOmega {
 public:
  /// @param resolves large eddies, once the flow is one in time (iddes.hpp)
  Sst(FlowState& state, bool resolves);

  void update_eddy_viscosity() override;

 private:
  /// F1, the cross diffusion and the diffusivities of both equations.
  void prepare() override;
  void add_sources(double courant) override;

  /// How much of the turbulence is the model's, and what that takes from k.
  void find_scales();

  const bool resolves_;
  std::vector<double> largest_edge_;  ///< of own cells, m; where eddies are resolved
  std::vector<double> destruction_;   ///< of k over that of SST; empty: one
  std::vector<double> f1_, cross_;
};

}  // namespace dunefield
