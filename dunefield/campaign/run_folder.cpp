#include <dunefield/campaign/run_folder.hpp>

#include <fstream>
#include <sstream>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/campaign/json.hpp>
#include <dunefield/files/vtp.hpp>
#include <dunefield/files/vtu.hpp>
#include <dunefield/look/chart.hpp>
#include <dunefield/look/pictures.hpp>
#include <dunefield/mesh/tunnel.hpp>
#include <dunefield/record/build_up.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

std::string slug(const std::string& text) {
  std::string out;
  for (const unsigned char c : text) {
    if (std::isalnum(c) && c < 128)
      out += static_cast<char>(std::tolower(c));
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  while (!out.empty() && out.back() == '-') out.pop_back();
  return out.empty() ? "variant" : out.substr(0, 60);
}

void write_text(const fs::path& file, const std::string& text) {
  std::ofstream out(file, std::ios::binary);
  out << text;
  out.close();
  if (!out)
    throw OutputError("cannot be written", file.string(), "check the folder and the free space");
}

Json mean_json(const WindowMean& w) {
  return {{"mean", w.mean},
          {"least", w.least},
          {"most", w.most},
          {"half_interval_95", w.half_interval},
          {"iterations", w.count}};
}
WindowMean mean_from(const Json& j) {
  return {j.at("mean"), j.at("least"), j.at("most"), j.at("half_interval_95"), j.at("iterations")};
}

Json load_json(const Load& l) {
  return {{"force_N", vector_json(l.force)}, {"moment_Nm", vector_json(l.moment)}};
}

std::string history_csv(const RunResult& r) {
  std::string out = "iteration,momentum_residual,mass_imbalance,CD,CL,CLF,CLR,CY,CPM,CRM,CYM\n";
  for (const HistoryRow& h : r.history)
    out += fmt::format("{},{:.6e},{:.6e},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f},{:.6f}\n",
                       h.iteration, h.momentum_residual, h.mass_imbalance, h.c.cd, h.c.cl,
                       h.c.clf(), h.c.clr(), h.c.cy, h.c.cpm, h.c.crm, h.c.cym);
  return out;
}

constexpr double gravity = 9.80665;  // m/s2: lift as the weight that it takes off an axle

Json balance_json(const CampaignSetup& setup, const PlacedVariant& variant, const MeshResult& mesh,
                  const RunResult& r) {
  const Convergence& m = r.convergence;
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
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
  return {
      {"variant", variant.name},
      {"speed_m_s", r.reference.speed},
      {"status", words(r.status)},
      {"why", m.why},
      {"complete", r.status != RunStatus::stopped},
      {"means_from_iteration", m.window_from},
      {"fluctuation_period_iterations", m.period},
      {"first_order_cells", r.first_order_cells},
      {"half_model", setup.campaign.tunnel.half},
      {"scope", setup.campaign.tunnel.half ? "forces of the whole vehicle, mirrored from one half; "
                                             "sideways motions of the wake are suppressed"
                                           : "forces of the whole vehicle"},
      {"iterations", r.history.size()},
      {"ranks", r.ranks},
      {"courant", r.courant},
      {"findings", findings_json(r.findings)},
      {"seconds", r.seconds},
      {"reference",
       {{"speed_m_s", r.reference.speed},
        {"density_kg_m3", r.reference.density},
        {"frontal_area_m2", r.reference.frontal_area},
        {"length_m", r.reference.length}}},
      {"computed_frontal_area_m2", variant.frontal_area},
      {"coefficients",
       {{"CD", mean_json(m.cd)},
        {"CL", mean_json(m.cl)},
        {"CLF", mean_json(m.clf)},
        {"CLR", mean_json(m.clr)},
        {"CY", mean_json(m.cy)}}},
      {"forces_N", {{"drag", m.cd.mean * qa}, {"lift", m.cl.mean * qa}, {"side", m.cy.mean * qa}}},
      {"drag_area_m2", m.cd.mean * r.reference.frontal_area},
      {"lift_kg", {{"front", m.clf.mean * qa / gravity}, {"rear", m.clr.mean * qa / gravity}}},
      {"power_W", m.cd.mean * qa * r.reference.speed},
      {"last_state",
       {{"CD", r.last.cd},
        {"CL", r.last.cl},
        {"CY", r.last.cy},
        {"CRM", r.last.crm},
        {"CPM", r.last.cpm},
        {"CYM", r.last.cym},
        {"pressure", load_json(r.balance.pressure())},
        {"friction", load_json(r.balance.friction())},
        {"parts", parts}}},
      {"undisturbed_pressure_Pa", r.balance.undisturbed_pressure},
      {"checks",
       {{"mass_balance", r.mass_balance},
        {"mean_drag_from_tunnel_momentum_N", m.momentum_drag.mean},
        {"mean_drag_integrated_N", m.cd.mean * qa},
        {"outflow_backflow_share", r.backflow_share},
        {"wake_plane",
         {{"x_m", r.wake_plane},
          {"drag_N", r.wake_drag},
          {"integrated_drag_N", r.last.cd * qa},
          {"drag_from_tunnel_momentum_N",
           r.history.empty() ? 0 : r.history.back().momentum_drag}}}}},
      {"blockage",
       {{"share", setup.blockage},
        {"dynamic_pressure_factor", setup.blockage_factor()},
        {"CD_in_free_air", m.cd.mean / setup.blockage_factor()}}},
      {"mesh", quality_json(mesh.quality)}};
}

void write_fields(const fs::path& folder, const MeshResult& mesh, const RunResult& r) {
  const double rho = r.reference.density;
  std::vector<double> pressure = r.fields.pressure;
  for (double& p : pressure) p = p * rho - r.balance.undisturbed_pressure;
  std::vector<NamedField> fields = {{"velocity [m/s]", {}, r.fields.velocity},
                                    {"pressure [Pa]", pressure, {}}};
  const auto add = [&](const char* name, const std::vector<double>& values) {
    if (!values.empty()) fields.push_back({name, values, {}});
  };
  add("k [m2/s2]", r.fields.k), add("omega [1/s]", r.fields.omega),
      add("nu tilde [m2/s]", r.fields.nu_tilde), add("eddy viscosity [m2/s]", r.fields.nu_t);
  write_vtu(folder / "volume.vtu", mesh.mesh, fields);

  std::vector<double> cp, y_plus;
  std::vector<Vec3> friction;
  const int first = mesh.mesh.interior_faces();
  for (std::size_t i = 0; i < r.loads.size(); ++i) {
    cp.push_back((r.loads[i].pressure_at - r.balance.undisturbed_pressure) /
                 r.reference.dynamic_pressure());
    friction.push_back(r.loads[i].friction / norm(mesh.mesh.face_area[at(first) + i]));
    y_plus.push_back(r.loads[i].y_plus);
  }
  write_vtp(folder / "surface.vtp", mesh.mesh,
            {{"Cp [-]", cp, {}}, {"friction [Pa]", {}, friction}, {"y+ [-]", y_plus, {}}});
}

void draw_history(const fs::path& file, const RunResult& r, const std::string& what) {
  Chart chart{
      what + ": history", "iteration", "", {}, {}, static_cast<double>(r.convergence.window_from)};
  ChartLine cd{"", {}}, clf{"CL front", {}}, clr{"CL rear", {}}, residual{"", {}};
  for (const HistoryRow& h : r.history) {
    chart.x.push_back(h.iteration);
    cd.y.push_back(h.c.cd), clf.y.push_back(h.c.clf()), clr.y.push_back(h.c.clr()),
        residual.y.push_back(h.momentum_residual);
  }
  constexpr double start_up = 0.1;  // share of the history that does not set the range
  chart.panels = {{"drag coefficient CD",
                   {cd},
                   false,
                   start_up,
                   r.convergence.cd.mean,
                   r.convergence.cd.half_interval},
                  {"lift coefficients", {clf, clr}, false, start_up},
                  {"residual of momentum", {residual}, true}};
  chart.footer = fmt::format(
      "{}: CD {:.4f} ± {:.4f}, CL {:+.4f} ± {:.4f} over the shaded iterations{}", words(r.status),
      r.convergence.cd.mean, r.convergence.cd.half_interval, r.convergence.cl.mean,
      r.convergence.cl.half_interval, r.convergence.why.empty() ? "" : "; " + r.convergence.why);
  draw_chart(file, chart);
}

/// Text as a field of a CSV file.
std::string csv(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) out += c == '"' ? "\"\"" : std::string(1, c);
  return out + "\"";
}

