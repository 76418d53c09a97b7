#include <dunefield/flow/turbulence/turbulence.hpp>

namespace dunefield {

turbulence::Equations turbulence::none(FlowState&) { return nullptr; }

std::string turbulence_words(bool (*holds)(const TurbulenceTraits&)) {
  std::string words;
  for (const TurbulenceTraits& row : turbulence_models)
    if (holds(row)) words += std::string(words.empty() ? "\"" : ", \"") + row.word + "\"";
  return words;
}

}  // namespace dunefield
