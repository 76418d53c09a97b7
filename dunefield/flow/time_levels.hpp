// Unsteady flow: what the fields were at the last two moments, and the rate at which they change.
#pragma once

#include <vector>

#include <dunefield/flow/fields.hpp>

namespace dunefield {

/// Backward differences of second order (Gear 1971) with equal steps, of first order in the first
/// one. The pseudo-time of the iterations within a step goes on beside them, and drops out as those
/// converge.
struct TimeLevels {
  double step = 0;      ///< s; 0: a steady flow
  double moments = 0;   ///< since the beginning
  Fields last, before;  ///< carried fields, one step and two steps ago

  bool active() const { return step > 0; }
  /// Of the present value in the difference, 1/s.
  double rate() const { return (second_order() ? 1.5 : 1.0) / step; }
  template <class T>
  T change(const T& now, const T& last_value, const T& value_before) const {
    if (!second_order()) return (now - last_value) * (1 / step);
    return (now * 1.5 - last_value * 2.0 + value_before * 0.5) * (1 / step);
  }

  /// From the present fields on.
  void begin(const Fields& now, double new_step) {
    step = new_step;
    shift(now);
    before = last, moments = 0;
  }
  /// The present fields become those of the last moment.
  void shift(const Fields& now) {
    ++moments;
    std::swap(before, last);
    for_each_field([&](const auto& field) {
      if (field.carried) last.*field.values = now.*field.values;
    });
  }

  bool second_order() const { return moments > 1; }

  /// Calls `visit` with each array, always in the same order.
  template <class Levels, class Visit>
  static void visit_values(Levels& l, const Visit& visit) {
    for (auto* fields : {&l.last, &l.before})
      for_each_field([&](const auto& field) {
        if (field.carried) visit((*fields).*field.values);
      });
  }
};

}  // namespace dunefield
