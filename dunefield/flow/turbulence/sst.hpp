// The k-omega SST model (Menter, Kuntz, Langtry 2003), with sustaining terms for the stream
// (Spalart and Rumsey 2007).
#pragma once

#include <dunefield/flow/turbulence/two_equations.hpp>

namespace dunefield {

class Sst : public TwoEquations {
 public:
  /// @param resolves large eddies, once the flow is one in time (iddes.hpp)
  Sst(FlowState& state, bool resolves);

  void update_eddy_viscosity() override;

 private:
  /// F1, the cross diffusion and the diffusivities of both equations.
  void prepare() override;
  double wall_value(std::size_t cell, double y, double scale) const override;
  void add_sources(double courant) override;

  double mean_of_square(std::size_t cell) const;
  /// How much of the turbulence is the model's, and what that takes from k.
  void find_scales();

  const bool resolves_;
  std::vector<double> largest_edge_;  ///< of own cells, m; where eddies are resolved
  std::vector<double> destruction_;   ///< of k over that of SST; empty: one
  std::vector<double> f1_, cross_;
  std::vector<double> height_;  ///< of own cells, over their distance from the wall, 1 at most
};

}  // namespace dunefield
