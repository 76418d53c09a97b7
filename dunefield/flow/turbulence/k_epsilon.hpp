// k-epsilon models: standard (Launder and Spalding 1974) and realizable (Shih, Liou, Shabbir, Yang,
// Zhu 1995), both with the one-equation model of Wolfshtein (1969) near walls, blended as by Jongen
// (1998), and the stream's turbulence sustained.
#pragma once

#include <dunefield/flow/turbulence/two_equations.hpp>

namespace dunefield {

class KEpsilon : public TwoEquations {
 public:
  KEpsilon(FlowState& state, bool realizable);

  void update_eddy_viscosity() override;

 private:
  void prepare() override;
  double wall_value(std::size_t cell, double y, double scale) const override;
  void add_sources(double courant) override;
  /// C_mu: constant, or that of the realizable model.
  double c_mu(std::size_t cell) const;
  double wall_reynolds(std::size_t cell) const;

  bool realizable_;
};

}  // namespace dunefield
