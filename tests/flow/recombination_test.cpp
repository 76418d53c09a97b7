// States recombined come to rest sooner, at the same place, and go on from a file to the same bits.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include <dunefield/base/index.hpp>
#include <tests/support/cases.hpp>

namespace dunefield::test {
namespace {

/// A square cavity with a sliding lid, one cell deep.
class Cavity : public testing::Test {
 protected:
  Cavity()
      : mesh_(structured_mesh(24, 24, 1, [](const Vec3& a) {
          return Vec3{a.x, a.y, a.z / 24};
        })) {
    std::vector<BoundaryCondition> conditions;
    for (const Boundary& b : mesh_.boundaries) {
      const Vec3 n = unit(mesh_.face_area[at(b.first)]);
      conditions.push_back(std::abs(n.z) > 0.5 ? slip() : n.y > 0.5 ? wall({1, 0, 0}) : wall());
    }
    case_ = laminar(0.01, conditions);
    distance_.assign(at(mesh_.cells), 1.0);
  }
  /// Iterates until the flow changes by less than that in ten iterations.
  int iterate(FlowSolver& solver, double change, int most = 3000) const {
    int n = 0;
    for (double now = 1; n < most && !(now > 0 && now < change); ++n) {
      const IterationReport r = solver.iterate();
      if (r.iteration % Recombination::every == 0 && r.change > 0) now = r.change;
    }
    return n;
  }
  VolumeMesh mesh_;
  FlowCase case_;
  std::vector<double> distance_;
  SoloCommunicator solo_;
};

TEST_F(Cavity, IsAtRestSoonerAndAtTheSamePlace) {
  case_.options.courant = 1;  // so short a step takes its time
  const FlowMesh share = distribute(&mesh_, &distance_, solo_);
  FlowSolver plain(share, case_, solo_), recombined(share, case_, solo_);
  plain.start(), recombined.start();
  recombined.recombine();
  const int slowly = iterate(plain, 1e-7), soon = iterate(recombined, 1e-7);
  EXPECT_LT(slowly, 3000);
  EXPECT_LT(soon, 0.7 * slowly) << "of " << slowly;
  double apart = 0;
  for (std::size_t c = 0; c < at(mesh_.cells); ++c)
    apart = std::max(apart, norm(plain.state().u[c] - recombined.state().u[c]));
  EXPECT_LT(apart, 1e-4) << "of the lid's speed";
}

TEST_F(Cavity, GoesOnFromWhatWasGatheredToTheSameBits) {
  const FlowMesh share = distribute(&mesh_, &distance_, solo_);
  FlowSolver first(share, case_, solo_);
  first.start(), first.recombine();
  for (int i = 0; i < 47; ++i) first.iterate();
  SolverState saved = first.save();
  saved.recombination = first.recombination().gathered();
  FlowSolver second(share, case_, solo_);
  second.restore(saved);
  for (int i = 0; i < 40; ++i) {
    const IterationReport a = first.iterate(), b = second.iterate();
    ASSERT_EQ(a.momentum_residual, b.momentum_residual) << "in iteration " << a.iteration;
    ASSERT_EQ(a.change, b.change);
  }
  EXPECT_EQ(first.recombination().phase(), Recombination::Phase::working);
}

TEST_F(Cavity, GivenUpTheFlowGoesOnFromWhereItBegan) {
  const FlowMesh share = distribute(&mesh_, &distance_, solo_);
  FlowSolver solver(share, case_, solo_);
  solver.start();
  iterate(solver, 0, 3000);  // what is left are roundings, which nothing brings to rest
  solver.recombine();
  const auto go_on_to = [&](Recombination::Phase phase) {
    for (int i = 0; i < 400 && solver.recombination().phase() != phase; ++i) solver.iterate();
    ASSERT_EQ(solver.recombination().phase(), phase);
  };
  go_on_to(Recombination::Phase::working);
  const SolverState before = solver.save();
  go_on_to(Recombination::Phase::given_up);
  const SolverState after = solver.save();
  EXPECT_GT(after.iteration, before.iteration + 100);
  EXPECT_EQ(after.p, before.p);
  EXPECT_EQ(after.flux, before.flux);
  EXPECT_TRUE(std::equal(after.u.begin(), after.u.end(), before.u.begin(),
                         [](const Vec3& a, const Vec3& b) { return norm(a - b) == 0; }));
}

TEST_F(Cavity, ASwingOfTenIterationsIsNoRest) {
  const FlowMesh share = distribute(&mesh_, &distance_, solo_);
  FlowState state(share, case_, solo_);
  std::fill(state.u.begin(), state.u.end(), Vec3{0.3, 0, 0});
  std::fill(state.p.begin(), state.p.end(), 1.0);
  std::mt19937 random(1);
  std::uniform_real_distribution<double> noise(-0.02, 0.02);
  const double turn = 2 * std::numbers::pi / 10;
  Recombination recombination(state);
  recombination.begin();
  for (int i = 1; i <= 180; ++i) {
    for (std::size_t c = 0; c < at(mesh_.cells); ++c) {
      const Vec3 u = state.u[c];
      state.u[c] = {std::cos(turn) * u.x - std::sin(turn) * u.y,
                    std::sin(turn) * u.x + std::cos(turn) * u.y, noise(random)};
      state.p[c] *= 0.97;
    }
    recombination.after(i);
    if (i == 80) {
      EXPECT_NEAR(std::hypot(state.u[0].x, state.u[0].y), 0.3, 1e-6) << "not seen so far";
    }
  }
  ASSERT_EQ(recombination.phase(), Recombination::Phase::working);
  EXPECT_LT(std::hypot(state.u[0].x, state.u[0].y), 0.03);
  EXPECT_LT(std::abs(state.p[0]), 0.03);
}

TEST_F(Cavity, RanksAgreeOnWhatIsRecombined) {
  std::vector<double> residuals[2];
  run_on_threads(3, [&](Communicator& comm) {
    const bool root = comm.rank() == 0;
    const FlowMesh share = distribute(root ? &mesh_ : nullptr, root ? &distance_ : nullptr, comm);
    for (auto& list : residuals) {
      FlowSolver solver(share, case_, comm);
      solver.start(), solver.recombine();
      for (int i = 0; i < 60; ++i) {
        const double r = solver.iterate().momentum_residual;
        if (root) list.push_back(r);
      }
    }
  });
  EXPECT_EQ(residuals[0], residuals[1]) << "the same bits again";
  EXPECT_LT(residuals[0].back(), 0.1 * residuals[0][20]);
}

}  // namespace
}  // namespace dunefield::test
