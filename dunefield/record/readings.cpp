#include <dunefield/record/readings.hpp>

#include <fmt/format.h>

#include <dunefield/base/csv.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/slug.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/base/valid_text.hpp>
#include <dunefield/record/json.hpp>

namespace dunefield {
namespace {

constexpr int digits = 7;

std::string taps_csv(const Record& r, const std::vector<Tap>& taps) {
  CsvTable table({"tap", "part", "x m", "y m", "z m", "off m", "pressure Pa", "Cp"}, digits);
  for (const TapReading& t : read_taps(r.readings(), taps, r.reference))
    table.add({t.tap, t.part, t.place.x, t.place.y, t.place.z, t.off, t.pressure, t.cp});
  return table.text();
}

std::string rakes_csv(const Record& r, const std::vector<Rake>& rakes) {
  CsvTable table(
      {"rake", "x m", "y m", "z m", "u m/s", "v m/s", "w m/s", "pressure Pa", "Cp", "total Cp"},
      digits);
  for (const RakeReading& k : read_rakes(r.readings(), rakes, r.reference)) {
    const Vec3 &x = k.place, &u = k.velocity;
    if (k.air)
      table.add({k.rake, x.x, x.y, x.z, u.x, u.y, u.z, k.pressure, k.cp, k.total_cp});
    else
      table.add({k.rake, x.x, x.y, x.z, {}, {}, {}, {}, {}, {}});
  }
  return table.text();
}

std::string planes_csv(const Record& r, const std::vector<MeasuringPlane>& planes) {
  CsvTable table({"plane", "area m2", "mass flow kg/s", "u m/s", "v m/s", "w m/s", "pressure Pa",
                  "Cp", "total Cp"},
                 digits);
  for (const PlaneReading& p : read_planes(r.readings(), planes, r.reference))
    table.add({p.plane, p.area, p.mass_flow, p.velocity.x, p.velocity.y, p.velocity.z, p.pressure,
               p.cp, p.total_cp});
  return table.text();
}

std::string build_up_csv(const Record& r) {
  const BuildUp b = build_up(r);
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
  CsvTable table({"x_m", "CD", "CD_pressure", "CD_friction", "CL"}, digits);
  for (std::size_t i = 0; i < b.station.size(); ++i) {
    const double pressure = b.pressure[i].x / qa, friction = b.friction[i].x / qa;
    table.add({b.station[i], pressure + friction, pressure, friction,
               (b.pressure[i].z + b.friction[i].z) / qa});
  }
  return table.text();
}

std::string taps_in_time_csv(const ProbeSeries& s) {
  std::vector<std::string> header = {"time s"};
  std::vector<std::vector<double>> columns;
  for (std::size_t p = 0; p < s.probes.size(); ++p)
    if (s.probes[p].number == 0)
      header.push_back(s.probes[p].name + " Pa"), columns.push_back(s.of(p, 0));
  CsvTable table(header, digits);
  for (std::size_t step = 0; step < s.time.size(); ++step) {
    std::vector<CsvCell> row(1 + columns.size());
    row[0].value = s.time[step];
    for (std::size_t c = 0; c < columns.size(); ++c) row[c + 1].value = columns[c][step];
    table.add(row);
  }
  return table.text();
}

std::string rakes_in_time_csv(const ProbeSeries& s) {
  CsvTable table({"time s", "rake", "point", "pressure Pa", "u m/s", "v m/s", "w m/s"}, digits);
  const std::size_t width = s.width();
  for (std::size_t step = 0; step < s.time.size(); ++step) {
    const float* value = &s.values[step * width];
    for (const Probe& p : s.probes) {
      const auto at_column = [&](int c) { return static_cast<double>(value[c]); };
      if (p.number > 0)
        table.add({s.time[step], p.name, p.number, at_column(0), at_column(1), at_column(2),
                   at_column(3)});
      value += p.columns();
    }
  }
  return table.text();
}

std::string probes_csv(const Record& r) {
  CsvTable table({"name", "point", "x m", "y m", "z m", "quantity", "unit", "mean",
                  "half interval 95", "deviation", "least", "most", "strongest Hz"},
                 digits);
  for (const ProbeStatistics& s : statistics_of(r.probes, r.means_from_time())) {
    const Probe& p = r.probes.probes[s.probe];
    const ProbeColumn& c = probe_columns[s.column];
    table.add({p.name, p.number > 0 ? CsvCell(p.number) : CsvCell(), p.place.x, p.place.y,
               p.place.z, c.name, c.unit, s.mean.mean, s.mean.half_interval, s.deviation,
               s.mean.least, s.mean.most, s.peak > 0 ? CsvCell(s.peak) : CsvCell()});
  }
  return table.text();
}

/// A flow in time: the series, and what they come to.
void write_probe_series(const std::filesystem::path& folder, const Record& r) {
  const std::vector<Probe>& probes = r.probes.probes;
  if (r.probes.empty()) return;
  write_text(folder / "probes-in-time.csv", probes_csv(r));
  if (probes.front().number == 0)
    write_text(folder / "taps-in-time.csv", taps_in_time_csv(r.probes));
  if (probes.back().number > 0)
    write_text(folder / "rakes-in-time.csv", rakes_in_time_csv(r.probes));
}

}  // namespace

void write_readings(const std::filesystem::path& folder, const Record& r,
                    const Readings& readings) {
  write_text(folder / "build-up.csv", build_up_csv(r));
  if (!readings.taps.empty()) write_text(folder / "taps.csv", taps_csv(r, readings.taps));
  if (!readings.rakes.empty()) write_text(folder / "rakes.csv", rakes_csv(r, readings.rakes));
  if (!readings.planes.empty()) write_text(folder / "planes.csv", planes_csv(r, readings.planes));
  write_probe_series(folder, r);
}

namespace {

Readings readings_from(const Json& j) {
  Readings out;
  for (const Json& t : j.at("taps")) out.taps.push_back({t.at("name"), vector_from(t.at("at_m"))});
  for (const Json& k : j.at("rakes")) {
    out.rakes.push_back({k.at("name"), {}});
    for (const Json& p : k.at("points_m")) out.rakes.back().points.push_back(vector_from(p));
  }
  for (const Json& p : j.at("planes"))
    out.planes.push_back({p.at("name"), vector_from(p.at("centre_m")), vector_from(p.at("normal")),
                          p.at("width_m"), p.at("height_m")});
  if (j.contains("pictures"))  // none in records of before
    for (const Json& p : j.at("pictures")) {
      out.pictures.push_back({p.at("name"), {}});
      for (const Json& w : p.at("words"))
        out.pictures.back().words.push_back({w.at("key"), w.at("value")});
    }
  out.units = j.value("units", out.units);
  return out;
}

}  // namespace

Readings readings_of(const Record& r) {
  constexpr char where[] = "the record's set-up", advice[] = "run that case again";
  const Json setup = parsed_json(r.setup, where);
  if (!setup.is_object() || !setup.contains("readings")) return {};
  Readings out;
  try {
    out = readings_from(setup["readings"]);
  } catch (const Json::exception& e) {
    throw InputError(fmt::format("is damaged ({})", e.what()), where, advice);
  }
  for (const WantedPicture& p : out.pictures)
    if (!is_file_name(p.name))
      throw InputError("'" + valid_text(p.name) + "' is no name for a picture's file", where,
                       advice);
  return out;
}

BuildUp build_up(const Record& r, int stations) {
  return build_up(*r.mesh, r.loads, r.balance.undisturbed_pressure, r.run.half, stations);
}

}  // namespace dunefield