/// What taps, rakes and planes read, a line each.
void write_probes(const fs::path& folder, const CampaignSetup& setup, const MeshResult& mesh,
                  const RunResult& r) {
  const FlowReadings field{mesh.mesh,
                           r.loads,
                           r.fields.velocity,
                           r.fields.pressure,
                           r.balance.undisturbed_pressure,
                           setup.campaign.tunnel.half};
  if (!setup.campaign.taps.empty()) {
    std::string text = "tap,part,x m,y m,z m,off m,pressure Pa,Cp\n";
    for (const TapReading& t : read_taps(field, setup.campaign.taps, r.reference))
      text += fmt::format("{},{},{:.5f},{:.5f},{:.5f},{:.5f},{:.6g},{:.6g}\n", csv(t.tap),
                          csv(t.part), t.place.x, t.place.y, t.place.z, t.off, t.pressure, t.cp);
    write_text(folder / "taps.csv", text);
  }
  if (!setup.campaign.rakes.empty()) {
    std::string text = "rake,x m,y m,z m,u m/s,v m/s,w m/s,pressure Pa,Cp,total Cp\n";
    for (const RakeReading& k : read_rakes(field, setup.campaign.rakes, r.reference)) {
      text += fmt::format("{},{:.5f},{:.5f},{:.5f}", csv(k.rake), k.place.x, k.place.y, k.place.z);
      text += k.air ? fmt::format(",{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g}\n", k.velocity.x,
                                  k.velocity.y, k.velocity.z, k.pressure, k.cp, k.total_cp)
                    : ",,,,,,\n";
    }
    write_text(folder / "rakes.csv", text);
  }
  if (!setup.campaign.planes.empty()) {
    std::string text = "plane,area m2,mass flow kg/s,u m/s,v m/s,w m/s,pressure Pa,Cp,total Cp\n";
    for (const PlaneReading& p : read_planes(field, setup.campaign.planes, r.reference))
      text += fmt::format("{},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g}\n",
                          csv(p.plane), p.area, p.mass_flow, p.velocity.x, p.velocity.y,
                          p.velocity.z, p.pressure, p.cp, p.total_cp);
    write_text(folder / "planes.csv", text);
  }
}

