// The turbulence models: one row each. What depends on the model elsewhere goes by its row.
#pragma once

#include <array>
#include <memory>
#include <stdexcept>
#include <string>

#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {

struct FlowState;
class TurbulenceEquations;

enum class TurbulenceModel {
  laminar,
  sst,
  spalart_allmaras,
  k_epsilon,
  realizable_k_epsilon,
  sst_iddes,
  wilcox
};

/// What a model solves for beside the flow.
enum class TurbulenceFields { none, k_omega, k_epsilon, nu_tilde };

/// The equations of each model on a state, which must outlive them. Each stands in its model's own
/// source.
namespace turbulence {
using Equations = std::unique_ptr<TurbulenceEquations>;
Equations none(FlowState&);
Equations sst(FlowState&);
Equations sst_iddes(FlowState&);
Equations wilcox(FlowState&);
Equations k_epsilon(FlowState&);
Equations realizable_k_epsilon(FlowState&);
Equations spalart_allmaras(FlowState&);
}  // namespace turbulence

struct TurbulenceTraits {
  TurbulenceModel model;
  const char* word;         ///< in files
  const char* description;  ///< in plain words
  TurbulenceFields fields;
  turbulence::Equations (*equations)(FlowState&);
  wall_law::Profile profile;  ///< its own, next to a wall
  bool long_steps = true;     ///< takes them; it is then solved in every second iteration
  bool fast_air = false;      ///< goes with air that changes its density
  bool only_in_time = false;  ///< is no model of a steady flow
};

/// In the order in which users are shown them.
inline constexpr std::array turbulence_models{
    TurbulenceTraits{.model = TurbulenceModel::sst,
                     .word = "sst",
                     .description = "k-omega SST with wall functions",
                     .fields = TurbulenceFields::k_omega,
                     .equations = turbulence::sst,
                     .profile = wall_law::sst,
                     .fast_air = true},
    TurbulenceTraits{.model = TurbulenceModel::wilcox,
                     .word = "k-omega",
                     .description = "k-omega of Wilcox (2006) with wall functions",
                     .fields = TurbulenceFields::k_omega,
                     .equations = turbulence::wilcox,
                     .profile = wall_law::reichardt},
    TurbulenceTraits{.model = TurbulenceModel::k_epsilon,
                     .word = "k-epsilon",
                     .description = "standard k-epsilon with a one-equation layer at walls",
                     .fields = TurbulenceFields::k_epsilon,
                     .equations = turbulence::k_epsilon,
                     .profile = wall_law::reichardt,
                     .long_steps = false},
    TurbulenceTraits{.model = TurbulenceModel::realizable_k_epsilon,
                     .word = "realizable-k-epsilon",
                     .description = "realizable k-epsilon with a one-equation layer at walls",
                     .fields = TurbulenceFields::k_epsilon,
                     .equations = turbulence::realizable_k_epsilon,
                     .profile = wall_law::reichardt,
                     .long_steps = false},
    TurbulenceTraits{.model = TurbulenceModel::spalart_allmaras,
                     .word = "spalart-allmaras",
                     .description = "Spalart-Allmaras with wall functions",
                     .fields = TurbulenceFields::nu_tilde,
                     .equations = turbulence::spalart_allmaras,
                     .profile = wall_law::reichardt},
    TurbulenceTraits{.model = TurbulenceModel::laminar,
                     .word = "laminar",
                     .description = "laminar",
                     .fields = TurbulenceFields::none,
                     .equations = turbulence::none,
                     .profile = wall_law::reichardt,
                     .fast_air = true},
    TurbulenceTraits{
        .model = TurbulenceModel::sst_iddes,
        .word = "sst-iddes",
        .description = "k-omega SST with wall functions, in time with resolved eddies (IDDES)",
        .fields = TurbulenceFields::k_omega,
        .equations = turbulence::sst_iddes,
        .profile = wall_law::sst,
        .only_in_time = true}};

constexpr const TurbulenceTraits& traits_of(TurbulenceModel model) {
  for (const TurbulenceTraits& row : turbulence_models)
    if (row.model == model) return row;
  throw std::logic_error("a turbulence model without a row");
}

/// Its word in files.
constexpr const char* word(TurbulenceModel model) { return traits_of(model).word; }

/// Those for which `holds`, by their words: "sst", "laminar".
std::string turbulence_words(bool (*holds)(const TurbulenceTraits&));

}  // namespace dunefield
