#include <dunefield/record/record_numbers.hpp>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char schema_name[] = "dunefield record";
constexpr int schema_version = 1;
constexpr double gravity = 9.80665;  // m/s2: lift as the weight that it takes off an axle

Json mean_json(const WindowMean& w) {
  return {{"mean", w.mean},        {"least", w.least},
          {"most", w.most},        {"half_interval_95", w.half_interval},
          {"iterations", w.count}, {"memory_iterations", w.memory}};
}
WindowMean mean_from(const Json& j) {
  return {j.at("mean"),       j.at("least"),
          j.at("most"),       j.at("half_interval_95"),
          j.at("iterations"), j.value("memory_iterations", 0.0)};
}

Json load_json(const Load& l) {
  return {{"force_N", vector_json(l.force)}, {"moment_Nm", vector_json(l.moment)}};
}
Load load_from(const Json& j) {
  return {vector_from(j.at("force_N")), vector_from(j.at("moment_Nm"))};
}

Json box_json(const Box& b) { return {{"from_m", vector_json(b.lo)}, {"to_m", vector_json(b.hi)}}; }
Box box_from(const Json& j) { return {vector_from(j.at("from_m")), vector_from(j.at("to_m"))}; }

/// None in records of before.
Settings settings_from(const Json& j) {
  Settings settings;
  if (j.contains("settings"))
    for (const Json& s : j.at("settings")) settings.push_back({s.at("key"), s.at("value")});
  return settings;
}

Json identity_json(const RunIdentity& r) {
  return {{"campaign", r.campaign},
          {"variant", r.variant},
          {"recipe", r.recipe},
          {"speed_m_s", r.speed},
          {"yaw_rad", r.yaw},
          {"half_model", r.half},
          {"layers", r.layers},
          {"lattice", r.lattice + 1},
          {"settings", to_json(r.settings)},
          {"coarseness", r.coarseness},
          {"blunt_end", r.blunt},
          {"units", r.units},
          {"morph", r.follows},
          {"hashes",
           {{"mesh", r.hashes.mesh}, {"flow", r.hashes.flow}, {"readings", r.hashes.readings}}}};
}
RunIdentity identity_from(const Json& j) {
  const Json& h = j.at("hashes");
  return {j.at("campaign"),
          j.at("variant"),
          j.at("recipe"),
          j.at("speed_m_s"),
          j.at("yaw_rad"),
          j.at("half_model"),
          j.at("layers"),
          j.value("lattice", 1) - 1,
          {h.at("mesh"), h.at("flow"), h.at("readings")},
          settings_from(j),
          j.value("coarseness", 1.0),
          j.value("blunt_end", 0.0),
          j.value("units", "si"),
          j.value("morph", false)};
}

Json reference_json(const ReferenceValues& r) {
  return {{"speed_m_s", r.speed},
          {"density_kg_m3", r.density},
          {"frontal_area_m2", r.frontal_area},
          {"length_m", r.length}};
}
ReferenceValues reference_from(const Json& r) {
  return {r.at("speed_m_s"), r.at("density_kg_m3"), r.at("frontal_area_m2"), r.at("length_m")};
}

Json parts_json(const Record& r) {
  Json parts = Json::array();
  for (const PartLoad& p : r.balance.parts) {
    const Coefficients c = coefficients(p.total(), r.reference);
    parts.push_back({{"part", p.part},
                     {"wetted_area_m2", p.area},
                     {"mean_y_plus", p.mean_y_plus},
                     {"pressure", load_json(p.pressure)},
                     {"friction", load_json(p.friction)},
                     {"CD", c.cd},
                     {"CL", c.cl}});
  }
  return parts;
}

Json devices_json(const std::vector<DeviceFigures>& devices) {
  Json all = Json::array();
  for (const DeviceFigures& d : devices) all.push_back(to_json(d));
  return all;
}
/// None in records of before.
std::vector<DeviceFigures> devices_from(const Json& last) {
  std::vector<DeviceFigures> all;
  if (last.contains("devices"))
    for (const Json& d : last.at("devices"))
      all.push_back({d.at("device"), d.at("mass_flow_kg_s"), d.at("mean_velocity_m_s"),
                     d.at("spread_m_s"), d.at("pressure_change_Pa"), vector_from(d.at("force_N")),
                     d.at("area_m2"), d.at("heat_W")});
  return all;
}

Json part_means_json(const std::vector<PartMean>& means) {
  Json parts = Json::array();
  for (const PartMean& p : means) parts.push_back({{"part", p.part}, {"CD", p.cd}, {"CL", p.cl}});
  return parts;
}
/// None in records of before.
std::vector<PartMean> part_means_from(const Json& j) {
  std::vector<PartMean> parts;
  if (j.contains("means_by_part"))
    for (const Json& p : j.at("means_by_part"))
      parts.push_back({p.at("part"), p.at("CD"), p.at("CL")});
  return parts;
}

