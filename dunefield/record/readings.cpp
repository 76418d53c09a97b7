#include <dunefield/record/readings.hpp>

#include <dunefield/base/csv.hpp>
#include <dunefield/base/text_file.hpp>
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

}  // namespace

void write_readings(const std::filesystem::path& folder, const Record& r,
                    const Readings& readings) {
  write_text(folder / "build-up.csv", build_up_csv(r));
  if (!readings.taps.empty()) write_text(folder / "taps.csv", taps_csv(r, readings.taps));
  if (!readings.rakes.empty()) write_text(folder / "rakes.csv", rakes_csv(r, readings.rakes));
  if (!readings.planes.empty()) write_text(folder / "planes.csv", planes_csv(r, readings.planes));
}

Readings readings_of(const Record& r) {
  Readings out;
  const Json setup = Json::parse(r.setup, nullptr, false);
  if (!setup.is_object() || !setup.contains("readings")) return out;
  const Json& j = setup["readings"];
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
  return out;
}

BuildUp build_up(const Record& r, int stations) {
  return build_up(*r.mesh, r.loads, r.balance.undisturbed_pressure, r.run.half, stations);
}

}  // namespace dunefield