/// Forces from the nose on, as a table and drawn.
void write_build_up(const fs::path& folder, const CampaignSetup& setup, const MeshResult& mesh,
                    const RunResult& r, const std::string& what) {
  const BuildUp b =
      build_up(mesh.mesh, r.loads, r.balance.undisturbed_pressure, setup.campaign.tunnel.half);
  if (b.station.empty()) return;
  const double qa = r.reference.dynamic_pressure() * r.reference.frontal_area;
  Chart chart{what + ": build-up of drag and lift",
              "x, m (0: middle of the wheelbase)",
              "Each value is that of everything ahead of the place; state of the last iteration.",
              b.station,
              {},
              1e300};
  ChartLine all{"all", {}}, pressure{"pressure", {}}, friction{"friction", {}}, lift{"", {}};
  std::string text = "x_m,CD,CD_pressure,CD_friction,CL\n";
  for (std::size_t i = 0; i < b.station.size(); ++i) {
    pressure.y.push_back(b.pressure[i].x / qa), friction.y.push_back(b.friction[i].x / qa),
        all.y.push_back(pressure.y[i] + friction.y[i]);
    lift.y.push_back((b.pressure[i].z + b.friction[i].z) / qa);
    text += fmt::format("{:.6f},{:.6f},{:.6f},{:.6f},{:.6f}\n", b.station[i], all.y[i],
                        pressure.y[i], friction.y[i], lift.y[i]);
  }
  chart.panels = {{"drag coefficient CD from the nose on", {all, pressure, friction}},
                  {"lift coefficient CL from the nose on", {lift}}};
  write_text(folder / "build-up.csv", text);
  draw_chart(folder / "build-up.png", chart);
}

