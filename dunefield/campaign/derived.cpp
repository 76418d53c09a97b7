#include <dunefield/campaign/derived.hpp>

#include <algorithm>
#include <cmath>
#include <functional>

#include <fmt/format.h>
#include <muParser.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr double gravity = 9.80665;  // m/s2

/// A run's figures with other coefficients: what the intervals leave open.
Figures with(const Figures& run, double cd, double clf, double clr) {
  Figures f = run;
  const double newtons = run.reference.dynamic_pressure() * run.reference.frontal_area;
  f.cd.mean = cd, f.clf.mean = clf, f.clr.mean = clr, f.cl.mean = clf + clr;
  f.drag = cd * newtons, f.lift = f.cl.mean * newtons;
  return f;
}

/// The value at the means, and what it changes by when each coefficient moves by its half interval.
DerivedFigure propagated(const Figures& run, const std::string& name, const std::string& unit,
                         const std::function<double(const Figures&)>& value) {
  const double cd = run.cd.mean, clf = run.clf.mean, clr = run.clr.mean;
  DerivedFigure d{name, unit, value(with(run, cd, clf, clr))};
  const double by[] = {value(with(run, cd + run.cd.half_interval, clf, clr)) - d.value,
                       value(with(run, cd, clf + run.clf.half_interval, clr)) - d.value,
                       value(with(run, cd, clf, clr + run.clr.half_interval)) - d.value};
  for (const double b : by) d.half_interval += b * b;
  d.half_interval = std::sqrt(d.half_interval);
  return d;
}

double of_part(const Figures& run, const std::string& part, double PartMean::*what) {
  for (const PartMean& p : run.parts)
    if (p.part == part) return p.*what;
  throw mu::Parser::exception_type("the run has no part '" + part + "'");
}

/// @param run points to the run whose parts a formula asks for, or to none: not known yet
double cd_of(void* run, const char* part) {
  const Figures* const f = *static_cast<const Figures**>(run);
  return f ? of_part(*f, part, &PartMean::cd) : 1;
}
double cl_of(void* run, const char* part) {
  const Figures* const f = *static_cast<const Figures**>(run);
  return f ? of_part(*f, part, &PartMean::cl) : 1;
}

double evaluated(const std::string& formula, const Figures& f, const Figures* parts) {
  const ReferenceValues& r = f.reference;
  mu::Parser parser;
  std::pair<const char*, double> variables[] = {
      {"CD", f.cd.mean},          {"CL", f.cl.mean},    {"CLF", f.clf.mean},
      {"CLR", f.clr.mean},        {"CY", f.cy.mean},    {"drag", f.drag},
      {"lift", f.lift},           {"side", f.side},     {"speed", r.speed},
      {"area", r.frontal_area},   {"length", r.length}, {"density", r.density},
      {"q", r.dynamic_pressure()}};
  for (auto& [name, value] : variables) parser.DefineVar(name, &value);
  parser.DefineFunUserData("CD_of", cd_of, &parts);
  parser.DefineFunUserData("CL_of", cl_of, &parts);
  parser.SetExpr(formula);
  return parser.Eval();
}

/// Errors of the formula as ours.
template <class Work>
auto named(const Formula& f, const std::string& where, const Work& work) {
  try {
    return work();
  } catch (const mu::Parser::exception_type& e) {
    throw InputError(fmt::format("'{}' of the figure '{}': {}", f.formula, f.name, e.GetMsg()),
                     where,
                     "use CD, CL, CLF, CLR, CY, drag, lift, side, speed, area, length, density, q, "
                     "CD_of(\"part\"), CL_of(\"part\")");
  }
}

}  // namespace

std::vector<DerivedFigure> built_in_figures(const Figures& run) {
  std::vector<DerivedFigure> all = {
      propagated(run, "drag area", "m2",
                 [](const Figures& f) { return f.cd.mean * f.reference.frontal_area; }),
      propagated(run, "power", "W", [](const Figures& f) { return f.drag * f.reference.speed; }),
      propagated(run, "lift over drag", "",
                 [](const Figures& f) { return f.cl.mean / f.cd.mean; })};
  constexpr double some = 0.05;  // of CL: the share of next to nothing is anything
  // Nor has it one where one axle is lifted and the other pressed down.
  if (std::abs(run.cl.mean) > some && run.clf.mean * run.clr.mean >= 0)
    all.push_back(propagated(run, "front share of lift", "%",
                             [](const Figures& f) { return 100 * f.clf.mean / f.cl.mean; }));
  return all;
}

DerivedFigure derived(const Figures& run, const Formula& formula, const std::string& where) {
  const DerivedFigure d = named(formula, where, [&] {
    return propagated(run, formula.name, formula.unit,
                      [&](const Figures& f) { return evaluated(formula.formula, f, &run); });
  });
  if (!std::isfinite(d.value))
    throw InputError(
        fmt::format("the figure '{}' is not finite for '{}'", formula.name, run.run.variant), where,
        "check its formula");
  return d;
}

void check_formula(const Formula& formula, const std::string& where) {
  Figures f;
  f.reference = {25, 1.2, 2, 3};
  f = with(f, 0.3, -0.1, 0.1);
  named(formula, where, [&] { return evaluated(formula.formula, f, nullptr); });
}

