#include <dunefield/campaign/flow_tables.hpp>

#include <algorithm>

namespace dunefield {
namespace {

/// `earlier`, `stream`, or the folder of a run.
void read_start(Table& t, Campaign& c) {
  const std::string start = t.text("start", "earlier");
  c.start_earlier = start != "stream";
  if (start == "earlier" || start == "stream") return;
  c.start_run = c.file.parent_path() / start;
  if (!std::filesystem::is_regular_file(c.start_run / record_file::numbers))
    t.fail("start", "'" + start + "' is no folder of a finished run",
           "name one with record.json in it, or \"earlier\" or \"stream\"");
}

}  // namespace

std::vector<Belt> read_belts(Table& root) {
  std::vector<Belt> belts;
  for (Table& t : root.tables("belt")) {
    Belt b;
    b.length = t.needed("length", Dimension::length),
    b.width = t.needed("width", Dimension::length);
    b.under_wheels = t.flag("under_wheels", false);
    if (b.under_wheels && t.has("centre"))
      t.fail("centre", "is given for a belt under each wheel", "leave one of them out");
    if (t.has("centre")) b.centre = t.place("centre");
    t.finish();
    belts.push_back(b);
  }
  return belts;
}

void read_tunnel(Table t, Campaign& c) {
  c.tunnel.half = t.flag("half", false);
  c.tunnel.ahead = t.number("ahead", c.tunnel.ahead, 0.5);
  c.tunnel.behind = t.number("behind", c.tunnel.behind, 1);
  c.tunnel.width = t.number("width", 0, 0);
  c.tunnel.height = t.number("height", 0, 0);
  c.tunnel.blockage = t.number("blockage", c.tunnel.blockage, 1e-4);
  if (c.conditions.belts.empty() && t.text("road", "") == "belts")
    t.fail("road", "is \"belts\", but there is no [[belt]]", "give each belt a length and a width");
  c.conditions.rolling_road =
      t.choice("road", c.conditions.belts.empty() ? "rolling" : "belts",
               c.conditions.belts.empty() ? std::vector<std::string>{"rolling", "fixed"}
                                          : std::vector<std::string>{"belts"}) != "fixed";
  if (t.has("boundary_layer_from"))
    c.conditions.boundary_layer_from =
        t.signed_quantity("boundary_layer_from", Dimension::length, 0);
  c.conditions.road_speed = t.quantity("road_speed", Dimension::speed);
  t.finish();
}

std::optional<TimeChoice> read_time(Table& root) {
  if (!root.has("time")) return std::nullopt;
  Table t = root.table("time");
  TimeChoice c;
  c.step = t.quantity("step", Dimension::time),
  c.duration = t.quantity("duration", Dimension::time);
  if (c.step && t.has("crossing"))
    t.fail("crossing", "and step contradict each other", "give one of them");
  if (c.duration && t.has("lengths"))
    t.fail("lengths", "and duration contradict each other", "give one of them");
  c.crossing = t.number("crossing", c.crossing, 1e-3);
  c.lengths = t.number("lengths", c.lengths, 1e-3);
  c.iterations = static_cast<int>(t.number("iterations", c.iterations, 2));
  c.fall = t.number("fall", c.fall, 1e-10);
  c.picture_every = t.quantity("picture_every", Dimension::time);
  t.finish();
  return c;
}

void read_air(Table t, Campaign& c) {
  constexpr double usual_pressure = 101325, coldest = 150, hottest = 400;  // Pa, K
  Air& air = c.conditions.air;
  if (t.has("temperature")) c.stream_temperature = t.needed("temperature", Dimension::temperature);
  if (c.stream_temperature < coldest || c.stream_temperature > hottest)
    t.fail("temperature", fmt::format("is {:.0f} K", c.stream_temperature),
           "check its unit: \"15 degC\"");
  const bool at_rest = t.has("total_temperature") || t.has("total_pressure");
  if (at_rest && (t.has("temperature") || t.has("pressure") || t.has("density") ||
                  t.has("kinematic_viscosity")))
    t.fail("total_temperature", "and what the stream has contradict each other",
           "give the total conditions alone: the stream's follow from its speed");
  if (at_rest) {
    TotalConditions total;
    total.temperature =
        t.quantity("total_temperature", Dimension::temperature).value_or(total.temperature);
    if (total.temperature < coldest || total.temperature > hottest)
      t.fail("total_temperature", fmt::format("is {:.0f} K", total.temperature),
             "check its unit: \"15 degC\"");
    total.pressure = t.number("total_pressure", usual_pressure, 100);
    c.conditions.total = total;
  }
  if (t.has("temperature") || t.has("pressure"))
    air = air_at(c.stream_temperature, t.number("pressure", usual_pressure, 100));
  air.density = t.quantity("density", Dimension::density).value_or(air.density);
  air.kinematic_viscosity = t.quantity("kinematic_viscosity", Dimension::kinematic_viscosity)
                                .value_or(air.kinematic_viscosity);
  t.finish();
}

void read_flow(Table t, Campaign& c) {
  std::vector<std::string> models;
  for (const TurbulenceTraits& row : turbulence_models) models.push_back(row.word);
  const std::string model = t.choice("turbulence", traits_of(c.flow.turbulence).word, models);
  for (const TurbulenceTraits& row : turbulence_models)
    if (model == row.word) c.flow.turbulence = row.model;
  c.limits.iterations = static_cast<int>(t.number("iterations", c.limits.iterations, 1));
  c.limits.until_settled = t.flag("until_settled", true);
  if (t.has("accuracy")) c.limits.drag_accuracy = t.number("accuracy", 0, 1e-6);
  if (t.has("lift_accuracy")) c.limits.lift_accuracy = t.number("lift_accuracy", 0, 1e-6);
  if (t.has("difference_accuracy"))
    c.limits.difference_accuracy = t.number("difference_accuracy", 0, 1e-6);
  c.save_every = t.quantity("save_every", Dimension::time).value_or(c.save_every);
  c.flow.stream_turbulence.intensity =
      t.number("stream_intensity", c.flow.stream_turbulence.intensity, 1e-6);
  c.flow.stream_turbulence.viscosity_ratio =
      t.number("stream_viscosity_ratio", c.flow.stream_turbulence.viscosity_ratio, 1e-6);
  read_start(t, c);
  if (t.flag("compressible", false)) {
    c.conditions.fast = FastAir{};
    c.conditions.fast->temperature = c.stream_temperature;
  } else if (c.conditions.total) {
    t.fail("compressible", "is false, but [air] gives total conditions",
           "set it to true, or give the stream's own temperature and pressure");
  }
  c.flow.courant = t.number("courant", c.flow.courant, 0.01);
  t.finish();
}

}  // namespace dunefield
