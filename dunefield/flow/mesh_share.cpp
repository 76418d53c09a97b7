#include <dunefield/flow/mesh_share.hpp>

#include <algorithm>
#include <numeric>

#include <Eigen/Dense>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// First cells of contiguous shares that cost the same: a cell costs something, and each of its
/// faces as much again. Every share has a cell.
std::vector<int> shares_of_work(const VolumeMesh& m, int ranks) {
  std::vector<int> cost(at(m.cells), 1);
  for (const int c : m.cell_below) ++cost[at(c)];
  for (const int c : m.cell_above) ++cost[at(c)];
  const long long all = std::accumulate(cost.begin(), cost.end(), 0LL);
  std::vector<int> first = {0};
  long long sum = 0;
  for (int c = 0; c < m.cells && static_cast<int>(first.size()) < ranks; ++c) {
    const auto next = static_cast<long long>(first.size());
    const bool must = m.cells - c == ranks - next;  // as many cells left as ranks
    if (c > first.back() && (must || sum >= all * next / ranks)) first.push_back(c);
    sum += cost[at(c)];
  }
  first.push_back(m.cells);
  return first;
}

/// True at a face between two thin cells side by side in a layer that is curved there. In a flat
/// one nothing is amiss.
bool parts_sideways(const Vec3& a, const Vec3& b, const Vec3& face_normal, const Vec3& d) {
  constexpr double sideways = 0.5, curved = 1e-3;
  if (norm2(a) == 0 || norm2(b) == 0 || std::abs(dot(a, face_normal)) > sideways ||
      std::abs(dot(b, face_normal)) > sideways)
    return false;
  return std::abs(dot(a, d)) + std::abs(dot(b, d)) > curved * norm(d);
}

/// A thin cell alone, without a thin neighbour beside it, belongs to no layer.
void keep_curved_layers(const VolumeMesh& m, std::vector<Vec3>& across) {
  std::vector<char> keep(across.size(), 0);
  for (int f = 0; f < m.interior_faces(); ++f) {
    const std::size_t a = at(m.cell_below[at(f)]), b = at(m.cell_above[at(f)]);
    if (parts_sideways(across[a], across[b], unit(m.face_area[at(f)]),
                       m.cell_centre[b] - m.cell_centre[a]))
      keep[a] = keep[b] = 1;
  }
  for (std::size_t c = 0; c < across.size(); ++c)
    if (!keep[c]) across[c] = {};
}

/// The direction across a thin cell, zero for others: the main axis of its faces' areas (a cube has
/// a third of them each way).
std::vector<Vec3> thin_directions(const VolumeMesh& m) {
  // share of the area that faces one way: a cell five times as wide as high
  constexpr double thin = 0.72;
  std::vector<Eigen::Matrix3d> sum(at(m.cells), Eigen::Matrix3d::Zero());
  std::vector<double> total(at(m.cells), 0.0);
  for (int f = 0; f < m.faces(); ++f) {
    const double size = norm(m.face_area[at(f)]);
    const Vec3 n = unit(m.face_area[at(f)]);
    const Eigen::Vector3d e(n.x, n.y, n.z);
    const Eigen::Matrix3d part = size * e * e.transpose();
    sum[at(m.cell_below[at(f)])] += part, total[at(m.cell_below[at(f)])] += size;
    if (f < m.interior_faces())
      sum[at(m.cell_above[at(f)])] += part, total[at(m.cell_above[at(f)])] += size;
  }
  std::vector<Vec3> out(at(m.cells));
  parallel_for(
      at(m.cells),
      [&](std::size_t c) {
        if (sum[c].diagonal().maxCoeff() < 0.3 * total[c]) return;
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> eigen(sum[c] / total[c]);
        if (eigen.eigenvalues()[2] < thin) return;
        const Eigen::Vector3d n = eigen.eigenvectors().col(2);
        out[c] = {n.x(), n.y(), n.z()};
      },
      4096);
  keep_curved_layers(m, out);
  return out;
}

/// What parts two cells: a face, or several that are taken as one, so that each pair of neighbours
/// counts once.
struct Parting {
  int below, above;
  Vec3 area, centre;
  Mat3 warp;  ///< see VolumeMesh::face_warp
};

