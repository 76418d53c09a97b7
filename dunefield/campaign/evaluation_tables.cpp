#include <dunefield/campaign/evaluation_tables.hpp>

#include <algorithm>
#include <set>

namespace dunefield {
namespace {

void read_compare(Table t, Campaign& c) {
  c.baseline = t.text("baseline", c.variants.front().name);
  if (std::none_of(c.variants.begin(), c.variants.end(),
                   [&](const Campaign::Variant& v) { return v.name == c.baseline; }))
    t.fail("baseline", "'" + c.baseline + "' is no variant", "name one of the [[variant]]s");
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

}  // namespace

void read_evaluation(Table& root, Campaign& c) {
  read_compare(root.table("compare"), c);
  read_figures_wanted(root, c);
  read_rounds(root, c);
}

}  // namespace dunefield
