#include <dunefield/geometry/query/surface_query.hpp>

#include <algorithm>
#include <optional>

#include <dunefield/base/index.hpp>
#include <dunefield/geometry/query/box_tree.hpp>
#include <dunefield/geometry/query/nearest_tree.hpp>
#include <dunefield/geometry/query/winding_number.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {

struct SurfaceQuery::State {
  State(const Surface& of, const std::vector<char>& sheet_parts)
      : surface(of),
        tree(surface),
        rays(surface),
        shells(find_shells(surface, rays, sheet_parts)) {}
  Surface surface;
  NearestTree tree;
  RayScene rays;
  Shells shells;
  std::vector<char> open;  ///< per triangle
  bool any_open = false;
  std::vector<WindingNumber> closed;  ///< one for each closed shell
  BoxTree closed_boxes;
  std::vector<WindingNumber> torn;          ///< one for each large open shell
  std::optional<WindingNumber> small_torn;  ///< all others
  Box torn_box;
};

namespace {

// open shells with a tree of their own: smaller ones count together with all others only
constexpr std::size_t most_torn = 16;

/// The triangles of the open shells, the largest first.
std::vector<std::vector<int>> torn_shells(const Surface& s, const Shells& shells) {
  std::vector<std::pair<double, const Shell*>> open;
  for (const Shell& shell : shells.shells) {
    if (shell.closed) continue;
    double area = 0;
    for (const int t : shell.triangles) area += norm(s.area_vector(static_cast<std::size_t>(t)));
    open.push_back({area, &shell});
  }
  std::stable_sort(open.begin(), open.end(),
                   [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<std::vector<int>> groups;
  for (const auto& [area, shell] : open) groups.push_back(shell->triangles);
  return groups;
}

}  // namespace

SurfaceQuery::SurfaceQuery(const Surface& surface, const std::vector<char>& sheet_parts)
    : state_(std::make_unique<State>(surface, sheet_parts)) {
  State& s = *state_;
  s.open.assign(surface.size(), 1);
  std::vector<SmallBox> boxes;
  for (const Shell& shell : s.shells.shells) {
    if (!shell.closed) continue;
    for (const int t : shell.triangles) s.open[at(t)] = 0;
    s.closed.emplace_back(s.surface, shell.triangles, s.shells.turned);
    boxes.emplace_back(s.closed.back().box());
  }
  for (std::size_t t = 0; t < surface.size(); ++t)
    if (s.shells.doubled[t]) s.open[t] = 0;
  s.any_open = std::find(s.open.begin(), s.open.end(), 1) != s.open.end();
  s.closed_boxes = BoxTree(boxes);
  std::vector<int> small;
  for (const auto& shell : torn_shells(s.surface, s.shells)) {
    if (s.torn.size() < most_torn)
      s.torn.emplace_back(s.surface, shell, s.shells.turned);
    else
      small.insert(small.end(), shell.begin(), shell.end());
  }
  if (!small.empty()) s.small_torn.emplace(s.surface, small, s.shells.turned);
  for (const WindingNumber& w : s.torn) s.torn_box.include(w.box());
  if (s.small_torn) s.torn_box.include(s.small_torn->box());
}

SurfaceQuery::~SurfaceQuery() = default;
SurfaceQuery::SurfaceQuery(SurfaceQuery&&) noexcept = default;
SurfaceQuery& SurfaceQuery::operator=(SurfaceQuery&&) noexcept = default;

const Surface& SurfaceQuery::surface() const { return state_->surface; }
const Shells& SurfaceQuery::shells() const { return state_->shells; }

std::optional<SurfaceQuery::Hit> SurfaceQuery::nearest(const Vec3& p, double reach) const {
  const NearestTree::Found f = state_->tree.nearest(p, reach);
  if (f.triangle < 0) return std::nullopt;
  return Hit{f.point, unit(state_->surface.area_vector(static_cast<std::size_t>(f.triangle))),
             f.distance, f.triangle};
}

bool SurfaceQuery::within(const Vec3& p, double reach) const {
  return state_->tree.within(p, reach);
}

std::optional<SurfaceQuery::Hit> SurfaceQuery::first_crossing(const Vec3& a, const Vec3& b) const {
  return state_->rays.first_crossing(a, b);
}

bool SurfaceQuery::inside(const Vec3& p) const {
  bool solid = false;
  state_->closed_boxes.overlapping(SmallBox(Box{p, p}), [&](int shell) {
    solid = solid || std::abs(state_->closed[at(shell)].at(p)) > 0.5;
  });
  if (solid || !state_->torn_box.contains(p)) return solid;
  double all = 0;
  for (const WindingNumber& shell : state_->torn) {
    const double own = shell.at(p);
    // Shells that cross may take from each other. From outside its box no shell is seen all around.
    if (own > 0.5 && shell.box().contains(p)) return true;
    all += own;
  }
  if (state_->small_torn) all += state_->small_torn->at(p);
  return all > 0.5;
}

bool SurfaceQuery::is_open(int triangle) const { return state_->open[at(triangle)]; }
bool SurfaceQuery::any_open() const { return state_->any_open; }

}  // namespace dunefield