/// The centre lies where the areas' parts along their sum have theirs; what that leaves out of the
/// first moment goes into the warp.
Parting taken_together(const Parting& p, const Parting& q) {
  Parting both{p.below, p.above, p.area + q.area, {}, {}};
  const Vec3 n = unit(both.area);
  const double wp = std::abs(dot(n, p.area)), wq = std::abs(dot(n, q.area));
  both.centre = (p.centre * wp + q.centre * wq) / std::max(wp + wq, 1e-300);
  both.warp = p.warp;
  both.warp += q.warp;
  for (const Parting* part : {&p, &q}) {
    const Vec3 off = part->centre - both.centre;
    both.warp += Mat3{{off * part->area.x, off * part->area.y, off * part->area.z}};
  }
  return both;
}

/// Visits what these faces part, in the order of their lower cells. In layers faces stay single: a
/// middle of several would lie below a curved layer by the sagitta.
template <class Visit>
void for_partings(const VolumeMesh& m, const std::vector<Vec3>& thin, const std::vector<int>& faces,
                  const Visit& visit) {
  std::vector<Parting> row;  // those of one lower cell
  const auto finish = [&] {
    for (const Parting& p : row) visit(p);
    row.clear();
  };
  for (const int f : faces) {
    const int a = m.cell_below[at(f)], b = m.cell_above[at(f)];
    if (!row.empty() && row.front().below != a) finish();
    const auto same =
        std::find_if(row.begin(), row.end(), [&](const Parting& p) { return p.above == b; });
    const Parting one{a, b, m.face_area[at(f)], m.face_centre[at(f)], m.face_warp(f)};
    const bool in_layer = norm2(thin[at(a)]) > 0 && norm2(thin[at(b)]) > 0;
    if (same == row.end() || in_layer)
      row.push_back(one);
    else
      *same = taken_together(*same, one);
  }
  finish();
}

void add_face(const VolumeMesh& m, const std::vector<Vec3>& thin, const Parting& parting,
              Share& share) {
  const Vec3 s = parting.area, n = unit(s), xf = parting.centre;
  const Vec3 a = m.cell_centre[at(parting.below)], b = m.cell_centre[at(parting.above)], d = b - a;
  const double ha = dot(n, xf - a), hb = dot(n, b - xf);
  share.area.push_back(s);
  share.weight.push_back(static_cast<float>(std::clamp(hb / (ha + hb), 0.02, 0.98)));
  const double w = share.weight.back();
  const Vec3 skew = xf - (a * w + b * (1 - w));
  // Farther than the next centre gradients would be multiplied.
  share.skew.push_back(skew * std::min(1.0, norm(d) / std::max(norm(skew), 1e-300)));
  share.lateral.push_back(parts_sideways(thin[at(parting.below)], thin[at(parting.above)], n, d));
  // Beyond 70 degrees between face and line of centres the part along that line is not made larger
  // any more, and so neither the rest.
  constexpr double least_cosine = 0.342;
  share.g.push_back(
      static_cast<float>(norm2(s) / std::max(dot(s, d), least_cosine * norm(s) * norm(d))));
}

FlowMesh::BoundaryFace make_boundary_face(const VolumeMesh& m, int f) {
  FlowMesh::BoundaryFace b;
  b.area = m.face_area[at(f)], b.centre = m.face_centre[at(f)], b.normal = unit(b.area),
  b.size = norm(b.area);
  b.warp = m.face_warp(f);
  b.cell = m.cell_below[at(f)];
  b.height = dot(b.normal, b.centre - m.cell_centre[at(b.cell)]);
  b.global = f;
  return b;
}

}  // namespace

MeshPartition::MeshPartition(const VolumeMesh& mesh, const std::vector<double>& wall_distance,
                             int ranks)
    : m_(mesh),
      wall_distance_(wall_distance),
      first_(shares_of_work(mesh, ranks)),
      thin_(thin_directions(mesh)),
      inner_(at(ranks)),
      outer_(at(ranks)),
      halo_(at(ranks)) {
  find_faces();
  find_halo();
}

int MeshPartition::rank_of(int cell) const {
  return static_cast<int>(std::upper_bound(first_.begin(), first_.end(), cell) - first_.begin()) -
         1;
}

void MeshPartition::find_faces() {
  for (int f = 0; f < m_.interior_faces(); ++f) {
    const int a = rank_of(m_.cell_below[at(f)]), b = rank_of(m_.cell_above[at(f)]);
    inner_[at(a)].push_back(f);
    if (a != b) inner_[at(b)].push_back(f);
  }
  for (int f = m_.interior_faces(); f < m_.faces(); ++f)
    outer_[at(rank_of(m_.cell_below[at(f)]))].push_back(f);
}

