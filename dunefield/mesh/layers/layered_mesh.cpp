#include <dunefield/mesh/layers/layered_mesh.hpp>

#include <numeric>

#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

std::uint64_t key(int a, int b) {
  return static_cast<std::uint64_t>(std::min(a, b)) << 32 |
         static_cast<std::uint32_t>(std::max(a, b));
}

}  // namespace

WallEdges::WallEdges(const VolumeMesh& m, const std::vector<int>& faces) : start_(1, 0) {
  struct Use {
    std::uint64_t edge;
    int side;  ///< a layered face, or -1 - boundary
    int slot;
    bool operator<(const Use& o) const { return edge != o.edge ? edge < o.edge : slot < o.slot; }
  };
  std::vector<char> layered(at(m.faces()), 0);
  std::vector<Use> uses;
  for (std::size_t i = 0; i < faces.size(); ++i) {
    layered[at(faces[i])] = 1;
    const Ring r = ring_of(m, faces[i]);
    for (int k = 0; k < r.size; ++k)
      uses.push_back({key(r[k], r[k + 1]), static_cast<int>(i), start_.back() + k});
    start_.push_back(start_.back() + r.size);
  }
  std::vector<char> at_wall(m.points.size(), 0);
  for (const int f : faces)
    for (int k = m.face_start[at(f)]; k < m.face_start[at(f) + 1]; ++k)
      at_wall[at(m.face_points[at(k)])] = 1;
  int slot = start_.back();
  for (std::size_t p = 0; p < m.boundaries.size(); ++p)
    for (int f = m.boundaries[p].first; f < m.boundaries[p].first + m.boundaries[p].count; ++f) {
      const Ring r = ring_of(m, f);
      for (int k = 0; k < r.size && !layered[at(f)]; ++k)
        if (at_wall[at(r[k])] && at_wall[at(r[k + 1])])
          uses.push_back({key(r[k], r[k + 1]), -1 - static_cast<int>(p), slot++});
    }
  std::sort(uses.begin(), uses.end());
  across_.assign(at(start_.back()), nobody);
  for (std::size_t first = 0, last; first < uses.size(); first = last) {
    for (last = first; last < uses.size() && uses[last].edge == uses[first].edge;) ++last;
    int walls = 0;
    for (std::size_t i = first; i < last; ++i) walls += uses[i].side >= 0;
    if (walls == 0) continue;
    const int one = uses[first].side, other = walls > 1          ? uses[first + at(walls) - 1].side
                                              : last - first > 1 ? uses[first + 1].side
                                                                 : nobody;
    for (std::size_t i = first; i < first + at(walls); ++i)
      across_[at(uses[i].slot)] = uses[i].side == one ? other : one;
  }
}

VolumeMesh LayeredMesh::build() {
  number_cells();
  core_faces();
  for (std::size_t p = 0; p < m_.boundaries.size(); ++p)
    for (int f = m_.boundaries[p].first; f < m_.boundaries[p].first + m_.boundaries[p].count; ++f)
      if (const int i = face_slot_[at(f)]; i >= 0 && within(m_.cell_below[at(f)]))
        column_faces(i, static_cast<int>(p));
  return sorted();
}

void LayeredMesh::number_cells() {
  std::vector<int> own(at(m_.cells), 0);
  depth_.resize(plan_.faces().size());
  face_slot_.assign(at(m_.faces()), -1);
  for (std::size_t i = 0; i < depth_.size(); ++i) {
    const int f = plan_.faces()[i];
    depth_[i] = layers_of(columns_, ring_of(m_, f));
    face_slot_[at(f)] = static_cast<int>(i);
    own[at(m_.cell_below[at(f)])] += depth_[i];
  }
  core_number_.assign(at(m_.cells), -1);
  for (int c = 0; c < m_.cells; ++c)
    if (within(c))
      core_number_[at(c)] = cells_, cells_ += 1 + own[at(c)], layer_cells_ += own[at(c)];
  std::vector<int> next(core_number_);
  top_.resize(depth_.size());
  for (std::size_t i = 0; i < depth_.size(); ++i) {
    int& n = next[at(m_.cell_below[at(plan_.faces()[i])])];
    top_[i] = n + 1, n += depth_[i];
  }
}

void LayeredMesh::add(int below, int above, const int* points, int size) {
  faces_.push_back({below, above, static_cast<int>(corner_.size()), size});
  corner_.insert(corner_.end(), points, points + size);
}

