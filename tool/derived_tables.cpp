// Tables of what follows from results: formulas of the user, and rounds.
#include "tables.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace dunefield::tool {
namespace {

using Rows = std::vector<std::vector<std::string>>;

/// What is built in, and the user's own formulas.
std::vector<DerivedFigure> all_figures(const Figures& run, const Campaign& campaign) {
  std::vector<DerivedFigure> all = built_in_figures(run);
  for (const Formula& f : campaign.formulas) all.push_back(derived(run, f, campaign.file.string()));
  return all;
}

void show_figures(const std::vector<Comparison>& comparisons, const Campaign& campaign,
                  Console& console) {
  // A column each; a figure that some runs do not have stays empty there.
  std::vector<std::string> columns;
  const auto title = [](const DerivedFigure& d) {
    return d.name + (d.unit.empty() ? "" : " " + d.unit);
  };
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows)
      for (const DerivedFigure& d : all_figures(r.run, campaign))
        if (std::find(columns.begin(), columns.end(), title(d)) == columns.end())
          columns.push_back(title(d));
  Rows rows = {{"variant", "at"}};
  rows[0].insert(rows[0].end(), columns.begin(), columns.end());
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows) {
      rows.push_back({r.run.run.variant, conditions_in_words(c.speed, c.settings)});
      rows.back().resize(rows[0].size());
      for (const DerivedFigure& d : all_figures(r.run, campaign)) {
        const auto column = std::find(columns.begin(), columns.end(), title(d));
        rows.back()[2 + static_cast<std::size_t>(column - columns.begin())] =
            to_two_digits(d.value, d.half_interval);
      }
    }
  console.line();
  console.table(rows);
}

void show_wind(const std::vector<WindAveraged>& all, const Campaign& campaign, Console& console) {
  if (all.empty()) return;
  console.line();
  console.heading(fmt::format("Drag averaged over a wind of {:.3g} km/h from all directions",
                              3.6 * campaign.wind));
  Rows rows = {{"variant", "at", "CD", "CD at least yaw", "yaw up to deg",
                "change from '" + campaign.baseline + "'"}};
  for (const WindAveraged& w : all) {
    constexpr double degrees = 57.29577951308232;
    rows.push_back(
        {w.variant, conditions_in_words(w.speed, w.settings),
         fmt::format("{:.4f} ± {:.4f}", w.cd, w.half_interval),
         fmt::format("{:.4f}", w.at_least_yaw),
         fmt::format("{:.1f}{}", degrees * w.weights.largest_yaw,
                     w.weights.beyond ? ", beyond what was run" : ""),
         w.more ? fmt::format("{:+.4f} ± {:.4f}", w.more->value, w.more->uncertainty) : ""});
  }
  console.table(rows);
}

const char* claim_verdict(const ClaimCompared& c) {
  if (!c.settled) return "none: not settled";
  if (c.difference.within_noise()) return "agrees";
  return c.difference.value > 0 ? "ours is more" : "ours is less";
}

void show_claims(const std::vector<ClaimCompared>& all, Console& console) {
  if (all.empty()) return;
  console.line();
  Rows rows = {{"claimed", "of", "at", "figure", "theirs", "ours", "difference", "verdict"}};
  for (const ClaimCompared& c : all)
    rows.push_back({c.claim.name, c.claim.variant, conditions_in_words(c.speed, c.settings),
                    c.claim.figure, to_two_digits(c.claim.value, c.claim.half_interval),
                    to_two_digits(c.ours.value, c.ours.half_interval),
                    to_two_digits(c.difference.value, c.difference.uncertainty, "+"),
                    claim_verdict(c)});
  console.table(rows);
  console.line(
      "Ours holds what history and mesh leave open, not what the model or the tunnel does.");
}

/// Comparisons with the same settings, group by group.
std::vector<std::vector<Comparison>> by_settings(const std::vector<Comparison>& all) {
  std::vector<std::vector<Comparison>> groups;
  for (const Comparison& c : all) {
    auto g = std::find_if(groups.begin(), groups.end(),
                          [&](const auto& one) { return one.front().settings == c.settings; });
    if (g == groups.end()) g = groups.insert(g, std::vector<Comparison>());
    g->push_back(c);
  }
  return groups;
}

void show_round(const Round& round, const std::vector<Comparison>& runs, const Campaign& campaign,
                Console& console) {
  constexpr double kwh = 3.6e6;  // J
  const Fuel fuel = round.fuel.empty() ? Fuel{kwh, "kWh"} : fuel_named(round.fuel);
  console.line();
  const std::string with = in_words(runs.front().settings);
  console.heading(fmt::format("{}: {:.4g} km{}", round.name, round.length() / 1000,
                              with.empty() ? "" : ", " + with));
  Rows rows = {
      {"variant", "kWh", "of it air",
       fmt::format("{} per 100 km", round.fuel.empty() ? "kWh" : fuel.unit + (" " + round.fuel)),
       "change from '" + campaign.baseline + "' kWh", "%"}};
  const std::vector<RoundRow> all = over_round(round, runs, campaign.baseline);
  for (const RoundRow& r : all) {
    const RoundEnergy& e = r.energy;
    rows.push_back({r.variant,
                    fmt::format("{:.2f} ± {:.2f}", e.energy / kwh, e.half_interval / kwh),
                    fmt::format("{:.0f} %", 100 * e.of_air / e.energy),
                    fmt::format("{:.2f}", e.energy / fuel.heat * 1e5 / round.length())});
    if (!r.more) {
      rows.back().insert(rows.back().end(), {"", ""});
      continue;
    }
    const double percent = 100 / (e.energy - r.more->value);
    rows.back().push_back(
        fmt::format("{:+.2f} ± {:.2f}", r.more->value / kwh, r.more->uncertainty / kwh));
    rows.back().push_back(
        fmt::format("{:+.1f} ± {:.1f}", r.more->value * percent, r.more->uncertainty * percent));
  }
  console.table(rows);
  for (const double speed : all.front().energy.assumed_speeds)
    console.line(fmt::format(
        "{:.4g} km/h was not run: its CD is that of the nearest speed that was", 3.6 * speed));
}

}  // namespace

void show_derived(const std::vector<Figures>& runs, const Campaign& campaign, Console& console) {
  if (runs.empty()) return;
  const std::vector<Comparison> comparisons = compare(runs, campaign.baseline);
  show_figures(comparisons, campaign, console);
  show_claims(compare_claims(campaign.claims, comparisons, campaign.file.string()), console);
  show_wind(wind_averaged(comparisons, campaign.wind), campaign, console);
  for (const Round& round : campaign.rounds)
    for (const auto& group : by_settings(comparisons)) show_round(round, group, campaign, console);
}

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
          {"rounds", rounds_json(comparisons, campaign)}};
}

}  // namespace dunefield::tool