void draw(const fs::path& folder, const CampaignSetup& setup, const PlacedVariant& variant,
          const MeshResult& mesh, const RunResult& r) {
  const std::string what = fmt::format("{}, {}, {:.0f} km/h", setup.campaign.name, variant.name,
                                       3.6 * r.reference.speed);
  std::vector<double> cp, speed;
  for (const WallLoad& l : r.loads)
    cp.push_back((l.pressure_at - r.balance.undisturbed_pressure) / r.reference.dynamic_pressure());
  for (const Vec3& u : r.fields.velocity) speed.push_back(norm(u) / r.reference.speed);
  draw_surface(folder / "pressure.png", mesh.mesh, cp,
               {Palette::balance, -1, 1, "pressure coefficient Cp"}, {}, setup.campaign.tunnel.half,
               what);
  const Box& v = setup.vehicle_bounds;
  const double length = characteristic_length(v);
  const Box frame{{v.lo.x - 0.5 * length, 0, flies(v) ? std::max(0.0, v.lo.z - 0.35 * length) : 0},
                  {v.hi.x + 1.0 * length, 0, v.hi.z + 0.35 * length}};
  const double y = setup.campaign.tunnel.half ? 1e-3 * mesh.tunnel.size().y / 64 : 1e-4 * length;
  draw_history(folder / "history.png", r, what);
  write_build_up(folder, setup, mesh, r, what);
  write_probes(folder, setup, mesh, r);
  draw_slice_y(folder / "speed.png", mesh.mesh, speed, y, frame,
               {Palette::dune, 0, 1.3, "speed over road speed"}, what + ": centre plane");
}

std::string read_text(const fs::path& file) {
  std::ifstream in(file, std::ios::binary);
  std::stringstream text;
  text << in.rdbuf();
  return text.str();
}

/// Taps, rakes and planes of the file.
Json measured_json(const Campaign& c) {
  Json taps = Json::array(), rakes = Json::array(), planes = Json::array();
  for (const Tap& t : c.taps) taps.push_back({{"name", t.name}, {"at_m", vector_json(t.place)}});
  for (const Rake& k : c.rakes)
    rakes.push_back({{"name", k.name},
                     {"points", k.points.size()},
                     {"from_m", vector_json(k.points.front())},
                     {"to_m", vector_json(k.points.back())}});
  for (const MeasuringPlane& p : c.planes)
    planes.push_back({{"name", p.name},
                      {"centre_m", vector_json(p.centre)},
                      {"normal", vector_json(p.normal)},
                      {"width_m", p.width},
                      {"height_m", p.height}});
  return {{"taps", taps}, {"rakes", rakes}, {"planes", planes}};
}

}  // namespace

fs::path beside(const fs::path& run_folder, const std::string& ending) {
  return run_folder.parent_path() / ("." + run_folder.filename().string() + ending);
}

std::string run_name(const std::string& variant, double speed) {
  return slug(variant) + fmt::format("_{:.4g}-kmh", 3.6 * speed);
}

