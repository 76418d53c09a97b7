#include <dunefield/run/hashes.hpp>

#include <dunefield/base/hash.hpp>
#include <dunefield/record/json.hpp>

namespace dunefield {

template <>
inline constexpr auto members_of<Tap> =
    std::tuple{Member{"name", &Tap::name}, Member{"at_m", &Tap::place}};
static_assert(members_left_out<Tap> == 0);
template <>
inline constexpr auto members_of<Rake> =
    std::tuple{Member{"name", &Rake::name}, Member{"points_m", &Rake::points}};
static_assert(members_left_out<Rake> == 0);
template <>
inline constexpr auto members_of<MeasuringPlane> =
    std::tuple{Member{"name", &MeasuringPlane::name}, Member{"centre_m", &MeasuringPlane::centre},
               Member{"normal", &MeasuringPlane::normal}, Member{"width_m", &MeasuringPlane::width},
               Member{"height_m", &MeasuringPlane::height}};
static_assert(members_left_out<MeasuringPlane> == 0);
template <>
inline constexpr auto members_of<WantedPicture> =
    std::tuple{Member{"name", &WantedPicture::name}, Member{"words", &WantedPicture::words}};
static_assert(members_left_out<WantedPicture> == 0);
template <>
inline constexpr auto members_of<Readings> =
    std::tuple{Member{"taps", &Readings::taps}, Member{"rakes", &Readings::rakes},
               Member{"planes", &Readings::planes}, Member{"pictures", &Readings::pictures},
               Member{"units", &Readings::units}};
static_assert(members_left_out<Readings> == 0);

namespace {

// A change of what a program computes from the same input makes its earlier results old.
constexpr int mesher_version = 14, solver_version = 14, readings_version = 2;
constexpr int morph_version = 1, adaptation_version = 1;
constexpr int in_time_version = 2;  // of what flows in time have of their own
// Of what is known only from a history: an earlier result is judged again, and goes on if need be.
constexpr int judge_version = 4;

std::string fingerprint_of(const Surface& s) {
  Hash hash;
  hash.add(s.points).add(s.triangles).add(s.part_of);
  for (const auto& name : s.part_names) hash.add(name).add(std::string_view("\n"));
  return hash.hex();
}

Json wheels_json(const RunSetup& s) {
  Json wheels = Json::array();
  const RunConditions& c = s.conditions;
  for (const Wheel& w : s.vehicle.wheels)
    wheels.push_back(
        {{"part", w.part},
         {"centre_m", vector_json(w.centre)},
         {"axis", vector_json(w.axis)},
         {"radius_m", w.radius},
         {"spin_rad_s", vector_json(c.wheels_turn ? w.spin(c.speed_of_road()) : Vec3{})}});
  return wheels;
}

Json device_json(const AirDevice& d) {
  Json curve = Json::array();
  for (const auto& [speed, pressure] : d.curve.points) curve.push_back({speed, pressure});
  return {{"name", d.name},
          {"is_fan", d.is_fan},
          {"centre_m", vector_json(d.centre)},
          {"axis", vector_json(d.axis)},
          {"size_m", {d.width, d.height, d.depth}},
          {"curve_m_s_Pa", curve},
          {"linear_Pa_s_m", d.curve.linear},
          {"quadratic_Pa_s2_m2", d.curve.quadratic},
          {"off_axis", d.off_axis},
          {"warming_K", d.warming}};
}

Json mesh_json(const RunSetup& s) {
  if (!s.mesh_file.empty())
    return {{"file", s.mesh_file.filename().string()},
            {"file_hash", hash_of_file(s.mesh_file)},
            {"vehicle", fingerprint_of(s.vehicle.surface)}};
  Json j = {{"mesher_version", mesher_version},
            {"vehicle", fingerprint_of(s.vehicle.surface)},
            {"tunnel_m", to_json(s.tunnel_box())},
            {"recipe", s.recipe.name},
            {"options", to_json(s.mesh_options())}};
  if (s.morph_of) j["morph_of"] = fingerprint_of(*s.morph_of), j["morph_version"] = morph_version;
  if (s.adaptation)
    j["adapted"] = {{"version", adaptation_version},
                    {"sketch", hashes_of(*s.adaptation->sketch).flow},
                    {"plain", mesh_json(*s.adaptation->plain)}};
  return j;
}

Json flow_json(const RunSetup& s) {
  // A member that is added to the conditions does not compile until it is told here.
  const auto& [speed, yaw, crosswind, air, rolling_road, road_speed, wheels_turn, roughness, fast,
               total, wall_temperature, wall_heat, belts, boundary_layer_from] = s.conditions;
  const ReferenceValues r = s.reference();
  Json moving = Json::array();
  for (const Belt& b : belts)
    moving.push_back({{"centre_m", vector_json(b.centre)},
                      {"length_m", b.length},
                      {"width_m", b.width},
                      {"under_wheels", b.under_wheels}});
  Json devices = Json::array();
  for (const AirDevice& d : s.devices) devices.push_back(device_json(d));
  Json openings = Json::array();
  for (const Opening& o : s.openings)
    openings.push_back({{"part", o.part},
                        {"mass_flow_kg_s", o.mass_flow},
                        {"pressure_Pa", o.pressure ? Json(*o.pressure) : Json()}});
  Json j = {{"solver_version", solver_version},
            {"speed_m_s", speed},
            {"yaw_rad", yaw},
            {"crosswind", crosswind},
            {"air", to_json(air)},
            {"road", rolling_road ? "rolling" : "fixed"},
            {"road_speed_m_s", rolling_road ? road_speed.value_or(speed) : 0},
            {"fast_air", fast ? to_json(*fast) : Json()},
            {"wall_temperature_K", to_json(wall_temperature)},
            {"wall_heat_W_m2", to_json(wall_heat)},
            {"total_K_Pa", total ? Json({total->temperature, total->pressure}) : Json()},
            {"belts", moving},
            {"boundary_layer_from_m", boundary_layer_from ? Json(*boundary_layer_from) : Json()},
            {"wheels_turn", wheels_turn},
            {"wheels", wheels_json(s)},
            {"roughness_m", to_json(roughness)},
            {"devices", devices},
            {"openings", openings},
            {"time_step_s", s.time_step()},
            {"time_iterations", s.time ? s.time->iterations : 0},
            {"time_fall", s.time ? s.time->fall : 0},
            {"reference", {{"area_m2", r.frontal_area}, {"length_m", r.length}}},
            {"options", to_json(s.flow)}};
  if (s.time) j["in_time_version"] = in_time_version;
  return j;
}

Json readings_json(const RunSetup& s) {
  Json j = to_json(s.readings);
  j["readings_version"] = readings_version;
  return j;
}

Json limits_of(const RunSetup& s) {
  const AccuracyWanted a = s.accuracy();
  Json j = {{"judge_version", judge_version},
            {"iterations", s.limits.iterations},
            {"time_s", s.time_duration()},
            {"until_settled", s.limits.until_settled},
            {"accuracy", a.drag},
            {"lift_accuracy", a.lift}};
  if (a.of_difference > 0) j["difference_accuracy"] = a.of_difference;
  return j;
}

}  // namespace

RunHashes hashes_of(const RunSetup& s) {
  RunHashes h;
  h.mesh = Hash().add(dumped(mesh_json(s))).hex();
  h.flow = Hash().add(h.mesh).add(dumped(flow_json(s))).hex();
  h.readings = Hash().add(dumped(readings_json(s))).hex();
  return h;
}

std::string setup_json(const RunSetup& s) {
  return dumped({{"mesh", mesh_json(s)},
                 {"flow", flow_json(s)},
                 {"limits", limits_of(s)},
                 {"readings", readings_json(s)}});
}

std::string limits_json(const RunSetup& s) { return dumped(limits_of(s)); }

}  // namespace dunefield
