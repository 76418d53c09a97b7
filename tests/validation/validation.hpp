// Flows with reference results from the literature: each case is a function that runs it and says
// what it found.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include <tests/support/cases.hpp>

namespace dunefield::validation {

/// One figure of a case beside its reference.
struct Row {
  std::string quantity;
  double reference = 0;
  /// Share of the reference, or of `scale` if that is set, that the result may be off; 0: only
  /// reported
  double band = 0;
  double got = 0;
  double scale = 0;
  double off() const { return (got - reference) / (scale > 0 ? scale : std::abs(reference)); }
  bool within() const { return std::abs(off()) <= band; }
};

struct Result {
  std::vector<Row> rows;
  int cells = 0, iterations = 0;
};

struct Case {
  std::string name;   ///< for the command line
  std::string title;  ///< what it is, and the source of the reference
  std::function<Result()> run;
};

std::vector<Case> laminar_cases();
std::vector<Case> channel_cases();
std::vector<Case> plate_cases();
std::vector<Case> step_cases();
std::vector<Case> aerofoil_cases();
std::vector<Case> tandem_cases();
std::vector<Case> unsteady_cases();
std::vector<Case> decay_cases();
std::vector<Case> wheel_cases();
std::vector<Case> section_cases();

/// Set by --trace: what is watched is printed as it settles.
inline bool trace = false;

/// A solver on one rank, with what it needs kept together.
class Solver {
 public:
  Solver(const VolumeMesh& mesh, const FlowCase& flow_case);
  FlowSolver& operator*() { return solver_; }
  FlowSolver* operator->() { return &solver_; }
  const FlowMesh& share() const { return share_; }
  /// Force on the faces of a boundary, N.
  Vec3 force(std::size_t boundary) const;
  /// The next moment in time: until the residual is below `fall` of the step's first.
  /// @return iterations
  int step_in_time(double fall, int most);
  /// Iterates until `value`, looked at every `every` iterations, changes by less than `change` of
  /// itself, or `most` are done.
  /// @return iterations
  int until_steady(const std::function<double()>& value, double change, int most, int every = 100);

 private:
  const VolumeMesh& mesh_;
  SoloCommunicator comm_;
  std::vector<double> distance_;
  FlowMesh share_;
  FlowSolver solver_;
};

/// A ring of cells around a cylinder of diameter 1 in a stream 120 wide, the cells the finer the
/// nearer. Boundaries: cylinder, outflow (the half downstream), inflow, two sides; the ring runs
/// from the top down the lee side.
VolumeMesh ring_around_cylinder(int around, int across);

/// Parts a boundary in two: its first `count` faces keep the old name, the others get `name`.
void part_boundary(VolumeMesh& mesh, std::size_t boundary, int count, const std::string& name);

/// Heights of cell boundaries from 0 to `end`: the first cell `first` high, growing by `growth` up
/// to cells of `largest`.
std::vector<double> graded(double first, double growth, double largest, double end);

}  // namespace dunefield::validation
