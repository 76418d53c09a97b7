#include <dunefield/flow/turbulence/turbulence.hpp>

#include <dunefield/flow/turbulence/k_epsilon.hpp>
#include <dunefield/flow/turbulence/spalart_allmaras.hpp>
#include <dunefield/flow/turbulence/sst.hpp>

namespace dunefield {

std::unique_ptr<TurbulenceEquations> turbulence_equations(TurbulenceModel model, FlowState& state) {
  switch (model) {
    case TurbulenceModel::sst: return std::make_unique<Sst>(state, false);
    case TurbulenceModel::sst_iddes: return std::make_unique<Sst>(state, true);
    case TurbulenceModel::spalart_allmaras: return std::make_unique<SpalartAllmaras>(state);
    case TurbulenceModel::k_epsilon: return std::make_unique<KEpsilon>(state, false);
    case TurbulenceModel::realizable_k_epsilon: return std::make_unique<KEpsilon>(state, true);
    case TurbulenceModel::laminar: break;
  }
  return nullptr;
}

}  // namespace dunefield
