// What a mesh shall be like.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/base/members.hpp>
#include <dunefield/base/vec.hpp>
#include <dunefield/mesh/layers/layers.hpp>
#include <dunefield/mesh/octree/size_field.hpp>

namespace dunefield {

/// A box in which cells are no larger than `size`.
struct RefinedBox {
  std::string name;
  Box box;
  double size = 0;  ///< m
};

struct MeshOptions {
  /// Leaf edge at the vehicle's surface, m; the others are doublings of it
  double surface_size = 0.04;
  std::map<std::string, double> part_size;  ///< smaller leaf edges for named parts, m
  double smallest_size = 0;  ///< the next four go no further than this; 0: they are off
  /// Leaves around a full circle of the surface's curvature; 0: curvature does not count
  double cells_per_turn = 0;
  double edge_size = 0;  ///< leaf edge at sharp edges, m; 0: as the surface
  double gap_cells = 0;  ///< leaves across a gap between surfaces; 0: gaps do not count
  /// Of leaves beyond the smallest size in gaps that it would close but these open; 0: none
  int slot_halvings = 0;
  /// Of the surface size at leading edges of wings, if there is a smallest size; 0: they do not
  /// count
  int leading_halvings = 0;
  double thin_cells = 0;      ///< leaves across thin places of the vehicle; 0: they do not count
  double largest_size = 1.4;  ///< leaf edge far away, m
  double spread = 4;  ///< cells of each size between two doublings, counted from the surface
  double box_margin_cells = 2;              ///< cells beyond a refined box before the next doubling
  std::vector<RefinedBox> boxes;            ///< wake, under-floor and the user's own
  std::vector<std::string> standing_parts;  ///< parts on the road (wheels): get a plinth
  /// Cavities that the air reaches only through openings up to this wide, in surface leaves, are
  /// closed; 0: they stay open
  double closed_opening = 2;
  /// Parts with air on both sides of their facets; others are recognised by visibility
  std::vector<std::string> sheet_parts;
  double plinth_cells = 0.7;  ///< plinth height in surface leaves; must not fall on a lattice plane
  LayerOptions layers;        ///< wall layers on the vehicle
  bool half = false;          ///< centre plane at y = 0
  bool section = false;       ///< one cell across, of what the tunnel's middle plane cuts
  bool road = true;           ///< of sections: whether the lower side of the tunnel is one
  /// Smaller leaves where a flow wants them; what it comes from tells which (RunSetup::adaptation)
  std::shared_ptr<const SizeField> field{};
  /// Moves the lattice, in surface leaves, along x, and along y in whole models; for measuring mesh
  /// scatter. Along z it stands on the road
  Vec3 lattice_shift;
};

/// The named fineness of a mesh, in relation to the vehicle: `scout`, `standard` or `fine`.
/// Sets sizes and default boxes (wake, under-floor) for a vehicle of these bounds. @throw
/// InputError for another name
MeshOptions mesh_recipe(const std::string& name, const Box& vehicle, const std::string& where);

/// The same for a section with a chord of this length, m. Its layers are resolved: 60 at most,
/// whose first height is told by the flow.
MeshOptions section_recipe(const std::string& name, double chord, const Box& section,
                           const std::string& where);

template <>
inline constexpr auto members_of<RefinedBox> =
    std::tuple{Member{"name", &RefinedBox::name}, Member{"box_m", &RefinedBox::box},
               Member{"size_m", &RefinedBox::size}};
static_assert(members_left_out<RefinedBox> == 0);

template <>
inline constexpr auto members_of<LayerOptions> = std::tuple{
    Member{"count", &LayerOptions::count}, Member{"first_height_m", &LayerOptions::first_height},
    Member{"total_leaves", &LayerOptions::total_leaves}, Member{"growth", &LayerOptions::growth},
    Member{"without", &LayerOptions::without}};
static_assert(members_left_out<LayerOptions> == 0);

template <>
inline constexpr auto members_of<MeshOptions> =
    std::tuple{Member{"surface_size_m", &MeshOptions::surface_size},
               Member{"part_sizes_m", &MeshOptions::part_size},
               Member{"smallest_size_m", &MeshOptions::smallest_size},
               Member{"cells_per_turn", &MeshOptions::cells_per_turn},
               Member{"edge_size_m", &MeshOptions::edge_size},
               Member{"gap_cells", &MeshOptions::gap_cells},
               Member{"slot_halvings", &MeshOptions::slot_halvings},
               Member{"leading_halvings", &MeshOptions::leading_halvings},
               Member{"thin_cells", &MeshOptions::thin_cells},
               Member{"largest_size_m", &MeshOptions::largest_size},
               Member{"spread", &MeshOptions::spread},
               Member{"box_margin_cells", &MeshOptions::box_margin_cells},
               Member{"boxes", &MeshOptions::boxes},
               Member{"standing_parts", &MeshOptions::standing_parts},
               Member{"sheet_parts", &MeshOptions::sheet_parts},
               Member{"closed_opening", &MeshOptions::closed_opening},
               Member{"plinth_cells", &MeshOptions::plinth_cells},
               Member{"layers", &MeshOptions::layers},
               Member{"half", &MeshOptions::half},
               Member{"section", &MeshOptions::section},
               Member{"road", &MeshOptions::road},
               Member{"lattice_shift", &MeshOptions::lattice_shift}};
static_assert(members_left_out<MeshOptions> == 1);  // the field

}  // namespace dunefield
