#include <dunefield/campaign/evaluation_tables.hpp>

#include <algorithm>
#include <set>

#include <dunefield/base/slug.hpp>
#include <dunefield/campaign/run_matrix.hpp>
#include <dunefield/look/picture_request.hpp>

namespace dunefield {
namespace {

void read_compare(Table t, Campaign& c) {
  c.baseline = t.text("baseline", c.variants.front().name);
  if (std::none_of(c.variants.begin(), c.variants.end(),
                   [&](const Campaign::Variant& v) { return v.name == c.baseline; }))
    t.fail("baseline", "'" + c.baseline + "' is no variant", "name one of the [[variant]]s");
  c.wind = t.quantity("wind", Dimension::speed).value_or(c.wind);
  if (t.has("want")) c.wants.less_drag = false;
  for (const std::string& want : t.texts("want"))
    if (!add_want(c.wants, want))
      t.fail("want", "'" + want + "' is not known",
             "use \"less drag\", \"more drag\", \"more downforce\" or \"less downforce\"");
  if ((c.wants.less_drag && c.wants.more_drag) ||
      (c.wants.less_downforce && c.wants.more_downforce))
    t.fail("want", "asks for more and for less of the same", "take one of them out");
  t.finish();
}

void read_figures_wanted(Table& root, Campaign& c) {
  std::set<std::string> seen;
  for (Table& t : root.tables("figure")) {
    Formula f{t.text("name", ""), t.text("formula", ""), t.text("unit", "")};
    if (f.name.empty()) t.fail("name", "is missing", "give each figure a name");
    if (f.formula.empty()) t.fail("formula", "is missing", "write one like \"drag * speed\"");
    if (!seen.insert(f.name).second)
      t.fail("name", "'" + f.name + "' stands twice", "give each figure its own name");
    check_formula(f, t.where_it_stands());
    t.finish();
    c.formulas.push_back(f);
  }
}

void read_rounds(Table& root, Campaign& c) {
  for (Table& t : root.tables("round")) {
    Round r;
    r.name = t.text("name", "round");
    r.mass = t.quantity("mass", Dimension::mass).value_or(0);
    r.rolling_resistance = t.number("rolling_resistance", 0, 0);
    r.efficiency = t.number("efficiency", 1, 0.01);
    r.fuel = t.text("fuel", "");
    if (!r.fuel.empty()) fuel_named(r.fuel);
    if (r.efficiency > 1) t.fail("efficiency", "is over 1", "write the share, like 0.85");
    if (r.rolling_resistance > 0 && r.mass == 0)
      t.fail("mass", "is missing, but there is a rolling resistance", "write mass = \"2800 kg\"");
    for (Table& leg : t.tables("leg")) {
      r.legs.push_back(
          {leg.needed("speed", Dimension::speed), leg.needed("length", Dimension::length)});
      leg.finish();
    }
    if (r.legs.empty())
      t.fail("leg", "is missing",
             "write [[round.leg]] with speed = \"60 km/h\" and length = \"12 km\"");
    t.finish();
    c.rounds.push_back(r);
  }
}

void read_claims(Table& root, Campaign& c) {
  for (Table& t : root.tables("claim")) {
    Claim claim;
    claim.name = t.text("name", "claimed");
    claim.variant = t.text("variant", c.baseline);
    if (std::none_of(c.variants.begin(), c.variants.end(),
                     [&](const Campaign::Variant& v) { return v.name == claim.variant; }))
      t.fail("variant", "'" + claim.variant + "' is no variant", "name one of the [[variant]]s");
    claim.figure = t.text("figure", claim.figure);
    check_formula({claim.name, claim.figure, ""}, t.where("figure"));
    if (!t.has("value")) t.fail("value", "is missing", "write value = 0.29");
    claim.value = t.number("value", 0, -1e9);
    claim.half_interval = t.number("uncertainty", 0, 0);
    claim.speed = t.quantity("speed", Dimension::speed).value_or(0);
    t.finish();
    c.claims.push_back(claim);
  }
}

/// The two ends of a key's range: numbers of one unit.
SearchKey read_range(Table& t, const std::string& key, const toml::node& node) {
  check_setting_key(t, key);
  const toml::array* ends = node.as_array();
  if (!ends || ends->size() != 2)
    t.fail(key.c_str(), "is not a range", "write \"" + key + "\" = [\"-10 mm\", \"20 mm\"]");
  SearchKey range{key, 0, 0, ""};
  const auto [from, unit] = number_and_unit(value_of(t, *ends->get(0), key.c_str()));
  const auto [to, other] = number_and_unit(value_of(t, *ends->get(1), key.c_str()));
  if (unit != other)
    t.fail(key.c_str(), "has ends in '" + unit + "' and in '" + other + "'",
           "give both in one unit");
  if (!(from < to)) t.fail(key.c_str(), "is an empty range", "write the smaller end first");
  range.from = from, range.to = to, range.unit = unit;
  return range;
}

void read_search(Table& root, Campaign& c) {
  if (!root.has("search")) return;
  Table t = root.table("search");
  SearchTask s;
  s.variant = t.text("variant", c.baseline);
  if (std::none_of(c.variants.begin(), c.variants.end(),
                   [&](const Campaign::Variant& v) { return v.name == s.variant; }))
    t.fail("variant", "'" + s.variant + "' is no variant", "name one of the [[variant]]s");
  if (t.has("least") == t.has("most"))
    t.fail("least", "or most, one of them is needed", "write least = \"CD\" or most = \"-CL\"");
  s.most = t.has("most");
  s.goal = {"goal", t.text(s.most ? "most" : "least", ""), ""};
  check_formula(s.goal, t.where(s.most ? "most" : "least"));
  s.runs = static_cast<int>(t.number("runs", s.runs, 1));
  Table keys = t.table("keys");
  keys.for_each_key([&](const std::string& key, const toml::node& node) {
    s.keys.push_back(read_range(keys, key, node));
  });
  if (s.keys.empty())
    t.fail("keys", "names nothing to change: the search has no freedom",
           "write [search.keys] with \"ride.front\" = [\"-10 mm\", \"10 mm\"]");
  for (Table& l : t.tables("limit")) {
    SearchLimit limit;
    limit.figure = {"limit", l.text("figure", "CD"), ""};
    check_formula(limit.figure, l.where("figure"));
    if (l.has("least") == l.has("most"))
      l.fail("least", "or most, one of them is needed", "write most = 0.9");
    limit.most = l.has("most");
    limit.value = l.number(limit.most ? "most" : "least", 0, -1e9);
    l.finish();
    s.limits.push_back(limit);
  }
  t.finish();
  c.search = s;
}

/// One text or a list of them.
void read_words(Table& t, const char* key, WantedPicture& into) {
  if (t.list(key))
    for (const std::string& text : t.texts(key)) into.words.push_back({key, text});
  else if (t.has(key))
    into.words.push_back({key, t.text(key, "")});
}

void read_pictures(Table& root, Campaign& c) {
  static const std::set<std::string> taken_by_runs = {"pressure", "speed", "history", "build-up"};
  std::set<std::string> seen = taken_by_runs;
  for (Table& t : root.tables("picture")) {
    WantedPicture p;
    p.name = t.text("name", "");
    if (p.name.empty()) t.fail("name", "is missing", "give each picture a name: that of its file");
    if (!is_file_name(p.name))
      t.fail("name", "'" + p.name + "' is no name for a file", "use letters, digits, '-' and '_'");
    if (!seen.insert(p.name).second)
      t.fail("name", "'" + p.name + "' stands twice, or is one that every run leaves",
             "give each picture its own name");
    for (const char* key : {"surface", "slice", "smoke", "volume", "cores", "range", "view",
                            "towards", "chart", "series"})
      read_words(t, key, p);
    if (t.has("zoom")) p.words.push_back({"zoom", fmt::format("{}", t.number("zoom", 1, 0))});
    p.words.push_back({"paper", t.choice("paper", "light", {"light", "dark"})});
    t.finish();
    try {
      request_from(p);
    } catch (const InputError& e) {
      t.fail("name", "'" + p.name + "': " + e.what(), "see docs/guide/pictures.md");
    }
    c.readings.pictures.push_back(p);
  }
}

}  // namespace

void read_evaluation(Table& root, Campaign& c) {
  read_compare(root.table("compare"), c);
  read_figures_wanted(root, c);
  read_rounds(root, c);
  read_claims(root, c);
  read_search(root, c);
  read_pictures(root, c);
}

}  // namespace dunefield