AtSpeed at_speed(std::vector<Figures> runs, double speed, double kinematic_viscosity) {
  if (runs.empty()) throw InputError("no run is there", "speed", "run the variant first");
  std::sort(runs.begin(), runs.end(),
            [](const Figures& a, const Figures& b) { return a.run.speed < b.run.speed; });
  const ReferenceValues& r = runs.front().reference;
  const auto reynolds = [&](double v) { return v * r.length / kinematic_viscosity; };
  AtSpeed a{speed, reynolds(speed)};
  a.least_reynolds = reynolds(runs.front().run.speed);
  a.most_reynolds = reynolds(runs.back().run.speed);
  const auto above = std::find_if(runs.begin(), runs.end(),
                                  [&](const Figures& f) { return f.run.speed >= speed; });
  const Figures& hi = above == runs.end() ? runs.back() : *above;
  const Figures& lo = above == runs.begin() || above == runs.end() ? hi : *(above - 1);
  const double t =
      &lo == &hi ? 0 : std::log(speed / lo.run.speed) / std::log(hi.run.speed / lo.run.speed);
  a.cd = lo.cd.mean + t * (hi.cd.mean - lo.cd.mean);
  a.cl = lo.cl.mean + t * (hi.cl.mean - lo.cl.mean);
  const double newtons = 0.5 * r.density * speed * speed * r.frontal_area;
  a.drag = a.cd * newtons, a.lift = a.cl * newtons, a.power = a.drag * speed;
  return a;
}

Fuel fuel_named(const std::string& name) {
  if (name == "petrol") return {32.0e6, "l"};
  if (name == "diesel") return {35.9e6, "l"};
  if (name == "hydrogen") return {120e6, "kg"};
  throw InputError("the fuel '" + name + "' is not known", "round",
                   "use petrol, diesel or hydrogen, or leave it out for a battery");
}

double Round::length() const {
  double sum = 0;
  for (const Leg& leg : legs) sum += leg.length;
  return sum;
}

namespace {

/// Of things at speeds the one nearest to a speed.
template <class List, class SpeedOf>
const auto& nearest_to(double speed, const List& list, const SpeedOf& speed_of) {
  return *std::min_element(list.begin(), list.end(), [&](const auto& a, const auto& b) {
    return std::abs(speed_of(a) - speed) < std::abs(speed_of(b) - speed);
  });
}

/// Energy that a drag coefficient of one takes on a leg.
double of_unit_drag(const Round& round, const Round::Leg& leg, const ReferenceValues& r) {
  return 0.5 * r.density * leg.speed * leg.speed * r.frontal_area * leg.length / round.efficiency;
}

}  // namespace

RoundEnergy energy_of(const Round& round, const std::vector<Figures>& runs) {
  if (runs.empty())
    throw InputError("no run is there to take the drag from", round.name, "run the variant first");
  RoundEnergy e;
  for (const Round::Leg& leg : round.legs) {
    const Figures& nearest =
        nearest_to(leg.speed, runs, [](const Figures& f) { return f.run.speed; });
    if (std::abs(leg.speed / nearest.run.speed - 1) > 1e-6) e.assumed_speeds.push_back(leg.speed);
    const double unit = of_unit_drag(round, leg, nearest.reference);
    e.of_air += nearest.cd.mean * unit;
    // Legs share one drag coefficient: what is wrong with it is wrong in all.
    e.half_interval += nearest.cd.half_interval * unit;
    e.energy += round.rolling_resistance * round.mass * gravity * leg.length / round.efficiency;
  }
  e.energy += e.of_air;
  return e;
}

std::vector<RoundRow> over_round(const Round& round, const std::vector<Comparison>& comparisons,
                                 const std::string& baseline) {
  std::vector<RoundRow> rows;
  const auto energy = [&](const std::string& variant) {
    std::vector<Figures> of_variant;
    for (const Comparison& c : comparisons)
      for (const ComparisonRow& r : c.rows)
        if (r.run.run.variant == variant) of_variant.push_back(r.run);
    return of_variant.empty() ? RoundEnergy{} : energy_of(round, of_variant);
  };
  const double base = energy(baseline).energy;
  const auto add = [&](const std::string& variant) {
    if (std::any_of(rows.begin(), rows.end(),
                    [&](const RoundRow& r) { return r.variant == variant; }))
      return;
    RoundRow& row = rows.emplace_back();
    row.variant = variant, row.energy = energy(variant);
    if (variant == baseline || !(base > 0)) return;
    Difference more{row.energy.energy - base, 0};
    for (const Round::Leg& leg : round.legs) {
      const Comparison& c =
          nearest_to(leg.speed, comparisons, [](const Comparison& one) { return one.speed; });
      for (const ComparisonRow& r : c.rows)
        if (r.run.run.variant == variant && r.cd)
          more.uncertainty += r.cd->uncertainty * of_unit_drag(round, leg, r.run.reference);
    }
    row.more = more;
  };
  for (const Comparison& c : comparisons)
    for (const ComparisonRow& r : c.rows) add(r.run.run.variant);
  return rows;
}

}  // namespace dunefield
