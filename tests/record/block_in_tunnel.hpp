// Half a block in a tunnel with a linear field in it, for what reads flows.
#pragma once

#include <gtest/gtest.h>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/shapes/shapes.hpp>
#include <dunefield/mesh/mesher.hpp>
#include <dunefield/record/taps.hpp>

namespace dunefield {

class BlockInTunnel : public testing::Test {
 protected:
  BlockInTunnel() {
    MeshOptions o;
    o.surface_size = 0.05, o.largest_size = 0.2, o.half = true;
    const MeshResult m =
        build_mesh(rounded_box("block", Box{{-0.5, -0.3, 0.4}, {0.5, 0.3, 0.9}}, 0),
                   Box{{-2, 0, 0}, {3, 1.6, 2}}, o);
    mesh_ = m.mesh, tunnel_ = m.tunnel;
    for (const Vec3& c : mesh_.cell_centre)
      velocity_.push_back({20 + c.x, 0.5 * c.y, -c.z}), pressure_.push_back(3 * c.x - c.z);
    loads_.resize(static_cast<std::size_t>(mesh_.faces() - mesh_.interior_faces()));
    for (std::size_t i = 0; i < loads_.size(); ++i) {
      const Vec3& c = mesh_.face_centre[at(mesh_.interior_faces()) + i];
      loads_[i].pressure_at = 1.2 * (3 * c.x - c.z) + 7;
    }
  }
  FlowReadings field() const { return {mesh_, loads_, velocity_, pressure_, 0, true}; }

  VolumeMesh mesh_;
  Box tunnel_;
  std::vector<WallLoad> loads_;
  std::vector<Vec3> velocity_;
  std::vector<double> pressure_;
  const ReferenceValues reference_{20, 1.2, 2, 1};
};

}  // namespace dunefield
