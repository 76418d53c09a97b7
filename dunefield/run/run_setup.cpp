#include <dunefield/run/run_setup.hpp>

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/geometry/rear_view.hpp>
#include <dunefield/mesh/forecast.hpp>
#include <dunefield/mesh/morph/morph.hpp>
#include <dunefield/mesh/section.hpp>
#include <dunefield/run/adaptation.hpp>
#include <dunefield/run/set_up_checks.hpp>

namespace dunefield {
namespace {

/// The surface size that gives about the wanted number of cells: they go with its power of -2 to
/// -3.
double size_for_target(const RunSetup& setup, double target) {
  RunSetup tried = setup;
  tried.recipe.target_cells.reset();
  tried.recipe.adapt = false;  // as many cells, elsewhere
  double size = tried.mesh_options().surface_size;
  for (int i = 0; i < 4; ++i) {
    tried.recipe.surface_size = size;
    const double cells =
        predict_cells(setup.vehicle.surface, tried.tunnel_box(), tried.mesh_options());
    if (std::abs(cells / target - 1) < 0.02) break;
    size *= std::clamp(std::pow(cells / target, 0.4), 0.25, 4.0);
  }
  return size;
}

/// @throw InputError with all faults, if there are any
void refuse(const std::vector<std::string>& faults) {
  if (faults.empty()) return;
  std::string all;
  for (const std::string& f : faults) all += (all.empty() ? "" : "\n") + f;
  throw InputError(all, "", "");
}

/// 0 of what is computed in three dimensions.
double section_chord(const RunSetup& s) {
  if (!s.tunnel.section) return 0;
  const CommonFrame f = s.common_frame();
  return f.vehicle_length > 0 ? f.vehicle_length : f.bounds.size().x;
}

/// Of those that are in the tunnel.
std::vector<Box> boxes_of_vehicles(const RunSetup& s) {
  std::vector<Box> vehicles;
  for (const VehicleGroup& g : s.vehicle.group)
    if (g.present) vehicles.push_back(g.bounds);
  if (vehicles.empty())  // a section's wake follows its incidence
    vehicles = {s.tunnel.section ? bounds(s.vehicle.surface) : s.common_frame().bounds};
  return vehicles;
}

}  // namespace

Air air_at(double temperature, double pressure) {
  // Viscosity of air at 0 degC (Sutherland 1893).
  constexpr double at_freezing = 1.716e-5, freezing = 273.15;
  const FastAir cold{freezing};
  Air air;
  air.density = pressure / (cold.gas_constant * temperature);
  air.kinematic_viscosity = at_freezing * cold.viscosity_ratio(temperature) / air.density;
  return air;
}

void RunConditions::set_speed(double to) {
  speed = to;
  if (!fast || !total) return;
  fast->temperature = total->temperature - speed * speed / (2 * fast->cp());
  const double ratio = fast->temperature / total->temperature;
  // Faster than the air at rest could ever become: the checks tell the Mach number.
  if (!(ratio > 0.1)) return;
  air = air_at(fast->temperature,
               total->pressure * std::pow(ratio, fast->heat_ratio / (fast->heat_ratio - 1)));
}

Findings RunSetup::check_speed() const {
  Findings findings;
  refuse(find_faults_of_speed(*this, findings));
  return findings;
}

Findings RunSetup::check() {
  Findings findings = vehicle.findings;
  refuse(find_faults(*this, findings));
  // A section has so few cells that its sizes alone decide.
  if (const auto usual = cells_of(recipe.name); usual && !recipe.surface_size && !tunnel.section)
    recipe.target_cells = recipe.target_cells.value_or(
        *usual * (tunnel.half ? 1 : 2) * static_cast<double>(boxes_of_vehicles(*this).size()));
  if (recipe.target_cells) {
    recipe.surface_size = size_for_target(*this, *recipe.target_cells);
    recipe.target_cells.reset();
  }
  return findings;
}

/// A few cells through the depth of a core or fan.
RefinedBox box_of(const AirDevice& d, double largest) {
  constexpr double cells = 4;
  const PlaneAxes face(d.axis);
  Box box;
  for (int i = 0; i < 8; ++i)
    box.include(d.centre + d.axis * ((i & 1 ? 0.5 : -0.5) * d.depth) +
                face.across * ((i & 2 ? 0.5 : -0.5) * d.width) +
                face.up * ((i & 4 ? 0.5 : -0.5) * d.height));
  return {d.name, box, std::min(largest, d.depth / cells)};
}

CommonFrame RunSetup::common_frame() const {
  if (frame) return *frame;
  CommonFrame f;
  f.bounds = bounds(vehicle.surface);
  f.frontal_area = f.reference_area = vehicle.frontal_area;
  const double wheelbase = wheelbase_of(vehicle.wheels);
  f.reference_length = wheelbase > 0 ? wheelbase : f.bounds.size().x;
  return f;
}

Box RunSetup::tunnel_box() const {
  const CommonFrame f = common_frame();
  return dunefield::tunnel_box(f.bounds, f.frontal_area, tunnel, f.vehicle_length);
}

double RunSetup::blockage() const {
  const Vec3 section = tunnel_box().size();
  return common_frame().frontal_area / (section.y * section.z * (tunnel.half ? 2 : 1));
}

double RunSetup::coarseness() const {
  // A sketch has a number of cells, and no sizes of its own.
  if (!recipe.surface_size || recipe.name == "sketch") return 1;
  const std::vector<Box> vehicles = boxes_of_vehicles(*this);
  const double usual =
      dunefield::mesh_options(dunefield::recipe(recipe.name), vehicles, where, section_chord(*this))
          .surface_size;
  return std::max(1.0, *recipe.surface_size / usual);
}

double RunSetup::blunt_end() const { return tunnel.section ? 1 : rear_view(vehicle.surface).blunt; }

MeshOptions RunSetup::mesh_options() const {
  const std::vector<Box> vehicles = boxes_of_vehicles(*this);
  MeshOptions o = dunefield::mesh_options(recipe, vehicles, where, section_chord(*this));
  o.half = tunnel.half, o.road = tunnel.road;
  for (const Wheel& w : vehicle.wheels) o.standing_parts.push_back(w.part);
  for (const AirDevice& d : devices) o.boxes.push_back(box_of(d, o.surface_size));
  for (const Opening& opening : openings) o.layers.without.push_back(opening.part);
  o.field = field;
  const LayerChoice& l = recipe.layers;
  // Layers of a section are resolved, unless they are told otherwise.
  const bool by_y_plus = l.y_plus || (o.section && !(o.layers.first_height > 0));
  if (by_y_plus && o.layers.count > 0)
    o.layers.first_height =
        l.y_plus.value_or(1) / expected_y_plus(*this, 1, l.y_plus_speed.value_or(conditions.speed));
  return o;
}

double RunSetup::time_step() const {
  if (!time) return 0;
  return time->step.value_or(time->crossing * mesh_options().surface_size / conditions.speed);
}

double RunSetup::time_duration() const {
  if (!time) return 0;
  return time->duration.value_or(time->lengths * characteristic_length(common_frame().bounds) /
                                 conditions.speed);
}

ReferenceValues RunSetup::reference() const {
  const CommonFrame f = common_frame();
  return {conditions.speed, conditions.air.density, f.reference_area, f.reference_length};
}

AccuracyWanted RunSetup::accuracy() const {
  // Asking more of the history than a coarse mesh leaves certain would be waste. Lifts are the sum
  // of large forces up and down, and are known half as well.
  const double usual = recipe.name == "sketch"  ? 0.02
                       : recipe.name == "scout" ? 0.005
                                                : 0.003,
               drag = limits.drag_accuracy.value_or(usual);
  return {drag, limits.lift_accuracy.value_or(2 * drag), limits.baseline_drag,
          limits.difference_accuracy};
}

double expected_cells(const RunSetup& setup) {
  RunSetup plain = setup;
  plain.recipe.adapt = false;
  return predict_cells(plain.vehicle.surface, plain.tunnel_box(), plain.mesh_options());
}

MeshResult build_mesh(const RunSetup& setup, const Progress& progress) {
  if (!setup.mesh_file.empty()) return mesh_from_file(setup, progress);
  if (setup.recipe.target_cells) {
    RunSetup sized = setup;
    sized.check();
    return build_mesh(sized, progress);
  }
  if (setup.adaptation && !setup.field) {
    RunSetup adapted = setup;
    adapted.field = adapted_sizes(setup, run_sketch(setup, 0, progress), progress);
    return build_mesh(adapted, progress);
  }
  if (setup.morph_of)
    return mesh_following(setup, build_mesh(followed_by(setup), progress), progress);
  const MeshOptions options = setup.mesh_options();
  MeshResult mesh = build_mesh(setup.vehicle.surface, setup.tunnel_box(), options, progress);
  if (options.field)
    mesh.findings.note(
        fmt::format("cell sizes follow a sketch of the flow, down to {:.1f} mm",
                    1000 * std::min(options.field->smallest(), options.surface_size)),
        "mesh.follows-flow");
  return mesh;
}

RunSetup followed_by(const RunSetup& setup) {
  RunSetup baseline = setup;
  baseline.vehicle.surface = *setup.morph_of;
  baseline.morph_of.reset();
  return baseline;
}

MeshResult mesh_following(const RunSetup& setup, const MeshResult& baseline,
                          const Progress& progress) {
  try {
    return morphed(baseline, *setup.morph_of, setup.vehicle.surface, progress);
  } catch (const MeshError& e) {
    RunSetup anew = setup;
    anew.morph_of.reset();
    MeshResult mesh = build_mesh(anew, progress);
    mesh.findings.note(fmt::format("this variant has a mesh of its own: {}", e.what()),
                       "mesh.made-anew");
    return mesh;
  }
}

double expected_y_plus(const RunSetup& s, double first_height, double speed) {
  const double nu = s.conditions.air.kinematic_viscosity;
  const double re = std::max(1e4, speed * 0.5 * s.common_frame().bounds.size().x / nu);
  const double cf = 0.455 / std::pow(std::log(0.06 * re), 2), u_tau = speed * std::sqrt(0.5 * cf);
  return 0.5 * first_height * u_tau / nu;
}

}  // namespace dunefield
