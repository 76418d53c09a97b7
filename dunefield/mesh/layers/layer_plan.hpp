// How thick the layers are at each wall point, and how the core mesh makes room: the plan that
// `grow_layers` then builds.
#pragma once

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/ray_scene.hpp>
#include <dunefield/mesh/layers/layers.hpp>

namespace dunefield {

/// A point of the wall that may carry a column of layer points.
struct WallPoint {
  int point = -1;      ///< of the mesh
  Vec3 direction;      ///< into the air, unit; along boundary planes that hold it
  double stretch = 1;  ///< column length over thickness
  double leaf = 0;     ///< edge of the leaves there, m
  double core = 0;     ///< height of the core cells on it, the highest, m
  double first = 0;    ///< height wanted of the first layer, m
  double room = 0;     ///< thickness wanted that there is room for, m
  /// Of all its layers: no more than the room, and not much more than its neighbours', m
  double thickness = 0;
  int layers = 0;
  double growth = 1;                 ///< of these layers
  LayersEnd end = LayersEnd::sizes;  ///< what has taken room or layers away last

  /// The same column: why it ends does not count.
  friend bool operator==(const WallPoint& a, const WallPoint& b) {
    return a.point == b.point && a.direction == b.direction && a.stretch == b.stretch &&
           a.leaf == b.leaf && a.core == b.core && a.first == b.first && a.room == b.room &&
           a.thickness == b.thickness && a.layers == b.layers && a.growth == b.growth;
  }
};

class LayerPlan {
 public:
  LayerPlan(const VolumeMesh& mesh, const std::vector<double>& leaf, const LayerOptions& options);

  const std::vector<WallPoint>& wall_points() const { return wall_; }
  /// Number of the wall point at a mesh point, or -1.
  int wall_point_at(int point) const { return slot_[at(point)]; }
  /// Wall faces that carry layers.
  const std::vector<int>& faces() const { return faces_; }
  /// Distance of the top of layer `k` from the wall along the column, m.
  double height(const WallPoint& w, int k) const;
  Vec3 place(const WallPoint& w, int k) const {
    return mesh_.points[at(w.point)] + w.direction * height(w, k);
  }
  /// Every point of the mesh with the wall points at the top of their layers and the core moved
  /// away.
  std::vector<Vec3> core_points() const;
  /// Less room, by a factor, at the wall points that moved these mesh points; false if none of them
  /// has any. With a factor of zero the points themselves stay where they were from now on, too.
  bool shrink(const std::vector<int>& points, double factor);
  /// Sets thickness and number so that they change only gradually from point to point.
  void smooth();

 private:
  static constexpr int core_rings = 6;     ///< edges over which the core makes room
  static constexpr double thinnest = 0.4;  ///< of what was asked for: layers give way until there

  void find_directions();
  void set_targets(const std::vector<double>& leaf);
  void meet_core();
  static void limit_room(WallPoint& w, double most, LayersEnd why);
  /// Columns that run towards each other, as in the corner of a dent, end before they meet.
  void keep_apart();
  struct Squeeze {
    double thickness, growth;
  };
  /// The thinnest that `n` layers may be: so that the last is not too thin beside the core, and the
  /// first not too thin against what was asked for.
  Squeeze squeezed(const WallPoint& w, int n) const;
  double growth_to(const WallPoint& w) const;
  template <class Value, class Limit>
  void flatten(const Value& value, const Limit& limit, bool takes_end);
  /// Height of the layer with so many others below it, if `n` of the growth asked for fill the
  /// thickness, m.
  double even_height(const WallPoint& w, int below, int n) const;
  /// How many layers a point may have beside one that has fewer.
  int most_beside(const WallPoint& w, int fewer) const;
  /// A thin last layer that only few points of a face have would be a splinter there: they give it
  /// up. False if there is none.
  bool cut_splinters();
  void measure_gaps();
  void index_neighbours();
  void rank_core();
  std::vector<Vec3> carried() const;
  template <class Counts>
  Vec3 mean_of_neighbours(int point, const std::vector<Vec3>& value, const Counts& counts) const;
  void find_shares();
  /// From a core point along its neighbours to one next to the wall, or on it.
  int towards_wall(int point) const;
  bool fixed(int point, int axis) const { return held_[at(point)] >> axis & 1; }

  const VolumeMesh& mesh_;
  const LayerOptions& options_;
  std::vector<int> faces_;
  std::vector<int> slot_;
  std::vector<WallPoint> wall_;
  std::vector<std::uint8_t> held_;  ///< per mesh point: axes along which a boundary plane holds it
  std::vector<char> bare_;          ///< per mesh point: must carry no layers
  std::vector<char> frozen_;        ///< per mesh point: given up, stays where it was
  /// Core points by their number of edges from the wall, nearest first
  std::vector<std::vector<int>> near_;
  std::vector<int> ring_;  ///< per mesh point: that number; 0 at the wall, -1 far away
  /// Per core point: of what is carried to it from the wall, by which it makes room
  std::vector<double> share_;
  std::vector<int> neighbour_start_, neighbours_;
};

}  // namespace dunefield