std::string resolved_setup(const CampaignSetup& s, const PlacedVariant& v, double speed) {
  const Campaign& c = s.campaign;
  Json wheels = Json::array(), boxes = Json::array();
  for (const Wheel& w : v.wheels)
    wheels.push_back({{"part", w.part},
                      {"centre_m", vector_json(w.centre)},
                      {"axis", vector_json(w.axis)},
                      {"radius_m", w.radius},
                      {"spin_rad_s", c.wheels_turn ? vector_json(w.spin(s.road_speed(speed)))
                                                   : vector_json({})}});
  for (const RefinedBox& b : v.mesh.boxes)
    boxes.push_back({{"name", b.name},
                     {"from_m", vector_json(b.box.lo)},
                     {"to_m", vector_json(b.box.hi)},
                     {"size_m", b.size}});
  const Json j = {
      {"campaign", c.name},
      {"variant", v.name},
      {"vehicle_fingerprint", fmt::format("{:016x}", v.fingerprint)},
      {"speed_m_s", speed},
      {"road_speed_m_s", s.road_speed(speed)},
      {"yaw_rad", c.yaw},
      {"crosswind", c.crosswind},
      {"wheels", wheels},
      {"tunnel",
       {{"from_m", vector_json(s.tunnel.lo)},
        {"to_m", vector_json(s.tunnel.hi)},
        {"half", c.tunnel.half}}},
      {"reference", {{"frontal_area_m2", s.reference_area}, {"length_m", s.reference_length}}},
      {"roughness_m", c.roughness},
      {"measured", measured_json(c)},
      {"air",
       {{"density_kg_m3", c.air.density}, {"kinematic_viscosity_m2_s", c.air.kinematic_viscosity}}},
      {"mesh",
       {{"recipe", c.recipe},
        {"surface_size_m", v.mesh.surface_size},
        {"largest_size_m", v.mesh.largest_size},
        {"smallest_size_m", v.mesh.smallest_size},
        {"edge_size_m", v.mesh.edge_size},
        {"cells_per_turn", v.mesh.cells_per_turn},
        {"gap_cells", v.mesh.gap_cells},
        {"slot_halvings", v.mesh.slot_halvings},
        {"thin_cells", v.mesh.thin_cells},
        {"part_sizes_m", v.mesh.part_size},
        {"boxes", boxes},
        {"layers",
         {{"count", v.mesh.layers.count},
          {"first_height_m", v.mesh.layers.first_height},
          {"total_leaves", v.mesh.layers.total_leaves},
          {"growth", v.mesh.layers.growth},
          {"without", v.mesh.layers.without}}},
        {"sheet_parts", v.mesh.sheet_parts},
        {"file", v.mesh_file.filename().string()},
        {"file_fingerprint", fmt::format("{:016x}", v.mesh_fingerprint)}}},
      {"flow",
       {{"turbulence", turbulence_key(c.flow.turbulence)},
        {"iterations", c.iterations},
        {"until_settled", c.until_settled},
        {"accuracy", c.accuracy.drag},
        {"lift_accuracy", c.accuracy.lift},
        {"start", !c.start_run.empty() ? c.start_run.filename().string()
                  : c.start_earlier    ? "earlier"
                                       : "stream"},
        {"courant", c.flow.courant},
        {"stream_intensity", c.flow.stream_turbulence.intensity},
        {"stream_viscosity_ratio", c.flow.stream_turbulence.viscosity_ratio},
        {"convection", "second-order upwind"},
        {"pressure_reduction", c.flow.pressure_reduction}}},
  };
  return dumped(j) + "\n";
}

std::string without_limits(const std::string& setup_text) {
  Json j = Json::parse(setup_text);
  for (const char* limit : {"iterations", "until_settled", "accuracy", "lift_accuracy"})
    j.at("flow").erase(limit);
  j.erase("measured");
  return dumped(j);
}

void check_writable(const fs::path& folder) {
  std::error_code status;
  fs::create_directories(folder, status);
  if (status)
    throw OutputError("the folder cannot be made (" + status.message() + ")", folder.string(),
                      "choose another with --into");
  const fs::path probe = folder / ".writable";
  std::ofstream out(probe);
  out << "x";
  out.close();
  if (!out)
    throw OutputError("nothing can be written here", folder.string(),
                      "choose another folder with --into");
  fs::remove(probe, status);
}