Json vehicle_means_json(const std::vector<VehicleMean>& means) {
  Json vehicles = Json::array();
  for (const VehicleMean& v : means)
    vehicles.push_back({{"vehicle", v.name},
                        {"frontal_area_m2", v.frontal_area},
                        {"CD", mean_json(v.cd)},
                        {"CL", mean_json(v.cl)}});
  return vehicles;
}
/// None where there is one vehicle, and in records of before.
std::vector<VehicleMean> vehicle_means_from(const Json& j) {
  std::vector<VehicleMean> vehicles;
  if (j.contains("means_by_vehicle"))
    for (const Json& v : j.at("means_by_vehicle"))
      vehicles.push_back(
          {v.at("vehicle"), v.at("frontal_area_m2"), mean_from(v.at("CD")), mean_from(v.at("CL"))});
  return vehicles;
}

Json results_json(const Record& r) {
  const Convergence& m = r.convergence;
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
  return {
      {"status", words(r.status)},
      {"why", m.why},
      {"complete", r.status != RunStatus::stopped},
      {"scope", r.run.half ? "forces of the whole vehicle, mirrored from one half; sideways "
                             "motions of the wake are suppressed"
                           : "forces of the whole vehicle"},
      {"iterations", r.history.size()},
      {"means_from_iteration", m.window_from},
      {"fluctuation_period_iterations", m.period},
      {"ranks", r.ranks},
      {"courant", r.courant},
      {"seconds", r.seconds},
      {"reference", reference_json(r.reference)},
      {"computed_frontal_area_m2", r.frontal_area},
      {"coefficients",
       {{"CD", mean_json(m.cd)},
        {"CL", mean_json(m.cl)},
        {"CLF", mean_json(m.clf)},
        {"CLR", mean_json(m.clr)},
        {"CY", mean_json(m.cy)}}},
      {"means_by_part", part_means_json(r.part_means)},
      {"means_by_vehicle", vehicle_means_json(r.vehicle_means)},
      {"forces_N", {{"drag", m.cd.mean * qa}, {"lift", m.cl.mean * qa}, {"side", m.cy.mean * qa}}},
      {"drag_area_m2", m.cd.mean * r.reference.frontal_area},
      {"lift_kg", {{"front", m.clf.mean * qa / gravity}, {"rear", m.clr.mean * qa / gravity}}},
      {"power_W", m.cd.mean * qa * r.reference.speed}};
}

Json state_json(const Record& r) {
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
  const RunChecks& k = r.checks;
  const double cd_free = r.convergence.cd.mean / k.blockage_factor();
  return {{"last_state",
           {{"CD", r.last.cd},
            {"CL", r.last.cl},
            {"CY", r.last.cy},
            {"CRM", r.last.crm},
            {"CPM", r.last.cpm},
            {"CYM", r.last.cym},
            {"pressure", load_json(r.balance.pressure())},
            {"friction", load_json(r.balance.friction())},
            {"momentum_drag_N", r.balance.momentum_drag},
            {"undisturbed_pressure_Pa", r.balance.undisturbed_pressure},
            {"parts", parts_json(r)},
            {"devices", devices_json(r.balance.devices)}}},
          {"checks",
           {{"mass_balance", k.mass_balance},
            {"mean_drag_from_tunnel_momentum_N", mean_json(r.convergence.momentum_drag)},
            {"mean_drag_integrated_N", r.convergence.cd.mean * qa},
            {"outflow_backflow_share", k.backflow_share},
            {"first_order_cells", k.first_order_cells},
            {"wake_plane",
             {{"x_m", k.wake_plane},
              {"drag_N", k.wake_drag},
              {"integrated_drag_N", r.last.cd * qa},
              {"drag_from_tunnel_momentum_N", r.balance.momentum_drag}}}}},
          {"blockage",
           {{"share", k.blockage},
            {"dynamic_pressure_factor", k.blockage_factor()},
            {"CD_in_free_air", cd_free}}}};
}

Convergence convergence_from(const Json& j) {
  Convergence m;
  const Json& c = j.at("coefficients");
  m.cd = mean_from(c.at("CD")), m.cl = mean_from(c.at("CL")), m.clf = mean_from(c.at("CLF")),
  m.clr = mean_from(c.at("CLR")), m.cy = mean_from(c.at("CY"));
  m.momentum_drag = mean_from(j.at("checks").at("mean_drag_from_tunnel_momentum_N"));
  m.why = j.at("why"), m.window_from = j.at("means_from_iteration");
  m.period = j.at("fluctuation_period_iterations");
  return m;
}

Balance balance_from(const Json& last) {
  Balance b;
  for (const Json& p : last.at("parts"))
    b.parts.push_back({p.at("part"), load_from(p.at("pressure")), load_from(p.at("friction")),
                       p.at("wetted_area_m2"), p.at("mean_y_plus")});
  b.undisturbed_pressure = last.at("undisturbed_pressure_Pa");
  b.momentum_drag = last.at("momentum_drag_N");
  return b;
}

