// Runs without a campaign.
#include <gtest/gtest.h>

#include <fmt/format.h>
#include <dunefield/run/run.hpp>
#include <tests/run/small_run.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

/// Counts, and asks for a look after an iteration.
struct Watching : RunWatcher {
  void iterated(const HistoryRow& h, double) override { last = h.iteration; }
  bool wants_look() override { return last == look_at; }
  void look(const Record& r) override { seen = static_cast<int>(r.history.size()); }
  int last = 0, look_at = 0, seen = 0;
};

TEST(Run, LeavesARecordThatSaysWhetherItCanBeUsed) {
  const Record& r = small_record();
  EXPECT_EQ(r.history.size(), 15u);
  EXPECT_FALSE(r.usable());
  EXPECT_EQ(r.why(), "15 iterations are too few to judge");
  EXPECT_NE(r.brief().find("not converged"), std::string::npos);
  EXPECT_EQ(r.run.variant, "brick \xff");
  EXPECT_EQ(r.run.layers, 2);
  EXPECT_EQ(r.fields.u.size(), static_cast<std::size_t>(r.mesh->cells));
  EXPECT_NEAR(r.balance.total().force.x / r.balance.momentum_drag, 1, 0.3);
}

TEST(Run, SaysFirstThatWallsAndStreamDisagree) {
  const Record& r = small_record();
  const double drag = r.convergence.cd.mean * r.reference.dynamic_pressure() *
                      r.reference.frontal_area,
               lost = r.convergence.momentum_drag.mean;
  ASSERT_GT(std::abs(lost / drag - 1), 0.01) << "a flow that has not developed";
  ASSERT_FALSE(r.findings.empty());
  EXPECT_EQ(r.findings.begin()->level, Finding::Level::warning);
  const std::string& text = r.findings.begin()->text;
  for (const double force : {drag, lost, r.checks.wake_drag})
    EXPECT_NE(text.find(fmt::format("{:.1f} N", force)), std::string::npos) << text;
}

TEST(Run, GoesOnFromItsStateOnAnyBackendToTheSameBits) {
  const TemporaryFolder folder;
  RunSetup s = small_setup();
  const auto mesh = std::make_shared<const MeshResult>(build_mesh(s));
  RunOptions options{.threads = 2, .state = folder / "brick.state"};
  Watching watching;
  watching.look_at = 4;
  s.limits.iterations = 6;
  run(s, mesh, options, watching);
  EXPECT_EQ(watching.last, 6);
  EXPECT_EQ(watching.seen, 4);
  s.limits.iterations = 10;
  const Record went_on = run(s, mesh, options, watching);
  options.state = folder / "other.state";
  const Record straight = run(s, mesh, options, watching);
  ASSERT_EQ(went_on.history.size(), 10u);
  EXPECT_EQ(went_on.history.back().c.cd, straight.history.back().c.cd);
  EXPECT_EQ(went_on.fields.p, straight.fields.p);
}

TEST(Run, RecordTellsWhatWasFoundOfTheMesh) {
  const TemporaryFolder folder;
  RunSetup s = small_setup();
  s.limits.iterations = 1;
  MeshResult mesh = build_mesh(s);
  mesh.findings.warn("a gap is closed in the mesh"), mesh.findings.note("a dent is filled");
  const std::size_t found = mesh.findings.size();
  Watching nobody;
  run(s, std::make_shared<const MeshResult>(std::move(mesh)), {}, nobody).save(folder / "r");
  const Record opened = Record::open(folder / "r");
  ASSERT_EQ(opened.mesh_findings.size(), found);
  EXPECT_EQ((opened.mesh_findings.end() - 2)->text, "a gap is closed in the mesh");
  EXPECT_EQ((opened.mesh_findings.end() - 2)->level, Finding::Level::warning);
  EXPECT_EQ((opened.mesh_findings.end() - 1)->level, Finding::Level::note);
}

