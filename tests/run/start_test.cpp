// A finished run as the start of another.
#include <gtest/gtest.h>

#include <dunefield/base/text_file.hpp>
#include <tests/run/small_run.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class StartFromRecord : public ::testing::Test {
 protected:
  StartFromRecord() { small_record().save(folder_ / "r"); }

  std::optional<Fields> start(double speed, bool half = true) {
    return start_from_record(folder_ / "r", *small_record().mesh, half, speed, findings_, {});
  }

  std::string told() const {
    std::string all;
    for (const Finding& f : findings_) all += f.text + "\n";
    return all;
  }

  const TemporaryFolder folder_;
  Findings findings_;
};

TEST_F(StartFromRecord, FieldsAreScaledToTheSpeed) {
  const Fields& from = small_record().fields;
  const auto fields = start(30);
  ASSERT_TRUE(fields);
  for (std::size_t c = 0; c < from.u.size(); c += 53) {
    EXPECT_NEAR(fields->u[c].x, 1.5 * from.u[c].x, 1e-6 * 30);
    EXPECT_NEAR(fields->p[c], 2.25 * from.p[c], 1e-6 * 900);
    EXPECT_NEAR(fields->omega[c], 1.5 * from.omega[c], 1e-5 * from.omega[c]);
  }
}

TEST_F(StartFromRecord, AnotherMeshGetsThemBroughtOver) {
  RunSetup s = small_setup();
  s.recipe.surface_size = s.recipe.smallest_size = 0.07;
  s.check();
  const MeshResult coarser = build_mesh(s);
  const auto fields = start_from_record(folder_ / "r", coarser.mesh, true, 20, findings_, {});
  ASSERT_TRUE(fields);
  EXPECT_EQ(fields->u.size(), static_cast<std::size_t>(coarser.mesh.cells));
  for (const Vec3& u : fields->u) EXPECT_LT(norm(u), 60);
  EXPECT_NE(told().find("brought over to this mesh"), std::string::npos);
}

TEST_F(StartFromRecord, WhatDoesNotFitIsWarnedOfAndLeft) {
  EXPECT_FALSE(start(20, false));
  EXPECT_NE(told().find("the result of a half model"), std::string::npos) << told();
  write_text(folder_ / "r/record.arrays", "dunefield arrays 1\n");
  findings_ = {};
  EXPECT_FALSE(start(20));
  EXPECT_NE(told().find("record.arrays"), std::string::npos) << told();
  EXPECT_NE(told().find("does not start from it"), std::string::npos);
  std::filesystem::remove_all(folder_ / "r");
  findings_ = {};
  EXPECT_FALSE(start(20));
  EXPECT_NE(told().find("no such folder"), std::string::npos) << told();
}

}  // namespace
}  // namespace dunefield::test