void LayeredMesh::core_faces() {
  if (!region_)
    faces_.reserve(at(m_.faces()) + 5 * at(layer_cells_)),
        corner_.reserve(m_.face_points.size() + 20 * at(layer_cells_));
  for (int f = 0; f < m_.interior_faces(); ++f) {
    const int below = core_number_[at(m_.cell_below[at(f)])],
              above = core_number_[at(m_.cell_above[at(f)])];
    if (below < 0 && above < 0) continue;
    const Ring r = ring_of(m_, f);
    add(below < 0 ? above : below, below < 0 || above < 0 ? -1 - cut() : above, r.point, r.size);
    if (below < 0) std::reverse(corner_.end() - r.size, corner_.end());
  }
  for (std::size_t p = 0; p < m_.boundaries.size(); ++p)
    for (int f = m_.boundaries[p].first; f < m_.boundaries[p].first + m_.boundaries[p].count; ++f) {
      if (const int i = face_slot_[at(f)];
          !within(m_.cell_below[at(f)]) || (i >= 0 && depth_[at(i)] > 0))
        continue;
      const Ring r = ring_of(m_, f);
      add(core_number_[at(m_.cell_below[at(f)])], -1 - static_cast<int>(p), r.point, r.size);
    }
}

void LayeredMesh::column_faces(int i, int boundary) {
  const int f = plan_.faces()[at(i)], depth = depth_[at(i)];
  if (depth == 0) return;
  const Ring r = ring_of(m_, f);
  std::vector<int> points(at(r.size));
  for (int level = depth; level >= 0; --level) {
    for (int k = 0; k < r.size; ++k) points[at(k)] = columns_.number(r[k], level);
    const int below =
        level == depth ? core_number_[at(m_.cell_below[at(f)])] : layer_cell(i, level + 1);
    add(below, level == 0 ? -1 - boundary : layer_cell(i, level), points.data(), r.size);
  }
  for (int k = 0; k < r.size; ++k) {
    const int other = edges_.across(i, k);
    const bool built = other >= 0 && within(m_.cell_below[at(plan_.faces()[at(other)])]);
    if (built && other < i) continue;  // the other face has made them
    const int reach = std::max(columns_.layers(r[k]), columns_.layers(r[k + 1]));
    for (int j = 1; j <= reach; ++j) {
      const int quad[4] = {columns_.number(r[k], j), columns_.number(r[k + 1], j),
                           columns_.number(r[k + 1], j - 1), columns_.number(r[k], j - 1)};
      int side[4], n = 0;
      for (const int c : quad)
        if (n == 0 || (side[n - 1] != c && side[0] != c)) side[n++] = c;
      if (n < 3) continue;
      int below = layer_cell(i, j), above = built        ? layer_cell(other, j)
                                            : other >= 0 ? -1 - cut()
                                                         : other;
      if (built && above < below) std::swap(below, above), std::reverse(side, side + n);
      add(below, above, side, n);
    }
  }
}

std::vector<int> LayeredMesh::order_of_faces() const {
  const auto inner = [&](const Face& f) { return f.above >= 0; };
  const auto bucket = [&](const Face& f) { return at(inner(f) ? f.below : cells_ - 1 - f.above); };
  std::vector<int> start(at(cells_) + m_.boundaries.size() + 2, 0), order(faces_.size());
  for (const Face& f : faces_) ++start[bucket(f) + 1];
  std::partial_sum(start.begin(), start.end(), start.begin());
  std::vector<int> next(start.begin(), start.end() - 1);
  for (std::size_t f = 0; f < faces_.size(); ++f)
    order[at(next[bucket(faces_[f])]++)] = static_cast<int>(f);
  parallel_for(
      start.size() - 1,
      [&](std::size_t b) {
        const auto second = [&](int f) {
          return inner(faces_[at(f)]) ? faces_[at(f)].above : faces_[at(f)].below;
        };
        const auto before = [&](int f, int g) { return second(f) < second(g); };
        if (!std::is_sorted(order.begin() + start[b], order.begin() + start[b + 1], before))
          std::stable_sort(order.begin() + start[b], order.begin() + start[b + 1], before);
      },
      4096);
  return order;
}

VolumeMesh LayeredMesh::sorted() {
  const std::vector<int> order = order_of_faces();
  VolumeMesh out;
  out.cells = cells_;
  out.points = columns_.points();
  out.boundaries = m_.boundaries;
  if (region_) out.boundaries.push_back({"cut", BoundaryKind::side, 0, 0});
  for (Boundary& p : out.boundaries) p.count = 0;
  out.face_start.resize(order.size() + 1), out.cell_below.resize(order.size()),
      out.face_points.resize(corner_.size());
  out.face_start[0] = 0;
  std::size_t inner = 0;
  for (std::size_t i = 0; i < order.size(); ++i) {
    const Face& face = faces_[at(order[i])];
    out.face_start[i + 1] = out.face_start[i] + face.size;
    if (face.above >= 0)
      ++inner;
    else
      ++out.boundaries[at(-1 - face.above)].count;
  }
  out.cell_above.resize(inner);
  parallel_for(
      order.size(),
      [&](std::size_t i) {
        const Face& face = faces_[at(order[i])];
        std::copy_n(corner_.begin() + face.first, face.size,
                    out.face_points.begin() + out.face_start[i]);
        out.cell_below[i] = face.below;
        if (i < inner) out.cell_above[i] = face.above;
      },
      8192);
  int next = static_cast<int>(inner);
  for (Boundary& p : out.boundaries) p.first = next, next += p.count;
  return out;
}

}  // namespace dunefield
