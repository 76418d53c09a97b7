// Smooth changes of a shape inside a box: everything that lies there is moved by one displacement.
#pragma once

#include <array>
#include <string>
#include <vector>

#include <dunefield/geometry/surface.hpp>

namespace dunefield {

/// A change grows from one face of its box, where it is nothing and has no slope, to the opposite
/// face, where it is whole (as the square of the way). Outside the box it dies out over the rim,
/// with no kink at the box's faces.
struct ShapeChange {
  enum class Kind {
    stretch,  ///< along the growth, by `amount` m; negative: shortened
    taper,    ///< across the growth, about the box's middle line, to `amount` of the size
    bend,     ///< about an axis through the middle of the face where it begins, by `amount` rad
    twist,    ///< about the box's middle line, by `amount` rad
    control   ///< by points of a lattice in the box (Sederberg and Parry 1986); does not grow
  };
  Kind kind = Kind::stretch;
  Box box{};              ///< m
  int along = 0;          ///< growth: 0, 1, 2 for x, y, z
  bool backward = false;  ///< growth towards smaller numbers
  Vec3 axis{0, 1, 0};     ///< of a bend; of unit length
  double amount = 0;
  double rim = 0;  ///< m; 0: a quarter of the box's longest side
  /// Of `control`: how many points along x, y and z (2 or more), and which move by how much
  std::array<int, 3> counts{2, 2, 2};
  struct Move {
    std::array<int, 3> point{};  ///< from 0
    Vec3 by;                     ///< m
  };
  std::vector<Move> moves{};
};

/// By how much a place moves, m.
Vec3 displacement(const ShapeChange& change, const Vec3& place);

/// Moves the points of a part, or of all. Points that other parts share stay with those.
/// @param part -1: all
/// @throw InputError naming `where` when nothing lies in the box, or facets would fold
void apply(const ShapeChange& change, Surface& surface, int part, const std::string& where);

}  // namespace dunefield
