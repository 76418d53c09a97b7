// What an iteration costs by what is in the flow: the first run of each campaign file is iterated
// by turns on one rank, in time where the file says so, and the least of the turns is told for a
// cell, beside that of the first file:
//   build/release/bin/costs plain.toml with-core.toml in-time.toml [--turns 6] [--iterations 10]
#include <memory>
#include <string>
#include <vector>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include <dunefield/dunefield.hpp>
#include <dunefield/flow/flow_solver.hpp>
#include <dunefield/parallel/communicator.hpp>

#include "van_case.hpp"

namespace {

using namespace dunefield;

/// One case, ready to go on iterating.
class Costed {
 public:
  Costed(const std::string& file, Communicator& comm) : file_(file), comm_(comm) {
    const CampaignSetup campaign = prepare(read_campaign(file));
    setup_ = campaign.run(campaign.matrix().front());
    mesh_ = build_mesh(setup_);
    case_ = flow_case(setup_, mesh_.mesh.boundaries);
    const std::vector<double> distance = wall_distances(mesh_.mesh, case_.conditions);
    share_ = distribute(&mesh_.mesh, &distance, comm);
    solver_ = std::make_unique<FlowSolver>(share_, case_, comm);
    solver_->start();
    // layers grow meanwhile, and turbulence comes in each iteration
    constexpr int start_up = 60;
    for (int i = 0; i < start_up; ++i) solver_->iterate();
    if (setup_.time) solver_->begin_time(setup_.time_step());
  }

  void turn(int iterations) {
    const double s = bench::timed(comm_, [&] {
      if (setup_.time) solver_->next_moment();
      for (int i = 0; i < iterations; ++i) solver_->iterate();
    });
    best_ = std::min(best_, s / iterations / mesh_.mesh.cells);
  }

  double best() const { return best_; }
  std::string name() const {
    return fmt::format("{}{}", file_, setup_.time ? " (outer iterations of a moment)" : "");
  }
  int cells() const { return mesh_.mesh.cells; }

 private:
  std::string file_;
  Communicator& comm_;
  RunSetup setup_;
  MeshResult mesh_;
  FlowCase case_;
  FlowMesh share_;
  std::unique_ptr<FlowSolver> solver_;
  double best_ = 1e300;  ///< s for a cell and an iteration
};

void compare_costs(const std::vector<std::string>& files, int turns, int iterations,
                   Communicator& comm) {
  std::vector<std::unique_ptr<Costed>> all;
  for (const std::string& file : files) all.push_back(std::make_unique<Costed>(file, comm));
  for (int t = 0; t < turns; ++t)
    for (const auto& c : all) c->turn(iterations);
  for (const auto& c : all)
    fmt::print("{:9} cells  {:.3f} us a cell  {:.3f} of the first  {}\n", c->cells(),
               1e6 * c->best(), c->best() / all.front()->best(), c->name());
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app("What an iteration costs by what is in the flow");
  std::vector<std::string> files;
  int turns = 6, iterations = 10;
  app.add_option("files", files, "campaign files")->required();
  app.add_option("--turns", turns);
  app.add_option("--iterations", iterations, "in a turn; an even number");
  CLI11_PARSE(app, argc, argv);
  try {
    Ranks{1, nullptr}.run(
        [&](Communicator& comm) { compare_costs(files, turns, iterations, comm); });
  } catch (const Error& e) {
    fmt::print(stderr, "{}\n", e.what());
    return 1;
  }
  return 0;
}