RunFigures read_balance(const fs::path& file) {
  try {
    const Json j = Json::parse(read_text(file));
    RunFigures f;
    f.variant = j.at("variant");
    f.speed = j.at("speed_m_s");
    f.half = j.at("half_model");
    f.status = j.at("status");
    f.iterations = j.at("iterations");
    const Json& r = j.at("reference");
    f.reference = {r.at("speed_m_s"), r.at("density_kg_m3"), r.at("frontal_area_m2"),
                   r.at("length_m")};
    const Json& c = j.at("coefficients");
    f.cd = mean_from(c.at("CD")), f.cl = mean_from(c.at("CL")), f.clf = mean_from(c.at("CLF")),
    f.clr = mean_from(c.at("CLR")), f.cy = mean_from(c.at("CY"));
    f.drag = j.at("forces_N").at("drag"), f.lift = j.at("forces_N").at("lift"),
    f.side = j.at("forces_N").at("side");
    f.frontal_area = j.at("computed_frontal_area_m2");
    f.cells = j.at("mesh").at("cells");
    f.seconds = j.at("seconds");
    return f;
  } catch (const Json::exception&) {
    throw InputError("is missing or no balance file", file.string(), "run the case again");
  }
}

std::optional<RunFigures> finished_run(const fs::path& folder, const std::string& setup_text) {
  if (read_text(folder / "setup.json") != setup_text) return std::nullopt;
  try {
    const Json j = Json::parse(read_text(folder / "balance.json"));
    if (!j.at("complete").get<bool>()) return std::nullopt;
    return read_balance(folder / "balance.json");
  } catch (const std::exception&) {
    return std::nullopt;
  }
}

namespace {

/// What a look and a finished run have in common, in a fresh folder that is to take the place of
/// `folder`.
fs::path write_state(const fs::path& folder, const CampaignSetup& setup,
                     const PlacedVariant& variant, const MeshResult& mesh,
                     const RunResult& result) {
  const fs::path fresh = beside(folder, ".being-written");
  std::error_code status;
  fs::remove_all(fresh, status);
  check_writable(fresh);
  write_text(fresh / "history.csv", history_csv(result));
  write_text(fresh / "balance.json", dumped(balance_json(setup, variant, mesh, result)) + "\n");
  draw(fresh, setup, variant, mesh, result);
  return fresh;
}

}  // namespace

void write_look(const fs::path& folder, const CampaignSetup& setup, const PlacedVariant& variant,
                const MeshResult& mesh, const RunResult& result) {
  const fs::path fresh = write_state(folder, setup, variant, mesh, result);
  std::error_code status;
  fs::remove_all(folder, status);
  fs::rename(fresh, folder, status);
  if (status)
    throw OutputError("the look at the run cannot be put in place", folder.string(),
                      "it is in " + fresh.string());
}

RunFigures write_run(const fs::path& folder, const CampaignSetup& setup,
                     const PlacedVariant& variant, const MeshResult& mesh, const RunResult& result,
                     const std::string& setup_text) {
  const fs::path fresh = write_state(folder, setup, variant, mesh, result);
  std::error_code status;
  write_fields(fresh, mesh, result);
  write_text(fresh / "setup.json", setup_text);
  if (fs::exists(folder)) {
    int n = 1;
    while (fs::exists(folder.string() + fmt::format(".earlier-{}", n))) ++n;
    fs::rename(folder, folder.string() + fmt::format(".earlier-{}", n), status);
    if (status)
      throw OutputError("the earlier result cannot be moved aside", folder.string(),
                        "the new one is in " + fresh.string());
  }
  fs::rename(fresh, folder, status);
  if (status)
    throw OutputError("the result cannot be put in place", folder.string(),
                      "it is in " + fresh.string());
  return read_balance(folder / "balance.json");
}

}  // namespace dunefield
