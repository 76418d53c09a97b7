// Tables of what follows from results: figures, claims, means over the wind, rounds.
#include <algorithm>

#include <fmt/format.h>

#include <dunefield/campaign/result_tables.hpp>
#include <dunefield/campaign/together.hpp>

namespace dunefield {

using Rows = std::vector<std::vector<std::string>>;

/// What is built in, and the user's own formulas.
std::vector<DerivedFigure> all_figures(const Figures& run, const Campaign& campaign) {
  std::vector<DerivedFigure> all = built_in_figures(run);
  for (const Formula& f : campaign.formulas) all.push_back(derived(run, f, campaign.file.string()));
  return all;
}

namespace {

/// What is built in, in the units that are read; the user's own formulas have their own.
std::vector<DerivedFigure> figures_to_read(const Figures& run, const Campaign& campaign) {
  std::vector<DerivedFigure> all = all_figures(run, campaign);
  const std::size_t built_in = all.size() - campaign.formulas.size();
  const DisplayUnits si, &units = campaign.units;
  for (std::size_t i = 0; i < built_in; ++i)
    for (const auto& [from, to] :
         {std::pair{si.force, units.force}, {si.power, units.power}, {si.area, units.area}})
      if (all[i].unit == from.name && to.size != from.size) {
        all[i].value /= to.size, all[i].half_interval /= to.size;
        all[i].unit = to.name;
        break;
      }
  return all;
}

ResultTable figures_table(const std::vector<Comparison>& comparisons, const Campaign& campaign) {
  // A column each; a figure that some runs do not have stays empty there.
  std::vector<std::string> columns;
  const auto title = [](const DerivedFigure& d) {
    return d.name + (d.unit.empty() ? "" : " " + d.unit);
  };
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows)
      for (const DerivedFigure& d : figures_to_read(r.run, campaign))
        if (std::find(columns.begin(), columns.end(), title(d)) == columns.end())
          columns.push_back(title(d));
  Rows rows = {{"variant", "at"}};
  rows[0].insert(rows[0].end(), columns.begin(), columns.end());
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows) {
      rows.push_back({r.run.run.variant, conditions_in_words(c.speed, c.settings, campaign.units)});
      rows.back().resize(rows[0].size());
      for (const DerivedFigure& d : figures_to_read(r.run, campaign)) {
        const auto column = std::find(columns.begin(), columns.end(), title(d));
        rows.back()[2 + static_cast<std::size_t>(column - columns.begin())] =
            to_two_digits(d.value, d.half_interval);
      }
    }
  return {"What follows from it", rows, {}};
}

ResultTable wind_table(const std::vector<WindAveraged>& all, const Campaign& campaign) {
  if (all.empty()) return {};
  Rows rows = {{"variant", "at", "CD", "CD at least yaw", "yaw up to deg",
                "change from '" + campaign.baseline + "'"}};
  for (const WindAveraged& w : all) {
    constexpr double degrees = 57.29577951308232;
    rows.push_back(
        {w.variant, conditions_in_words(w.speed, w.settings, campaign.units),
         fmt::format("{:.4f} ± {:.4f}", w.cd, w.half_interval),
         fmt::format("{:.4f}", w.at_least_yaw),
         fmt::format("{:.1f}{}", degrees * w.weights.largest_yaw,
                     w.weights.beyond ? ", beyond what was run" : ""),
         w.more ? fmt::format("{:+.4f} ± {:.4f}", w.more->value, w.more->uncertainty) : ""});
  }
  return {"Drag averaged over a wind of " + campaign.units.speed_text(campaign.wind) +
              " from all directions",
          rows,
          {}};
}

}  // namespace

const char* claim_verdict(const ClaimCompared& c) {
  if (!c.settled) return "none: not settled";
  if (c.difference.within_noise()) return "agrees";
  return c.difference.value > 0 ? "ours is more" : "ours is less";
}

namespace {

ResultTable claims_table(const std::vector<ClaimCompared>& all, const Campaign& campaign) {
  if (all.empty()) return {};
  Rows rows = {{"claimed", "of", "at", "figure", "theirs", "ours", "difference", "verdict"}};
  for (const ClaimCompared& c : all)
    rows.push_back(
        {c.claim.name, c.claim.variant, conditions_in_words(c.speed, c.settings, campaign.units),
         c.claim.figure, to_two_digits(c.claim.value, c.claim.half_interval),
         to_two_digits(c.ours.value, c.ours.half_interval),
         to_two_digits(c.difference.value, c.difference.uncertainty, "+"), claim_verdict(c)});
  return {"Claims",
          rows,
          {"Ours holds what history and mesh leave open, not what the model or the tunnel does."}};
}

}  // namespace

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

namespace {

ResultTable round_table(const Round& round, const std::vector<Comparison>& runs,
                        const Campaign& campaign) {
  constexpr double kwh = 3.6e6;  // J
  const Fuel fuel = round.fuel.empty() ? Fuel{kwh, "kWh"} : fuel_named(round.fuel);
  const std::string with = in_words(runs.front().settings);
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
  ResultTable t{fmt::format("{}: {:.4g} km{}", round.name, round.length() / 1000,
                            with.empty() ? "" : ", " + with),
                rows,
                {}};
  for (const double speed : all.front().energy.assumed_speeds)
    t.notes.push_back(campaign.units.speed_text(speed) +
                      " was not run: its CD is that of the nearest speed that was");
  return t;
}

}  // namespace

namespace {

ResultTable together_table(const std::vector<Together>& all, const Campaign& campaign) {
  if (all.empty()) return {};
  const auto percent = [](const std::optional<Share>& s) {
    return s ? to_two_digits(100 * s->value, 100 * s->half_interval) : std::string();
  };
  Rows rows = {{"vehicle", "of", "at", "CD", "CL", "CD alone", "% of alone"}};
  for (const Together& t : all) {
    const std::string at = conditions_in_words(t.speed, t.settings, campaign.units);
    for (const TogetherRow& r : t.rows)
      rows.push_back({r.vehicle, t.variant, at, drag_with_interval(r.cd), with_interval(r.cl, 3),
                      r.alone ? fmt::format("{:.4f}", *r.alone) : "not run", percent(r.share)});
    rows.push_back({"all of them", t.variant, at, "", "", "", percent(t.share_of_sum)});
  }
  return {"Each vehicle, referred to its own frontal area",
          rows,
          {"Alone: a variant with `vehicles` naming that one only."}};
}

}  // namespace

std::vector<ResultTable> derived_tables(const std::vector<Figures>& runs,
                                        const Campaign& campaign) {
  std::vector<ResultTable> tables;
  if (runs.empty()) return tables;
  const std::vector<Comparison> comparisons = compare(runs, campaign.baseline);
  tables.push_back(together_table(together(runs), campaign));
  tables.push_back(figures_table(comparisons, campaign));
  tables.push_back(
      claims_table(compare_claims(campaign.claims, comparisons, campaign.file.string()), campaign));
  tables.push_back(wind_table(wind_averaged(comparisons, campaign.wind), campaign));
  for (const Round& round : campaign.rounds)
    for (const auto& group : by_settings(comparisons))
      tables.push_back(round_table(round, group, campaign));
  std::erase_if(tables, [](const ResultTable& t) { return t.rows.empty(); });
  return tables;
}

}  // namespace dunefield
