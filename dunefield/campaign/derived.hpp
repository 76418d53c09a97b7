// What follows from a run's figures: built in, by formulas of the user, and over a round.
#pragma once

#include <string>
#include <vector>

#include <dunefield/campaign/comparison.hpp>

namespace dunefield {

/// A formula of the user, as muparser reads it. Its variables are CD, CL, CLF, CLR, CY; drag, lift,
/// side (N); speed (m/s), area (m2), length (m), density (kg/m3), q (Pa); CD_of("part") and
/// CL_of("part") are those of a part.
struct Formula {
  std::string name, formula, unit;
};

struct DerivedFigure {
  std::string name, unit;
  double value = 0,
         half_interval = 0;  ///< 95 %, from those of CD, CLF and CLR, taken as independent
};

/// Drag area, power to push through the air, lift over drag, front share of the lift (where there
/// is any to speak of, of one sign on both axles).
std::vector<DerivedFigure> built_in_figures(const Figures& run);

/// @throw InputError that names the formula for what is no formula, a part that the run has not,
/// and a value that is not finite
DerivedFigure derived(const Figures& run, const Formula& formula, const std::string& where);
/// The same with made-up figures, to find faults before anything is run; parts are not known then.
void check_formula(const Formula& formula, const std::string& where);

/// What a run's coefficients give at another speed.
struct AtSpeed {
  double speed = 0, reynolds = 0;                ///< on the reference length
  double cd = 0, cl = 0;                         ///< between those of the speeds that were run
  double drag = 0, lift = 0, power = 0;          ///< N, W
  double least_reynolds = 0, most_reynolds = 0;  ///< that were run
  bool within() const { return reynolds >= least_reynolds && reynolds <= most_reynolds; }
};
/// Coefficients between two runs are straight in the logarithm of the Reynolds number; beyond the
/// last they stay. @param runs of one variant in the same air, at least one; viscosity m2/s
AtSpeed at_speed(std::vector<Figures> runs, double speed, double kinematic_viscosity);

/// A way to go, in stretches of one speed each.
struct Round {
  struct Leg {
    double speed = 0, length = 0;  ///< m/s, m
  };
  std::string name;
  std::vector<Leg> legs;
  double mass = 0;                ///< kg; 0: the air's resistance alone
  double rolling_resistance = 0;  ///< force over weight
  double efficiency = 1;          ///< of the drive, from battery or tank to the wheel
  std::string fuel{};             ///< "petrol", "diesel", "hydrogen"; empty: charge
  double length() const;
};

/// Lower heating value, J, of a litre of petrol or diesel, of a kilogram of hydrogen, and that
/// unit's name.
struct Fuel {
  double heat = 0;
  const char* unit = "";
};
/// @throw InputError for other fuels
Fuel fuel_named(const std::string& name);

/// Energy for a round, from battery or tank.
struct RoundEnergy {
  double energy = 0, of_air = 0;  ///< J; of which against the air
  double half_interval = 0;       ///< J, of the air's part
  /// Legs whose speed was not run: drag is that of the nearest speed that was, with the square
  std::vector<double> assumed_speeds;
};

/// @param runs of one variant, at least one. @throw InputError for none
RoundEnergy energy_of(const Round& round, const std::vector<Figures>& runs);

/// A variant on a round, and what it takes more than the baseline (J).
struct RoundRow {
  std::string variant;
  RoundEnergy energy;
  std::optional<Difference> more;  ///< none for the baseline, and without one
};
/// Variants in the order of the rows. The uncertainty of a difference is that of the difference of
/// drag at each leg's speed. @param comparisons at some speeds, with the same settings
std::vector<RoundRow> over_round(const Round& round, const std::vector<Comparison>& comparisons,
                                 const std::string& baseline);

}  // namespace dunefield
