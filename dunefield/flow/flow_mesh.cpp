#include <dunefield/flow/flow_mesh.hpp>

#include <algorithm>
#include <numeric>

#include <fmt/format.h>
#include <Eigen/Dense>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/mesh/wall_triangles.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

/// What rank 0 sends to a rank: plain arrays.
struct Share {
  std::vector<Vec3> centre, across;
  std::vector<double> volume, wall_distance;
  std::vector<int> below, above;
  std::vector<Vec3> area, skew;
  std::vector<float> weight, g;
  std::vector<char> lateral;
  std::vector<FlowMesh::WarpedFace> warped;
  std::vector<FlowMesh::BoundaryFace> boundary_faces;
  std::vector<int> boundary_counts;
  std::vector<int> neighbour_ranks, send_counts, send_cells, received;
  int own = 0, first_global = 0;
};

int rank_of(int cell, const std::vector<int>& first) {
  return static_cast<int>(std::upper_bound(first.begin(), first.end(), cell) - first.begin()) - 1;
}

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

/// Visits all partings of cells in the range [lo, hi) from cells of the mesh, in the order of their
/// lower cell. In layers faces stay single: a middle of several would lie below a curved layer by
/// the sagitta.
template <class Visit>
void for_partings(const VolumeMesh& m, const std::vector<Vec3>& thin, int lo, int hi,
                  const Visit& visit) {
  std::vector<Parting> row;  // those of one lower cell
  const auto finish = [&] {
    for (const Parting& p : row) visit(p);
    row.clear();
  };
  const auto is_own = [&](int c) { return c >= lo && c < hi; };
  for (int f = 0; f < m.interior_faces(); ++f) {
    const int a = m.cell_below[at(f)], b = m.cell_above[at(f)];
    if (!is_own(a) && !is_own(b)) continue;
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

/// Cells of other ranks that each rank touches, sorted: halo[r] lists (cell) in ascending order, so
/// by rank.
std::vector<std::vector<int>> halo_cells(const VolumeMesh& m, const std::vector<int>& first) {
  std::vector<std::vector<int>> halo(first.size() - 1);
  for (int f = 0; f < m.interior_faces(); ++f) {
    const int a = m.cell_below[at(f)], b = m.cell_above[at(f)], ra = rank_of(a, first),
              rb = rank_of(b, first);
    if (ra != rb) halo[at(ra)].push_back(b), halo[at(rb)].push_back(a);
  }
  for (auto& h : halo) {
    std::sort(h.begin(), h.end());
    h.erase(std::unique(h.begin(), h.end()), h.end());
  }
  return halo;
}

Share make_share(const VolumeMesh& m, const std::vector<Vec3>& thin,
                 const std::vector<double>& wall_distance, const std::vector<int>& first,
                 const std::vector<std::vector<int>>& halo, int rank) {
  Share s;
  const int lo = first[at(rank)], hi = first[at(rank) + 1];
  s.first_global = lo, s.own = hi - lo;
  const std::vector<int>& mine = halo[at(rank)];
  const auto is_own = [&](int c) { return c >= lo && c < hi; };
  const auto local = [&](int c) {
    return is_own(c) ? c - lo
                     : s.own + static_cast<int>(std::lower_bound(mine.begin(), mine.end(), c) -
                                                mine.begin());
  };
  const auto add_cell = [&](int c) {
    s.centre.push_back(m.cell_centre[at(c)]), s.volume.push_back(m.cell_volume[at(c)]),
        s.wall_distance.push_back(wall_distance[at(c)]);
    s.across.push_back(thin[at(c)]);
  };
  const std::size_t cells = at(s.own) + mine.size();
  s.centre.reserve(cells), s.volume.reserve(cells), s.wall_distance.reserve(cells),
      s.across.reserve(cells);
  for (int c = lo; c < hi; ++c) add_cell(c);
  for (const int c : mine) add_cell(c);
  std::size_t faces = 0;
  for (int f = 0; f < m.interior_faces(); ++f)
    faces += is_own(m.cell_below[at(f)]) || is_own(m.cell_above[at(f)]);
  s.below.reserve(faces), s.above.reserve(faces), s.area.reserve(faces), s.skew.reserve(faces),
      s.weight.reserve(faces), s.g.reserve(faces), s.lateral.reserve(faces);
  for_partings(m, thin, lo, hi, [&](const Parting& p) {
    s.below.push_back(local(p.below)), s.above.push_back(local(p.above));
    add_face(m, thin, p, s);
    constexpr double noticeable = 1e-3;  // second moment over area to the power 3/2
    const double size = norm(p.area);
    if (norm(p.warp.row[0]) + norm(p.warp.row[1]) + norm(p.warp.row[2]) >
        noticeable * size * std::sqrt(size))
      s.warped.push_back({static_cast<int>(s.area.size()) - 1, p.warp});
  });
  for (const Boundary& p : m.boundaries) {
    int count = 0;
    for (int f = p.first; f < p.first + p.count; ++f)
      if (is_own(m.cell_below[at(f)])) {
        s.boundary_faces.push_back(make_boundary_face(m, f));
        s.boundary_faces.back().cell -= lo;
        ++count;
      }
    s.boundary_counts.push_back(count);
  }
  for (int other = 0; other + 1 < static_cast<int>(first.size()); ++other) {
    if (other == rank) continue;
    const auto from = std::lower_bound(mine.begin(), mine.end(), first[at(other)]),
               to = std::lower_bound(mine.begin(), mine.end(), first[at(other) + 1]);
    if (from == to) continue;
    s.neighbour_ranks.push_back(other);
    s.received.push_back(static_cast<int>(to - from));
    int count = 0;
    for (const int c : halo[at(other)])
      if (is_own(c)) s.send_cells.push_back(c - lo), ++count;
    s.send_counts.push_back(count);
  }
  return s;
}

template <class Visit>
void visit_arrays(Share& s, const Visit& visit) {
  visit(s.centre), visit(s.across), visit(s.volume), visit(s.wall_distance), visit(s.below),
      visit(s.above), visit(s.area), visit(s.skew), visit(s.weight), visit(s.g), visit(s.lateral),
      visit(s.boundary_faces), visit(s.warped);
  visit(s.boundary_counts), visit(s.neighbour_ranks), visit(s.send_counts), visit(s.send_cells),
      visit(s.received);
}

std::vector<Boundary> share_boundaries(const VolumeMesh* mesh, Communicator& comm) {
  std::vector<char> names;
  std::vector<int> kinds;
  if (comm.rank() == 0)
    for (const Boundary& p : mesh->boundaries) {
      names.insert(names.end(), p.name.begin(), p.name.end());
      names.push_back('\0');
      kinds.push_back(static_cast<int>(p.kind));
    }
  if (comm.rank() == 0)
    for (int r = 1; r < comm.size(); ++r) comm.send_vector(r, names), comm.send_vector(r, kinds);
  else
    names = comm.receive_vector<char>(0), kinds = comm.receive_vector<int>(0);
  std::vector<Boundary> boundaries;
  const char* name = names.data();
  for (const int kind : kinds) {
    boundaries.push_back({name, static_cast<BoundaryKind>(kind), 0, 0});
    name += boundaries.back().name.size() + 1;
  }
  return boundaries;
}

}  // namespace

FlowMesh distribute(const VolumeMesh* mesh, const std::vector<double>* wall_distance,
                    Communicator& comm) {
  std::vector<Boundary> boundaries = share_boundaries(mesh, comm);
  Share s;
  int numbers[2];
  if (comm.rank() == 0) {
    if (mesh->cells < comm.size())
      throw InputError(fmt::format("{} ranks for a mesh of {} cells", comm.size(), mesh->cells),
                       "ranks", "use fewer ranks");
    const std::vector<int> first = shares_of_work(*mesh, comm.size());
    const auto halo = halo_cells(*mesh, first);
    const std::vector<Vec3> thin = thin_directions(*mesh);
    for (int r = comm.size() - 1; r >= 0; --r) {
      s = make_share(*mesh, thin, *wall_distance, first, halo, r);
      if (r == 0) break;
      visit_arrays(s, [&](auto& v) { comm.send_vector(r, v); });
      numbers[0] = s.own, numbers[1] = s.first_global;
      comm.send(r, std::span<const int>(numbers));
    }
  } else {
    visit_arrays(s, [&](auto& v) {
      v = comm.receive_vector<typename std::decay_t<decltype(v)>::value_type>(0);
    });
    comm.receive(0, std::span<int>(numbers));
    s.own = numbers[0], s.first_global = numbers[1];
  }
  FlowMesh out;
  out.own = s.own, out.cells = static_cast<int>(s.centre.size()), out.first_global = s.first_global;
  out.centre = std::move(s.centre), out.across = std::move(s.across),
  out.volume = std::move(s.volume), out.wall_distance = std::move(s.wall_distance);
  for (const double v : out.volume) out.side2.push_back(std::pow(v, 2.0 / 3));
  out.below = std::move(s.below), out.above = std::move(s.above), out.area = std::move(s.area),
  out.skew = std::move(s.skew);
  out.weight = std::move(s.weight), out.g = std::move(s.g), out.lateral = std::move(s.lateral),
  out.boundary_faces = std::move(s.boundary_faces), out.warped = std::move(s.warped);
  int first = 0;
  for (std::size_t p = 0; p < boundaries.size(); ++p) {
    boundaries[p].first = first, boundaries[p].count = s.boundary_counts[p];
    first += s.boundary_counts[p];
  }
  out.boundaries = std::move(boundaries);
  out.graph = make_graph(out.own, out.cells, out.below, out.above, out.slots);
  int next_halo = out.own, next_send = 0;
  for (std::size_t i = 0; i < s.neighbour_ranks.size(); ++i) {
    HaloPlan::Neighbour n{s.neighbour_ranks[i], {}, next_halo, s.received[i]};
    n.send.assign(s.send_cells.begin() + next_send,
                  s.send_cells.begin() + next_send + s.send_counts[i]);
    next_halo += s.received[i], next_send += s.send_counts[i];
    out.halo_plan.neighbours.push_back(std::move(n));
  }
  return out;
}

std::vector<double> wall_distances(const VolumeMesh& m, const std::vector<bool>& boundary_is_wall) {
  const Surface walls = wall_triangles(m, [&](const Boundary& p) {
                          return boundary_is_wall[at(&p - m.boundaries.data())];
                        }).surface;
  constexpr double huge = 1e6;
  std::vector<double> distance(at(m.cells), huge);
  if (walls.size() == 0) return distance;
  const NearestTree tree(walls);
  parallel_for(
      distance.size(),
      [&](std::size_t c) {
        distance[c] = std::max(tree.nearest(m.cell_centre[c], huge).distance, 1e-9);
      },
      256);
  return distance;
}

}  // namespace dunefield