RunChecks checks_from(const Json& j) {
  const Json &k = j.at("checks"), &wake = k.at("wake_plane");
  return {k.at("mass_balance"), k.at("outflow_backflow_share"), wake.at("x_m"),
          wake.at("drag_N"),    k.at("first_order_cells"),      j.at("blockage").at("share")};
}

}  // namespace

Json record_json(const Record& r) {
  Json j = {{"schema", {{"name", schema_name}, {"version", schema_version}}}};
  j["run"] = identity_json(r.run);
  j.update(results_json(r));
  j.update(state_json(r));
  j["air"] = to_json(r.air);
  j["vehicle"] = box_json(r.vehicle);
  j["tunnel"] = box_json(r.tunnel);
  j["findings"] = findings_json(r.findings);
  j["mesh_findings"] = findings_json(r.mesh_findings);
  j["setup_in_words"] = r.setup_in_words;
  j["setup"] = Json::parse(r.setup, nullptr, false);
  j["mesh"] = quality_json(r.quality);
  return j;
}

Json numbers_of(const fs::path& folder) {
  const fs::path file = folder / record_file::numbers;
  std::error_code status;
  if (!fs::is_directory(folder, status))
    throw InputError("there is no such folder", folder.string(), "name the folder of a run");
  if (!fs::exists(file, status))
    throw InputError(fmt::format("this is no record: {} is missing", record_file::numbers),
                     folder.string(), "name the folder of a finished run, or run that case again");
  Json j = parsed_json(read_text(file), file.string());
  const Json* schema = j.is_object() && j.contains("schema") ? &j["schema"] : nullptr;
  const auto has = [&](const char* key, auto is) {
    return schema && schema->is_object() && schema->contains(key) && ((*schema)[key].*is)();
  };
  if (!has("name", &Json::is_string) || !has("version", &Json::is_number_integer) ||
      (*schema)["name"] != schema_name)
    throw InputError("is damaged or no record", file.string(), "run that case again");
  if (const std::int64_t version = (*schema)["version"]; version > schema_version)
    throw InputError(fmt::format("was written by a newer version (record version {}, this program "
                                 "reads up to {})",
                                 version, schema_version),
                     file.string(), "open it with that version");
  return j;
}

Record record_from(const Json& j, const std::string& where) {
  Record r;
  r.run = identity_from(j.at("run"));
  r.status = status_from(j.at("status"), where);
  r.convergence = convergence_from(j);
  r.convergence.status = r.status;
  r.checks = checks_from(j);
  const Json& last = j.at("last_state");
  r.balance = balance_from(last), r.balance.devices = devices_from(last);
  r.last = {last.at("CD"),  last.at("CL"),  last.at("CY"),
            last.at("CRM"), last.at("CPM"), last.at("CYM")};
  r.part_means = part_means_from(j), r.vehicle_means = vehicle_means_from(j);
  r.reference = reference_from(j.at("reference"));
  r.frontal_area = j.at("computed_frontal_area_m2");
  r.ranks = j.at("ranks"), r.courant = j.at("courant"), r.seconds = j.at("seconds");
  r.air = {j.at("air").at("density_kg_m3"), j.at("air").at("kinematic_viscosity_m2_s")};
  r.vehicle = box_from(j.at("vehicle")), r.tunnel = box_from(j.at("tunnel"));
  r.findings = findings_from(j.at("findings"));
  if (j.contains("mesh_findings")) r.mesh_findings = findings_from(j.at("mesh_findings"));
  r.setup_in_words = j.at("setup_in_words").get<std::vector<std::string>>();
  r.setup = dumped(j.at("setup"));
  r.quality = quality_from(j.at("mesh"));
  return r;
}

Figures read_figures(const fs::path& folder) {
  const Json j = numbers_of(folder);
  const std::string file = (folder / record_file::numbers).string();
  try {
    Figures f;
    f.run = identity_from(j.at("run"));
    f.status = status_from(j.at("status"), file);
    f.why = j.at("why");
    f.iterations = j.at("iterations"), f.cells = j.at("mesh").at("cells");
    f.reference = reference_from(j.at("reference"));
    const Convergence m = convergence_from(j);
    f.cd = m.cd, f.cl = m.cl, f.clf = m.clf, f.clr = m.clr, f.cy = m.cy;
    f.parts = part_means_from(j), f.vehicles = vehicle_means_from(j);
    const Json& forces = j.at("forces_N");
    f.drag = forces.at("drag"), f.lift = forces.at("lift"), f.side = forces.at("side");
    f.frontal_area = j.at("computed_frontal_area_m2");
    f.seconds = j.at("seconds");
    if (j.at("setup").is_object()) f.limits = dumped(j.at("setup").at("limits"));
    return f;
  } catch (const Json::exception& e) {
    throw InputError(fmt::format("is damaged ({})", e.what()), file, "run that case again");
  }
}

}  // namespace dunefield
