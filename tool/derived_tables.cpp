// Tables of what follows from results: formulas of the user, and rounds.
#include "tables.hpp"

#include <fmt/format.h>

namespace dunefield::tool {
namespace {

using Rows = std::vector<std::vector<std::string>>;

void show_figures(const std::vector<Figures>& runs, const Campaign& campaign, Console& console) {
  Rows rows = {{"variant", "km/h"}};
  for (const Formula& f : campaign.formulas)
    rows[0].push_back(f.name + (f.unit.empty() ? "" : " " + f.unit));
  for (const Comparison& c : compare(runs, campaign.baseline))
    for (const ComparisonRow& r : c.rows) {
      rows.push_back({r.run.run.variant, fmt::format("{:.4g}", 3.6 * c.speed)});
      for (const Formula& f : campaign.formulas) {
        const DerivedFigure d = derived(r.run, f, campaign.file.string());
        rows.back().push_back(fmt::format("{:.4g} ± {:.2g}", d.value, d.half_interval));
      }
    }
  console.line();
  console.table(rows);
}

void show_round(const Round& round, const std::vector<Figures>& runs, const Campaign& campaign,
                Console& console) {
  constexpr double kwh = 3.6e6;  // J
  console.line();
  console.heading(fmt::format("{}: {:.4g} km", round.name, round.length() / 1000));
  Rows rows = {{"variant", "kWh", "of it air", "kWh per 100 km",
                "change from '" + campaign.baseline + "' kWh", "%"}};
  const std::vector<RoundRow> all = over_round(round, runs, campaign.baseline);
  for (const RoundRow& r : all) {
    const RoundEnergy& e = r.energy;
    rows.push_back({r.variant,
                    fmt::format("{:.2f} ± {:.2f}", e.energy / kwh, e.half_interval / kwh),
                    fmt::format("{:.0f} %", 100 * e.of_air / e.energy),
                    fmt::format("{:.2f}", e.energy / kwh * 1e5 / round.length())});
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
  if (!campaign.formulas.empty()) show_figures(runs, campaign, console);
  for (const Round& round : campaign.rounds) show_round(round, runs, campaign, console);
}

Json derived_json(const std::vector<Figures>& runs, const Campaign& campaign) {
  Json figures = Json::array(), rounds = Json::array();
  const auto add = [&](const Figures& r, const DerivedFigure& d) {
    figures.push_back({{"variant", r.run.variant},
                       {"speed_m_s", r.run.speed},
                       {"name", d.name},
                       {"unit", d.unit},
                       {"value", d.value},
                       {"half_interval_95", d.half_interval}});
  };
  for (const Comparison& c : compare(runs, campaign.baseline))
    for (const ComparisonRow& r : c.rows) {
      for (const DerivedFigure& d : built_in_figures(r.run)) add(r.run, d);
      for (const Formula& f : campaign.formulas)
        add(r.run, derived(r.run, f, campaign.file.string()));
    }
  for (const Round& round : campaign.rounds)
    for (const RoundRow& r : over_round(round, runs, campaign.baseline)) {
      rounds.push_back({{"round", round.name},
                        {"variant", r.variant},
                        {"energy_J", r.energy.energy},
                        {"of_it_against_the_air_J", r.energy.of_air},
                        {"half_interval_95_J", r.energy.half_interval}});
      if (r.more)
        rounds.back()["difference_J"] = r.more->value,
        rounds.back()["difference_uncertainty_J"] = r.more->uncertainty;
    }
  return {{"figures", figures}, {"rounds", rounds}};
}

}  // namespace dunefield::tool
