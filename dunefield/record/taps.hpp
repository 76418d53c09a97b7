// Taps and rakes: pressures at points of the surface, pressures and velocities at points of the
// air.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include <dunefield/balance/balance.hpp>
#include <dunefield/record/sampler.hpp>

namespace dunefield {

/// A point at the surface, or near it: the nearest wall face of the vehicle is read.
struct Tap {
  std::string name;
  Vec3 place;
};

/// Points in the air, read in the order they are given.
struct Rake {
  std::string name;
  std::vector<Vec3> points;
};

/// A grid of `along` x `across` points, the corners among them; `across` 1: a line from `from` to
/// `to`.
Rake rake_grid(const std::string& name, const Vec3& from, const Vec3& to, const Vec3& far_side,
               int along, int across);

struct TapReading {
  std::string tap, part;
  Vec3 place;           ///< on the mesh's wall
  double off = 0;       ///< from there to where the tap was wanted, m
  double pressure = 0;  ///< relative to the undisturbed stream, Pa
  double cp = 0;
};

struct RakeReading {
  std::string rake;
  Vec3 place, velocity;  ///< m/s
  double pressure = 0;   ///< Pa
  /// Static, total: (p + rho u^2 / 2) over the stream's dynamic pressure
  double cp = 0, total_cp = 0;
  bool air = true;  ///< false: within the vehicle or outside the tunnel; nothing is read
};

/// What taps and rakes read from: pressure over density (m2/s2) and velocity of the cells, loads of
/// the boundary faces.
struct FlowReadings {
  const VolumeMesh& mesh;
  const std::vector<WallLoad>& loads;
  const std::vector<Vec3>& velocity;
  const std::vector<double>& pressure;
  double undisturbed = 0;  ///< Pa
  bool half = false;       ///< the mesh is one half: the other side is read in the mirror
};

/// Taps and rakes found in a mesh once, to be read as often as wanted. The mesh must outlive it.
class Probes {
 public:
  Probes(const VolumeMesh& mesh, const std::vector<Tap>& taps, const std::vector<Rake>& rakes,
         bool half);
  Probes(const Probes&) = delete;
  Probes& operator=(const Probes&) = delete;

  std::vector<TapReading> taps(const FlowReadings& field, const ReferenceValues& reference) const;
  /// Values between the cells: means over the cell that holds the point and its neighbours, the
  /// nearer the heavier (Shepard 1968).
  std::vector<RakeReading> rakes(const FlowReadings& field, const ReferenceValues& reference) const;

  /// What of a field is read at all, each in rising order: wall loads, from the first boundary face
  /// on, and cells.
  std::vector<int> loads() const;
  std::vector<int> cells() const;

 private:
  struct FoundTap {
    TapReading at;  ///< without values
    int load;
  };
  struct FoundPoint {
    RakeReading at;  ///< without values
    Vec3 x;          ///< on the meshed side
    int cell;        ///< -1: no air
  };
  const VolumeMesh& mesh_;
  const bool half_;
  std::vector<FoundTap> taps_;
  std::optional<Sampler> sampler_;
  std::vector<FoundPoint> points_;
};

std::vector<TapReading> read_taps(const FlowReadings& field, const std::vector<Tap>& taps,
                                  const ReferenceValues& reference);
std::vector<RakeReading> read_rakes(const FlowReadings& field, const std::vector<Rake>& rakes,
                                    const ReferenceValues& reference);

}  // namespace dunefield
