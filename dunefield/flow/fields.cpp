#include <dunefield/flow/fields.hpp>

#include <algorithm>

#include <dunefield/flow/turbulence/wall_law.hpp>

namespace dunefield {

void scale_speed(Fields& fields, double factor) {
  for_each_field([&]<class T>(const Field<T>& field) {
    double f = 1;
    for (int i = 0; i < field.power_of_speed; ++i) f *= factor;
    for (T& v : fields.*field.values) v *= f;
  });
}

void give_turbulence_to(Fields& fields, TurbulenceModel model) {
  const auto& k = fields.k;
  // A model's field that was never solved, as in a laminar run, is no start.
  if (std::none_of(k.begin(), k.end(), [](double v) { return v > 0; })) {
    fields.k.clear(), fields.omega.clear(), fields.epsilon.clear();
    return;
  }
  if (field_owner::with_omega(model) && fields.omega.empty() && !fields.epsilon.empty()) {
    fields.omega = fields.epsilon;
    for (std::size_t c = 0; c < k.size(); ++c) fields.omega[c] /= wall_law::c_mu * k[c];
  }
  if (field_owner::with_epsilon(model) && fields.epsilon.empty() && !fields.omega.empty()) {
    fields.epsilon = fields.omega;
    for (std::size_t c = 0; c < k.size(); ++c) fields.epsilon[c] *= wall_law::c_mu * k[c];
  }
}

}  // namespace dunefield