void MeshPartition::find_halo() {
  for (int r = 0; r < ranks(); ++r) {
    std::vector<int>& halo = halo_[at(r)];
    for (const int f : inner_[at(r)])
      for (const int c : {m_.cell_below[at(f)], m_.cell_above[at(f)]})
        if (c < first_[at(r)] || c >= first_[at(r) + 1]) halo.push_back(c);
    std::sort(halo.begin(), halo.end());
    halo.erase(std::unique(halo.begin(), halo.end()), halo.end());
  }
}

std::span<const int> MeshPartition::owned(const std::vector<int>& cells, int rank) const {
  const auto from = std::lower_bound(cells.begin(), cells.end(), first_[at(rank)]),
             to = std::lower_bound(from, cells.end(), first_[at(rank) + 1]);
  return {from, to};
}

Share MeshPartition::share(int rank) const {
  Share s;
  s.first_global = first_[at(rank)], s.own = first_[at(rank) + 1] - s.first_global;
  add_cells(rank, s);
  add_faces(rank, s);
  add_boundaries(rank, s);
  add_neighbours(rank, s);
  return s;
}

void MeshPartition::add_cells(int rank, Share& s) const {
  const auto add = [&](int c) {
    s.centre.push_back(m_.cell_centre[at(c)]), s.volume.push_back(m_.cell_volume[at(c)]);
    s.wall_distance.push_back(wall_distance_[at(c)]), s.across.push_back(thin_[at(c)]);
  };
  const std::size_t cells = at(s.own) + halo_[at(rank)].size();
  s.centre.reserve(cells), s.volume.reserve(cells), s.wall_distance.reserve(cells);
  s.across.reserve(cells);
  for (int c = s.first_global; c < s.first_global + s.own; ++c) add(c);
  for (const int c : halo_[at(rank)]) add(c);
}

void MeshPartition::add_faces(int rank, Share& s) const {
  const std::vector<int>& halo = halo_[at(rank)];
  const auto local = [&](int c) {
    const int own = c - s.first_global;
    if (own >= 0 && own < s.own) return own;
    return s.own + static_cast<int>(std::lower_bound(halo.begin(), halo.end(), c) - halo.begin());
  };
  const std::size_t faces = inner_[at(rank)].size();
  s.below.reserve(faces), s.above.reserve(faces), s.area.reserve(faces), s.skew.reserve(faces);
  s.weight.reserve(faces), s.g.reserve(faces), s.lateral.reserve(faces);
  for_partings(m_, thin_, inner_[at(rank)], [&](const Parting& p) {
    s.below.push_back(local(p.below)), s.above.push_back(local(p.above));
    add_face(m_, thin_, p, s);
    constexpr double noticeable = 1e-3;  // second moment over area to the power 3/2
    const double size = norm(p.area);
    if (norm(p.warp.row[0]) + norm(p.warp.row[1]) + norm(p.warp.row[2]) >
        noticeable * size * std::sqrt(size))
      s.warped.push_back({static_cast<int>(s.area.size()) - 1, p.warp});
  });
}

void MeshPartition::add_boundaries(int rank, Share& s) const {
  const std::vector<int>& faces = outer_[at(rank)];
  auto next = faces.begin();
  for (const Boundary& p : m_.boundaries) {
    int count = 0;
    for (; next != faces.end() && *next < p.first + p.count; ++next, ++count) {
      s.boundary_faces.push_back(make_boundary_face(m_, *next));
      s.boundary_faces.back().cell -= s.first_global;
    }
    s.boundary_counts.push_back(count);
  }
}

void MeshPartition::add_neighbours(int rank, Share& s) const {
  for (int other = 0; other < ranks(); ++other) {
    const auto received = owned(halo_[at(rank)], other);
    if (other == rank || received.empty()) continue;
    s.neighbour_ranks.push_back(other);
    s.received.push_back(static_cast<int>(received.size()));
    const auto sent = owned(halo_[at(other)], rank);
    for (const int c : sent) s.send_cells.push_back(c - s.first_global);
    s.send_counts.push_back(static_cast<int>(sent.size()));
  }
}

}  // namespace dunefield
