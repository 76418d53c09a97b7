// A small campaign: a ball as it is and with a fin, at two speeds, a second a run.
#pragma once

#include <gtest/gtest.h>

#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/geometry/files/stl.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <tests/support/process.hpp>

namespace dunefield::test {

class BallCampaign : public testing::Test {
 protected:
  BallCampaign() {
    write_stl_ascii(folder_ / "ball.stl", sphere("ball <b>", {0, 0, 0.7}, 0.3, 24));
    write_stl_ascii(folder_ / "fin.stl",
                    rounded_box("fin", {{0.25, -0.05, 0.6}, {0.6, 0.05, 0.8}}, 0.01));
    write(text_);
  }
  /// Long enough for a change to be seen, with a key in [runs.sweep] or none.
  void longer(const std::string& sweep = "") const {
    std::string text = text_ + (sweep.empty() ? "" : "[runs.sweep]\n" + sweep + "\n");
    text.replace(text.find("iterations = 8"), 14, "iterations = 200");
    write(text);
  }
  void write(const std::string& text) const { write_text(folder_ / "c.toml", text); }
  CampaignSetup setup() const { return prepare(read_campaign(folder_ / "c.toml")); }

  TemporaryFolder folder_;
  const std::string text_ =
      "name = \"Ball & fin\"\n[vehicle]\nfiles = [\"ball.stl\"]\n[tunnel]\nahead = "
      "2\nbehind = 3\nblockage = 0.03\n[mesh]\nsurface_size = \"80 mm\"\n[flow]\niterations "
      "= 8\n[[variant]]\nname = \"as it is\"\n[[variant]]\nname = \"fin\"\nadd = "
      "[\"fin.stl\"]\n[[round]]\nname = \"round\"\n[[round.leg]]\nspeed = \"10 m/s\"\nlength = "
      "\"9 km\"\n[runs]\nspeeds = [\"10 m/s\", \"20 m/s\"]\n";
};

}  // namespace dunefield::test
