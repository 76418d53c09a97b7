#include <dunefield/mesh/recipe.hpp>

#include <algorithm>
#include <numbers>

#include <dunefield/base/error.hpp>
#include <dunefield/mesh/tunnel.hpp>

namespace dunefield {
namespace {

struct Fineness {
  const char* name;
  double per_length;  ///< surface leaves along the vehicle
  double cells_per_turn;
  double finer;  ///< the smallest leaves are that much finer than the surface's
  int slot_halvings, leading_halvings;
};
// Measured on the demo vehicles (docs/validation.md, "Meshes"; bench/mesh_table).
constexpr Fineness finenesses[] = {{"sketch", 62, 14, 2, 1, 0},
                                   {"scout", 130, 20, 2, 1, 2},
                                   {"standard", 220, 24, 4, 0, 2},
                                   {"fine", 400, 32, 4, 0, 2}};
// Shares of a surface leaf between one lattice and the next: irrational, so that none comes again.
const Vec3 between_lattices{0.6180339887, 0.4142135624, 0};

const Fineness& fineness_of(const std::string& name, const std::string& where) {
  for (const Fineness& f : finenesses)
    if (name == f.name) return f;
  throw InputError("'" + name + "' is no recipe", where, "use sketch, scout, standard or fine");
}

/// Boxes around the wake and under the floor.
// Cells of each size around the surface where the flow tells what else it needs.
constexpr double spread_of_adapted = 2;

void add_boxes(MeshOptions& o, const Box& vehicle, double length) {
  const double h = o.surface_size;
  const auto box = [&](double x0, double x1, double wide, double high) {
    return Box{{x0, vehicle.lo.y - wide, flies(vehicle) ? std::max(0.0, vehicle.lo.z - high) : 0.0},
               {x1, vehicle.hi.y + wide, vehicle.hi.z + high}};
  };
  o.boxes.push_back({"wake",
                     box(vehicle.hi.x - 0.05 * length, vehicle.hi.x + 0.35 * length, 0.02 * length,
                         0.02 * length),
                     2 * h});
  o.boxes.push_back(
      {"far wake",
       box(vehicle.lo.x - 0.15 * length, vehicle.hi.x + 1.0 * length, 0.12 * length, 0.1 * length),
       4 * h});
  const double clearance = std::max(0.1 * vehicle.size().z, 3 * h);
  if (!flies(vehicle))
    o.boxes.push_back(
        {"under-floor",
         Box{{vehicle.lo.x, vehicle.lo.y, 0.0}, {vehicle.hi.x, vehicle.hi.y, clearance}}, h});
}

}  // namespace

MeshOptions mesh_recipe(const std::string& name, const Box& vehicle, const std::string& where) {
  const Fineness& fineness = fineness_of(name, where);
  MeshOptions o;
  o.cells_per_turn = fineness.cells_per_turn, o.slot_halvings = fineness.slot_halvings;
  o.leading_halvings = fineness.leading_halvings;
  const double height = vehicle.size().z;
  // A short, tall vehicle (a rider) counts by its height more.
  const double length = std::max(characteristic_length(vehicle), 1.5 * height);
  o.surface_size = length / fineness.per_length;
  o.edge_size = o.surface_size / 2;
  o.smallest_size = o.surface_size / fineness.finer;
  o.gap_cells = 3, o.thin_cells = 1.5;
  o.layers.count = 5, o.layers.growth = 1.4, o.layers.total_leaves = 0.7;
  o.largest_size = o.surface_size * 32;
  add_boxes(o, vehicle, length);
  return o;
}

MeshOptions section_recipe(const std::string& name, double chord, const Box& section,
                           const std::string& where) {
  struct Fineness {
    const char* name;
    double faces_along, cells_per_turn, gap_cells;
  };
  // Measured on NACA 0012 (docs/validation.md, "Reference flows").
  constexpr Fineness all[] = {{"sketch", 60, 60, 6},
                              {"scout", 120, 90, 8},
                              {"standard", 200, 140, 12},
                              {"fine", 400, 240, 16}};
  const auto own = std::find_if(std::begin(all), std::end(all),
                                [&](const Fineness& f) { return name == f.name; });
  if (own == std::end(all))
    throw InputError("'" + name + "' is no recipe", where, "use sketch, scout, standard or fine");
  MeshOptions o;
  o.section = true;
  o.surface_size = chord / own->faces_along, o.cells_per_turn = own->cells_per_turn;
  o.edge_size = o.surface_size / 8, o.smallest_size = o.surface_size / 16;
  o.gap_cells = own->gap_cells, o.largest_size = o.surface_size * 4096, o.spread = 6;
  o.layers.count = 60, o.layers.growth = 1.2;
  const auto behind = [&](double lengths, double wide) {
    return Box{{section.hi.x - 0.05 * chord, section.lo.y, section.lo.z - wide * chord},
               {section.hi.x + lengths * chord, section.hi.y, section.hi.z + wide * chord}};
  };
  o.boxes.push_back({"wake", behind(0.4, 0.02), 2 * o.surface_size});
  o.boxes.push_back({"far wake", behind(1.5, 0.1), 4 * o.surface_size});
  return o;
}

Recipe recipe(const std::string& name) {
  fineness_of(name, "recipe");
  Recipe r;
  r.name = name;
  return r;
}

CurveTolerance curves_for(const std::string& recipe) {
  constexpr double leaves = 20;  // chords in a smallest one
  const Fineness& f = fineness_of(recipe, "recipe");
  return {1 / (leaves * f.per_length * f.finer), std::numbers::pi / f.cells_per_turn};
}

std::optional<double> cells_of(const std::string& recipe) {
  constexpr double sketched = 80'000;  // 150 iterations of them take 12 s on two cores
  return recipe == "sketch" ? std::optional(sketched) : std::nullopt;
}

MeshOptions mesh_options(const Recipe& r, const std::vector<Box>& vehicles,
                         const std::string& where, double section_chord) {
  const auto size = [](const Box& b) {
    return std::max(characteristic_length(b), 1.5 * b.size().z);
  };
  const auto longest =
      std::max_element(vehicles.begin(), vehicles.end(),
                       [&](const Box& a, const Box& b) { return size(a) < size(b); });
  MeshOptions o = section_chord > 0 ? section_recipe(r.name, section_chord, *longest, where)
                                    : mesh_recipe(r.name, *longest, where);
  for (auto v = vehicles.begin(); v != vehicles.end(); ++v)
    if (v != longest && !o.section) add_boxes(o, *v, size(*v));
  if (r.adapt) o.boxes.clear(), o.spread = spread_of_adapted;
  if (r.surface_size) {
    const double ratio = *r.surface_size / o.surface_size;
    for (double* size : {&o.surface_size, &o.largest_size, &o.edge_size, &o.smallest_size})
      *size *= ratio;
    for (auto& b : o.boxes) b.size *= ratio;
  }
  if (r.smallest_size) o.smallest_size = *r.smallest_size, o.slot_halvings = o.leading_halvings = 0;
  o.edge_size = r.edge_size.value_or(o.edge_size);
  o.cells_per_turn = r.cells_per_turn.value_or(o.cells_per_turn);
  o.gap_cells = r.gap_cells.value_or(o.gap_cells);
  o.thin_cells = r.thin_cells.value_or(o.thin_cells);
  o.lattice_shift = r.lattice_shift + between_lattices * r.lattice;
  o.part_size = r.part_size, o.sheet_parts = r.sheet_parts;
  if (r.open_cavities) o.closed_opening = 0;
  o.boxes.insert(o.boxes.end(), r.boxes.begin(), r.boxes.end());
  LayerOptions& l = o.layers;
  const LayerChoice& c = r.layers;
  l.count = c.count.value_or(l.count), l.growth = c.growth.value_or(l.growth);
  l.without = c.without;
  l.total_leaves = c.total_leaves.value_or(l.total_leaves);
  if (c.first_height || c.total || c.y_plus) l.total_leaves = 0;
  if (l.count == 0) return o;
  if (c.first_height) l.first_height = *c.first_height;
  if (c.total) l.first_height = *c.total / l.sum(l.count);
  return o;
}

}  // namespace dunefield
