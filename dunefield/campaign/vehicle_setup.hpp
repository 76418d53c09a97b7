// From a campaign's files to placed vehicles in one common tunnel.
#pragma once

#include <string>
#include <vector>

#include <dunefield/balance/balance.hpp>
#include <dunefield/base/findings.hpp>
#include <dunefield/campaign/campaign_file.hpp>
#include <dunefield/geometry/wheels/wheel.hpp>

namespace dunefield {

/// One variant, placed: road at z = 0, nose towards -x, origin at mid-wheelbase.
struct PlacedVariant {
  std::string name;
  Surface vehicle;
  std::vector<Wheel> wheels;
  double frontal_area = 0;  ///< computed, m2
  MeshOptions mesh;
  std::uint64_t fingerprint = 0;       ///< of the placed triangles
  std::filesystem::path mesh_file;     ///< CGNS or VTU, instead of meshing; empty: none
  std::uint64_t mesh_fingerprint = 0;  ///< of that file
};

/// What all runs of a campaign share, and its variants.
struct CampaignSetup {
  Campaign campaign;
  std::vector<PlacedVariant> variants;
  Box vehicle_bounds;  ///< of all variants together
  Box tunnel;
  double reference_area = 0;    ///< m2, the baseline's computed one unless given
  double reference_length = 0;  ///< m
  double blockage = 0;          ///< frontal area over tunnel section
  Findings findings;            ///< assumptions and warnings

  /// Dynamic pressure that the vehicle feels over that of the stream, by the tunnel's rule for
  /// bluff bodies: (1 + a quarter of the blockage)^2 (Barlow, Rae, Pope 1999). Told beside results,
  /// never mixed into them.
  double blockage_factor() const { return (1 + 0.25 * blockage) * (1 + 0.25 * blockage); }
  ReferenceValues reference(double speed) const {
    return {speed, campaign.air.density, reference_area, reference_length};
  }
  double road_speed(double speed) const {
    return campaign.rolling_road ? campaign.road_speed.value_or(speed) : 0;
  }
};

/// @throw InputError
CampaignSetup prepare(const Campaign& campaign);

/// y+ to expect at the centre of a first cell of this height, m, at the first speed. Friction as on
/// a flat plate half the vehicle's length from the nose: cf = 0.455 / ln^2(0.06 Re) (White 2006).
double expected_y_plus(const CampaignSetup& setup, double first_height);

/// The set-up in plain words, a line a subject.
std::vector<std::string> describe(const CampaignSetup& setup);

/// Conditions for the boundaries of a mesh of this variant at a speed.
FlowCase make_case(const CampaignSetup& setup, const PlacedVariant& variant, double speed,
                   const std::vector<Boundary>& boundaries);

}  // namespace dunefield
