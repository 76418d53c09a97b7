// Brings an iteration that swings about a steady state to rest there.
#pragma once

#include <vector>

#include <dunefield/flow/flow_state.hpp>

namespace dunefield {

/// What a recombination has gathered.
struct RecombinationState {
  enum class Phase : int { off, asked_for, working, given_up };
  /// What is no array; in one, so that it is saved as those are.
  struct Counts {
    Phase phase = Phase::off;
    int pairs = 0;    ///< held
    int next = 0;     ///< place of the next one
    int length = 10;  ///< iterations from x to g
    int gone = 0;     ///< of those since x
    int unused = 0;   ///< no bytes that nobody sets go into a file
    double change = 0;
  };
  std::vector<Counts> counts = {Counts{}};
  /// Whether sizes and counts are those of a mesh with `own` cells.
  bool fits(std::size_t own) const;
  std::vector<double> before;  ///< velocity and pressure of x, own cells
  /// The change where work began, and of each `length` iterations since then, or since that grew
  std::vector<double> falls;
  /// Weighted so that their plain product is the sum over cells of V (|u|^2 / U^2 + p^2 / U^4)
  std::vector<float> last_f, changes_f;
  std::vector<double> start;     ///< all that a run goes on from, where work began
  std::vector<double> last_g;    ///< the same after the last `length`
  std::vector<float> changes_g;  ///< as `changes_f`, pair after pair
  std::vector<double> gram;      ///< products of the changes of f

  /// Calls `visit` with each array, always in the same order.
  template <class State, class Visit>
  static void visit_values(State& s, const Visit& visit) {
    visit(s.counts), visit(s.before), visit(s.falls), visit(s.last_f), visit(s.changes_f);
    visit(s.start), visit(s.last_g), visit(s.changes_g), visit(s.gram);
  }
};

/// Recombination of states (Anderson 1965; for flows Citro et al. 2017). Ten iterations take the
/// state x to g = G(x). From the last few pairs of changes of f = g - x and of g, those are summed
/// that make f least, and the state becomes g less the sum. The same factors hold for all fields
/// and for the fluxes, which so stay conservative.
///
/// A swing that repeats itself after ten iterations is no change to G: a recombination may come to
/// rest in one, and drag then differs from what the stream loses. Where f is small and falls no
/// more, G is fourteen iterations from there on, and pairs are gathered anew.
///
/// It is for developed flows whose swings are too large for plain means. It is given up, its memory
/// freed, where f does not fall: then the flow has no steady state within reach, and goes on from
/// where work began, as if there had been none.
class Recombination {
 public:
  using Phase = RecombinationState::Phase;
  static constexpr int every = 10;  ///< iterations from x to g at first

  explicit Recombination(FlowState& state) : s_(state) {}
  /// From the next tenth iteration on, unless it was given up before. Until then changes are
  /// measured, but the state is not moved.
  void begin();
  /// For good: in a flow in time there is no state of rest.
  void end() { give_up(); }

  /// After each iteration, the state's halo being current; collective. True if it moved the state:
  /// pressure gradients are then to be made anew.
  bool after(int iteration);
  /// Root mean square, over cells, of what ten iterations change velocity and pressure by, over
  /// speed and its square: as measured last (over fourteen, ten fourteenths of it); 0 before.
  double change() const { return counts().change; }
  Phase phase() const { return counts().phase; }
  const RecombinationState& gathered() const { return r_; }
  void go_on_from(RecombinationState gathered) { r_ = std::move(gathered); }

 private:
  RecombinationState::Counts& counts() { return r_.counts.front(); }
  const RecombinationState::Counts& counts() const { return r_.counts.front(); }
  void measure(std::vector<float>& f) const;
  double volume() const;  ///< of own cells
  void take_before();
  void work_on(const std::vector<float>& f);
  void note_change(double squares, double volume);
  void begin(const std::vector<float>& f);
  void gather_from(const std::vector<float>& f);
  std::vector<double> numbers() const;
  void go_back();
  void give_up();
  void add_pair(const std::vector<float>& f);
  std::vector<double> factors(const double* products_with_f) const;
  void recombine(const std::vector<double>& factors);
  void keep_turbulence_near_g();
  double lately(std::size_t ago) const;
  bool stalls() const;
  bool hopeless() const;

  FlowState& s_;
  RecombinationState r_;
};

}  // namespace dunefield
