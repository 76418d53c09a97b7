// A vehicle and its variants at several speeds, compared: a campaign written as a program.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include <dunefield/base/units.hpp>
#include <dunefield/campaign/campaign_runner.hpp>
#include <dunefield/campaign/verdicts.hpp>

namespace dunefield {

/// Speed in m/s of a speed in km/h.
constexpr double kmh(double speed) { return speed / 3.6; }

struct StudyOptions {
  double unit = metre;  ///< of the surfaces, m; STEP, glTF and 3MF files have their own
  std::string nose = "-x", up = "+z";  ///< directions of nose and roof in the surfaces
  bool half = false;                   ///< compute y >= 0 and mirror it
  std::string recipe = "scout";        ///< sketch, scout, standard or fine
  int lattices = 1;                    ///< mesh offsets that each variant runs on
  /// Records of the runs. A later study with the same inputs finds them there
  std::filesystem::path folder = "study.runs";
};

/// Places the vehicle, its frame and its mesh sizes once, for all variants. The first variant is
/// the vehicle as it is; the others are compared with it.
class Study {
 public:
  /// Changes of one variant, in order. Valid as long as its study.
  class Variant {
   public:
    Variant(Study& study, std::size_t number) : study_(study), number_(number) {}
    Variant& add(const std::filesystem::path& file);
    Variant& add(const Surface& surface);
    Variant& remove(const std::string& part);
    Variant& move(const std::string& part, const Vec3& by);  ///< m
    /// @param angle rad, right-handed about `axis`; @param about m, vehicle axes of the surfaces
    Variant& turn(const std::string& part, double angle, const Vec3& about,
                  const Vec3& axis = {0, 1, 0});
    /// A smooth change of a part, or of the whole vehicle without one.
    Variant& reshape(const ShapeChange& shape, const std::string& part = {});

   private:
    Campaign::Variant& own() const;
    Variant& change(Change change);
    Study& study_;
    std::size_t number_;
  };

  static constexpr const char* baseline = "as it is";

  explicit Study(const Surface& vehicle, StudyOptions options = {});
  explicit Study(const std::filesystem::path& file, StudyOptions options = {});

  /// A new variant. @throw InputError for a name that is taken
  Variant variant(const std::string& name);
  /// One more speed, m/s. @throw InputError unless it is positive
  Study& at(double speed);
  /// Everything else that a campaign file can set.
  Campaign& campaign() { return campaign_; }

  /// Checks the set-up and computes what is missing in the folder.
  /// @throw InputError with every fault of the set-up; FlowError when all others are done, with the
  /// runs that failed; OutputError; Cancelled
  Study& run(const Ranks& ranks = {}, const Progress& progress = {});

  /// Figures of all finished runs.
  const std::vector<Figures>& runs() const { return runs_; }
  /// Each variant against the baseline, the largest change of drag first; `sentence` says it.
  std::vector<VariantVerdict> differences() const;
  /// The record of a run. @param speed m/s; 0: the first. @throw InputError if there is none
  Record record(const std::string& variant = baseline, double speed = 0) const;

 private:
  CampaignSetup checked() const;
  Campaign campaign_;
  std::filesystem::path folder_;
  std::vector<Figures> runs_;
};

}  // namespace dunefield