/// A run that was stopped by its limit and goes on beside one that was not.
void expect_same_bits(RunSetup first, const RunSetup& longer) {
  const TemporaryFolder folder;
  const auto mesh = std::make_shared<const MeshResult>(build_mesh(first));
  RunOptions options{.threads = 2, .state = folder / "brick.state"};
  Watching nobody;
  run(first, mesh, options, nobody);
  const Record went_on = run(longer, mesh, options, nobody);
  options.state = folder / "other.state";
  const Record straight = run(longer, mesh, options, nobody);
  ASSERT_EQ(went_on.history.size(), straight.history.size());
  EXPECT_EQ(went_on.history.back().time, straight.history.back().time);
  EXPECT_EQ(went_on.history.back().c.cd, straight.history.back().c.cd);
  EXPECT_EQ(went_on.fields.u, straight.fields.u);
  EXPECT_EQ(went_on.fields.p, straight.fields.p);
  EXPECT_EQ(went_on.probes.values, straight.probes.values);
}

TEST(Run, InTimeGoesOnFromItsStateToTheSameBits) {
  for (const auto model : {TurbulenceModel::sst, TurbulenceModel::sst_iddes}) {
    RunSetup s = small_setup();
    s.limits.iterations = 5, s.flow.turbulence = model;
    s.time = TimeChoice{.step = 0.002, .duration = 0.006};
    s.readings.taps = {{"nose", {-0.5, 0, 0.2}}};
    RunSetup longer = s;
    longer.time->duration = 0.012;
    expect_same_bits(s, longer);
  }
}

TEST(Run, ReadsTapsAndRakesAfterEachStepInTime) {
  const TemporaryFolder folder;
  RunSetup s = small_setup();
  s.limits.iterations = 5;
  s.time = TimeChoice{.step = 0.002, .duration = 0.008};
  s.readings.taps = {{"tail", {0.5, 0, 0.2}}, {"nose", {-0.5, 0, 0.2}}};
  s.readings.rakes = {rake_grid("wake", {0.7, 0, 0.1}, {0.7, 0, 0.4}, {0.7, 0.3, 0.1}, 3, 2)};
  const auto mesh = std::make_shared<const MeshResult>(build_mesh(s));
  Watching nobody;
  const Record two = run(s, mesh, {.threads = 2}, nobody);
  ASSERT_EQ(two.probes.time.size(), 4u);
  ASSERT_EQ(two.probes.probes.size(), 8u);
  EXPECT_NEAR(two.probes.time[1], 0.004, 1e-12);
  EXPECT_EQ(two.probes.probes.back().number, 6);
  // The last step is the record's state, but for the mass that is closed at the end.
  const double q = two.reference.dynamic_pressure();
  const auto taps = read_taps(two.readings(), s.readings.taps, two.reference);
  EXPECT_NEAR(two.probes.of(1, 0).back(), taps[1].pressure, 0.01 * q);
  const auto rakes = read_rakes(two.readings(), s.readings.rakes, two.reference);
  for (std::size_t p = 0; p < 6; ++p)
    EXPECT_NEAR(two.probes.of(2 + p, 1).back(), rakes[p].velocity.x, 0.01 * s.conditions.speed);
  EXPECT_EQ(run(s, mesh, {.threads = 2}, nobody).probes.values, two.probes.values);
  two.save(folder / "r");
  const Record again = Record::open(folder / "r");
  EXPECT_EQ(again.probes.values, two.probes.values);
  EXPECT_EQ(again.probes.probes.at(1).name, "nose");
}

TEST(Run, InFastAirGoesOnFromItsStateToTheSameBits) {
  RunSetup s = small_setup();
  s.limits.iterations = 6, s.conditions.fast = FastAir{}, s.conditions.speed = 100;
  RunSetup longer = s;
  longer.limits.iterations = 10;
  expect_same_bits(s, longer);
}

TEST(Run, TheMeshIsNotTouched) {
  RunSetup s = small_setup();
  s.limits.iterations = 2;
  const auto mesh = std::make_shared<const MeshResult>(build_mesh(s));
  Watching nobody;
  const Record r = run(s, mesh, {}, nobody);
  EXPECT_EQ(r.mesh.get(), &mesh->mesh) << "nor copied";
  EXPECT_FALSE(mesh->mesh.face_area.empty());
}

}  // namespace
}  // namespace dunefield::test
