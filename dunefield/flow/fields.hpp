// The physical fields. Each is declared here, once: saving, restoring, gathering, mapping, scaling,
// writing and halo exchange follow from its entry.
#pragma once

#include <cmath>
#include <tuple>
#include <vector>

#include <dunefield/base/vec.hpp>
#include <dunefield/flow/conditions.hpp>

namespace dunefield {

/// One value a cell: of a rank's share, or of the whole mesh. What the turbulence model does not
/// have is empty.
struct Fields {
  std::vector<Vec3> u;           ///< velocity
  std::vector<double> p;         ///< pressure over density
  std::vector<double> k;         ///< turbulence energy
  std::vector<double> omega;     ///< its specific dissipation
  std::vector<double> epsilon;   ///< its dissipation
  std::vector<double> nu_tilde;  ///< quantity of Spalart and Allmaras
  std::vector<double> nu_t;      ///< eddy viscosity
  // Of fast air only:
  std::vector<double> enthalpy;     ///< total: cp T + u^2 / 2
  std::vector<double> temperature;  ///< K
  std::vector<double> density;      ///< over the undisturbed stream's
};

template <class T>
struct Field {
  const char* name;
  const char* unit;
  int power_of_speed;  ///< of the same flow at another speed
  bool carried;        ///< a run goes on from it; others follow from those
  double at_rest;      ///< value before anything has flowed
  bool (*owned_by)(TurbulenceModel);
  std::vector<T> Fields::*values;
};

namespace field_owner {
inline bool all(TurbulenceModel) { return true; }
inline bool turbulent(TurbulenceModel m) { return m != TurbulenceModel::laminar; }
inline bool with_epsilon(TurbulenceModel m) {
  return traits_of(m).fields == TurbulenceFields::k_epsilon;
}
inline bool with_omega(TurbulenceModel m) {
  return traits_of(m).fields == TurbulenceFields::k_omega;
}
inline bool with_k(TurbulenceModel m) { return with_epsilon(m) || with_omega(m); }
inline bool with_nu_tilde(TurbulenceModel m) {
  return traits_of(m).fields == TurbulenceFields::nu_tilde;
}
/// Not of a model: there if the air is fast.
inline bool fast_air(TurbulenceModel) { return false; }
}  // namespace field_owner

inline constexpr std::tuple field_registry{
    Field<Vec3>{"velocity", "m/s", 1, true, 0, field_owner::all, &Fields::u},
    Field<double>{"pressure over density", "m2/s2", 2, true, 0, field_owner::all, &Fields::p},
    Field<double>{"turbulence energy", "m2/s2", 2, true, 0, field_owner::with_k, &Fields::k},
    Field<double>{"omega", "1/s", 1, true, 1, field_owner::with_omega, &Fields::omega},
    Field<double>{"epsilon", "m2/s3", 3, true, 1, field_owner::with_epsilon, &Fields::epsilon},
    Field<double>{"nu tilde", "m2/s", 1, true, 0, field_owner::with_nu_tilde, &Fields::nu_tilde},
    Field<double>{"eddy viscosity", "m2/s", 1, false, 0, field_owner::turbulent, &Fields::nu_t},
    Field<double>{"total enthalpy", "m2/s2", 0, true, 0, field_owner::fast_air, &Fields::enthalpy},
    Field<double>{"temperature", "K", 0, false, 0, field_owner::fast_air, &Fields::temperature},
    Field<double>{"density ratio", "1", 0, false, 1, field_owner::fast_air, &Fields::density}};

/// Calls `visit(field)` with each entry of the registry, in order.
template <class Visit>
void for_each_field(const Visit& visit) {
  std::apply([&](const auto&... field) { (visit(field), ...); }, field_registry);
}

/// All fields that a model has, before anything has flowed.
inline Fields fields_at_rest(TurbulenceModel model, std::size_t cells) {
  Fields out;
  for_each_field([&]<class T>(const Field<T>& field) {
    if (!field.owned_by(model)) return;
    T rest{};
    if constexpr (std::is_same_v<T, double>) rest = field.at_rest;
    (out.*field.values).assign(cells, rest);
  });
  return out;
}

/// The same flow at `factor` times the speed.
void scale_speed(Fields& fields, double factor);

/// Fills in what a model needs of the turbulence from what there is of another model's: omega and
/// epsilon follow from each other and k (epsilon = C_mu k omega). What cannot be had stays empty.
void give_turbulence_to(Fields& fields, TurbulenceModel model);

}  // namespace dunefield
