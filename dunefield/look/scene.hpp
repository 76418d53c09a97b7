// What a picture shows, as data: triangles and lines with values, in the tunnel's axes. Whoever
// makes it computes nothing anew, whoever draws it looks at nothing else.
#pragma once

#include <array>
#include <limits>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include <dunefield/base/vec.hpp>
#include <dunefield/look/colour_scale.hpp>

namespace dunefield {

/// Shades of grey over a rectangle of a plane, as a flow texture gives.
struct PlaneTexture {
  Vec3 corner, across, up;  ///< of the first pixel's middle; unit vectors
  double pixel = 0;         ///< m
  int width = 0, height = 0;
  std::vector<float> shade;  ///< rows from below, about 1
  /// Between pixels; 1 outside.
  double at(const Vec3& p) const;
};

/// A surface of triangles. A value of its points gives it its colours by the scale of its quantity.
struct Sheet {
  std::string name;      ///< what it is: a part, "slice y = 0 m"
  std::string quantity;  ///< of the values; empty: one colour
  std::vector<Vec3> points;
  std::vector<std::array<int, 3>> triangles;
  std::vector<double> values;  ///< one a point, or none
  std::vector<Vec3> normals;   ///< one a point for smooth shading, or none
  std::vector<Vec3> flow;      ///< one a point: streaks along it are drawn on the sheet; or none
  Colour colour{0.74, 0.73, 0.71};
  double opacity = 1;
  bool lit = true;      ///< shaded by light; a slice is not
  bool facets = false;  ///< values of the first corner all over each triangle
  std::shared_ptr<const PlaneTexture> texture;
};

/// Lines: smoke, tufts, levels, vortex cores.
struct Strand {
  std::vector<Vec3> points;
  std::vector<double> values;  ///< one a point, or none
};
struct Bundle {
  std::string name, quantity;
  std::vector<Strand> strands;
  double radius = 0;  ///< m; 0: as thin as reads well
  Colour colour{0.2, 0.21, 0.24};
  bool lit = true;
  bool arrows = false;  ///< each strand ends in a head
};

/// A word at a place.
struct Mark {
  Vec3 place;
  std::string text;
  bool dot = true;  ///< with a point at the place
};

/// From where it is seen.
struct View {
  Vec3 from{-1.0, -0.85, 0.5};  ///< direction from what is seen to the eye
  bool perspective = false;
  double field_of_view = 0.5;  ///< rad, of the perspective, over the picture's height
  double zoom = 1;             ///< larger: nearer
  /// Middle of what is seen; not finite: that of the vehicle
  Vec3 towards{std::numeric_limits<double>::quiet_NaN(), 0, 0};
};

/// The seven views that have names: "front", "rear", "left", "right", "top", "below",
/// "three-quarter"; "rear three-quarter", too. @throw InputError that names them
View named_view(const std::string& name);
const std::vector<std::string>& view_names();

struct Scene {
  std::string title, note;  ///< above, below
  std::vector<Sheet> sheets;
  std::vector<Bundle> bundles;
  std::vector<Mark> marks;
  std::map<std::string, ColourScale> scales;  ///< by quantity
  Box frame;                                  ///< what shall be seen
  View view;
  bool road = false;  ///< ground at z = 0 with soft shadows
  int width = 1280, height = 800;
  bool fitted_height = false;  ///< of a flat picture: no higher than what is seen needs
  bool dark = false;           ///< paper
  /// Looks squarely at a plane: all before it is cut away, no perspective
  bool flat = false;
  Vec3 flat_point;
};

}  // namespace dunefield
