#include <dunefield/flow/conditions.hpp>

namespace dunefield {

const char* word(TurbulenceModel model) {
  switch (model) {
    case TurbulenceModel::sst: return "sst";
    case TurbulenceModel::spalart_allmaras: return "spalart-allmaras";
    case TurbulenceModel::k_epsilon: return "k-epsilon";
    case TurbulenceModel::realizable_k_epsilon: return "realizable-k-epsilon";
    case TurbulenceModel::sst_iddes: return "sst-iddes";
    case TurbulenceModel::laminar: break;
  }
  return "laminar";
}

const char* words(TurbulenceModel model) {
  switch (model) {
    case TurbulenceModel::sst: return "k-omega SST with wall functions";
    case TurbulenceModel::spalart_allmaras: return "Spalart-Allmaras with wall functions";
    case TurbulenceModel::k_epsilon: return "standard k-epsilon with a one-equation layer at walls";
    case TurbulenceModel::realizable_k_epsilon:
      return "realizable k-epsilon with a one-equation layer at walls";
    case TurbulenceModel::sst_iddes:
      return "k-omega SST with wall functions, in time with resolved eddies (IDDES)";
    case TurbulenceModel::laminar: break;
  }
  return "laminar";
}

}  // namespace dunefield
