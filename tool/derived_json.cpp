// What follows from results, as JSON.
#include "tables.hpp"

#include <dunefield/campaign/together.hpp>

namespace dunefield::tool {

namespace {

Json rounds_json(const std::vector<Comparison>& comparisons, const Campaign& campaign) {
  Json rounds = Json::array();
  for (const Round& round : campaign.rounds)
    for (const auto& group : by_settings(comparisons))
      for (const RoundRow& r : over_round(round, group, campaign.baseline)) {
        rounds.push_back({{"round", round.name},
                          {"settings", in_words(group.front().settings)},
                          {"variant", r.variant},
                          {"energy_J", r.energy.energy},
                          {"of_it_against_the_air_J", r.energy.of_air},
                          {"half_interval_95_J", r.energy.half_interval}});
        if (r.more)
          rounds.back()["difference_J"] = r.more->value,
          rounds.back()["difference_uncertainty_J"] = r.more->uncertainty;
      }
  return rounds;
}

Json together_json(const std::vector<Figures>& runs) {
  Json all = Json::array();
  for (const Together& t : together(runs))
    for (const TogetherRow& r : t.rows) {
      all.push_back({{"vehicle", r.vehicle},
                     {"variant", t.variant},
                     {"speed_m_s", t.speed},
                     {"settings", in_words(t.settings)},
                     {"CD", r.cd.mean},
                     {"CD_half_interval_95", r.cd.half_interval},
                     {"CL", r.cl.mean}});
      if (r.share)
        all.back()["CD_over_alone"] = r.share->value,
        all.back()["CD_over_alone_half_interval_95"] = r.share->half_interval;
    }
  return all;
}

}  // namespace

Json derived_json(const std::vector<Figures>& runs, const Campaign& campaign) {
  const std::vector<Comparison> comparisons = compare(runs, campaign.baseline);
  Json figures = Json::array(), claims = Json::array(), winds = Json::array();
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows)
      for (const DerivedFigure& d : all_figures(r.run, campaign))
        figures.push_back({{"variant", r.run.run.variant},
                           {"speed_m_s", c.speed},
                           {"settings", in_words(c.settings)},
                           {"name", d.name},
                           {"unit", d.unit},
                           {"value", d.value},
                           {"half_interval_95", d.half_interval}});
  for (const ClaimCompared& c :
       compare_claims(campaign.claims, comparisons, campaign.file.string()))
    claims.push_back({{"claim", c.claim.name},
                      {"variant", c.claim.variant},
                      {"speed_m_s", c.speed},
                      {"figure", c.claim.figure},
                      {"claimed", c.claim.value},
                      {"ours", c.ours.value},
                      {"difference", c.difference.value},
                      {"difference_uncertainty", c.difference.uncertainty},
                      {"verdict", claim_verdict(c)}});
  for (const WindAveraged& w : wind_averaged(comparisons, campaign.wind)) {
    winds.push_back({{"variant", w.variant},
                     {"speed_m_s", w.speed},
                     {"settings", in_words(w.settings)},
                     {"wind_m_s", campaign.wind},
                     {"CD", w.cd},
                     {"CD_half_interval_95", w.half_interval}});
    if (w.more)
      winds.back()["CD_difference"] = w.more->value,
      winds.back()["CD_difference_uncertainty"] = w.more->uncertainty;
  }
  return {{"figures", figures},
          {"claims", claims},
          {"averaged_over_wind", winds},
          {"rounds", rounds_json(comparisons, campaign)},
          {"vehicles", together_json(runs)}};
}

}  // namespace dunefield::tool
