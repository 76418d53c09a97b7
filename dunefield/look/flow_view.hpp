// A record, opened for looking: what several looks at it share is made once.
#pragma once

#include <mutex>
#include <optional>

#include <dunefield/record/point_weights.hpp>
#include <dunefield/record/points.hpp>
#include <dunefield/record/quantities.hpp>
#include <dunefield/record/record.hpp>
#include <dunefield/record/sampler.hpp>

namespace dunefield {

/// Thread-safe. The record must outlive it.
class FlowView {
 public:
  /// @param baseline its values are taken off all that is asked for: what is seen is the change.
  /// @throw InputError when the two are no variants of one vehicle
  explicit FlowView(const Record& record, const Record* baseline = nullptr);

  const Record& record() const { return record_; }
  const VolumeMesh& mesh() const { return *record_.mesh; }
  bool half() const { return record_.run.half; }
  const CellFaces& rows() const { return rows_; }
  bool is_change() const { return baseline_ != nullptr; }
  std::string baseline_name() const { return baseline_ ? baseline_->run.variant : ""; }
  /// Values by name, per cell and per boundary face (record/quantities.hpp); the change, where this
  /// is one: the baseline's are read where the cells and faces of this record are.
  std::vector<double> in_air(const std::string& quantity, Side side = Side::meshed) const;
  std::vector<double> on_wall(const std::string& quantity, Side side = Side::meshed) const;
  /// The cell that holds a point of the meshed side; -1: none.
  int cell_at(const Vec3& p) const;
  int nearest_cell(const Vec3& p) const;
  /// Values at all points of the mesh.
  const PointWeights& weights() const;
  /// Velocity at all points of the mesh; along walls it does not point through them.
  const std::vector<Vec3>& point_velocity() const;

 private:
  std::vector<double> baseline_in_air(const std::string& quantity, Side side) const;
  std::vector<double> baseline_on_wall(const std::string& quantity, Side side) const;

  const Record& record_;
  const Record* baseline_;
  CellFaces rows_;
  mutable std::once_flag finder_wanted_, weights_wanted_, velocity_wanted_;
  mutable std::optional<CellFinder> finder_;
  mutable std::optional<PointWeights> weights_;
  mutable std::vector<Vec3> velocity_;
};

/// "Marram parcel van, tapered tail, 90 km/h, scout".
std::string title_of(const Record& record);
/// "90 km/h", or in the units that the run is read in.
std::string speed_in_words(const RunIdentity& run);

}  // namespace dunefield
