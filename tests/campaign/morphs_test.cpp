// Which variants run on the baseline's mesh, moved.
#include <gtest/gtest.h>

#include <dunefield/base/error.hpp>
#include <dunefield/campaign/campaign_setup.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/files/surface_file.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/run/hashes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {
namespace {

class Morphs : public testing::Test {
 protected:
  Morphs() {
    Surface s = rounded_box("body", Box{{-1, -0.4, 0.15}, {1, 0.4, 0.8}}, 0.05);
    append(s, rounded_box("fin", Box{{0.7, -0.01, 0.9}, {0.9, 0.01, 1.1}}, 0));
    write_stl_ascii(folder_ / "brick.stl", s);
  }
  CampaignSetup setup(const std::string& changes, const std::string& mesh = "") const {
    write_text(folder_ / "c.toml",
               "[vehicle]\nfiles = [\"brick.stl\"]\nunit = \"m\"\n[mesh]\nrecipe = \"sketch\"\n" +
                   mesh +
                   "[runs]\nspeeds = [\"90 km/h\"]\n[[variant]]\nname = \"as it is\"\n"
                   "[[variant]]\nname = \"other\"\n" +
                   changes);
    return prepare(read_campaign(folder_ / "c.toml"));
  }
  const std::string taper_ = "[[variant.change]]\npart = \"body\"\ntaper = 0.95\n";
  TemporaryFolder folder_;
};

TEST_F(Morphs, WheelsStayRound) {
  Surface s = read_surface(folder_ / "brick.stl");
  for (const double x : {-0.6, 0.6})
    for (const double y : {-0.35, 0.35})
      append(s, cylinder("wheel " + std::to_string(x < 0) + std::to_string(y < 0),
                         {x, y - 0.05, 0.2}, {x, y + 0.05, 0.2}, 0.2, 48));
  write_stl_ascii(folder_ / "brick.stl", s);
  ASSERT_EQ(setup("").variants[0].vehicle.wheels.size(), 4u);
  const std::string taper =
      "[[variant.change]]\ntaper = 0.8\nbox = [[\"0.3 m\", \"-1 m\", \"0 "
      "m\"], [\"1.1 m\", \"1 m\", \"1.2 m\"]]\n";
  EXPECT_THROW(setup(taper), InputError) << "without a part it reaches the wheels";
  EXPECT_NO_THROW(setup(taper + "part = \"body\"\n"));
}

TEST_F(Morphs, ShapesThatMovePointsAloneFollowTheBaseline) {
  for (const std::string& change :
       {taper_,
        std::string("[[variant.change]]\npart = \"fin\"\nmove = [\"10 mm\", \"0 m\", \"0 m\"]\n"),
        std::string("[variant.ride]\nfront = \"5 mm\"\nrear = \"5 mm\"\n")}) {
    const CampaignSetup s = setup(change);
    EXPECT_FALSE(s.variants[0].morph_of);
    ASSERT_TRUE(s.variants[1].morph_of) << change;
    // The mesh that it follows is the baseline's own, to the last bit of what makes it.
    EXPECT_EQ(hashes_of(followed_by(s.variants[1])).mesh, hashes_of(s.variants[0]).mesh) << change;
    EXPECT_NE(hashes_of(s.variants[1]).mesh, hashes_of(s.variants[0]).mesh);
  }
}

TEST_F(Morphs, OthersAreMeshedAnew) {
  EXPECT_FALSE(setup(taper_, "morph = false\n").variants[1].morph_of);
  EXPECT_FALSE(setup("remove = [\"fin\"]\n").variants[1].morph_of);
  EXPECT_FALSE(setup("").variants[1].morph_of) << "nothing is changed";
}

TEST_F(Morphs, AMeshThatCannotFollowIsMadeAnewAndSaysWhy) {
  const CampaignSetup s =
      setup("[[variant.change]]\npart = \"fin\"\nmove = [\"0 m\", \"0 m\", \"0.6 m\"]\n");
  const MeshResult far = build_mesh(s.variants[1]);
  EXPECT_FALSE(far.follows);
  EXPECT_TRUE(std::any_of(far.findings.begin(), far.findings.end(),
                          [](const Finding& f) { return f.id == "mesh.made-anew"; }));
  const MeshResult near = build_mesh(setup(taper_).variants[1]);
  EXPECT_TRUE(near.follows);
}

}  // namespace
}  // namespace dunefield::test
