// Rays and nearest points are found by Embree's trees in single precision; the triangle found is then
// measured again in double precision.
#include <dunefield/geometry/surface_query.hpp>

#include <embree3/rtcore.h>

#include <dunefield/geometry/winding_number.hpp>

namespace dunefield {
namespace {

/// Nearest point of a triangle (Ericson 2005, section 5.1.5).
Vec3 nearest_on_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
  const Vec3 ab = b - a, ac = c - a, ap = p - a;
  const double d1 = dot(ab, ap), d2 = dot(ac, ap);
  if (d1 <= 0 && d2 <= 0) return a;
  const Vec3 bp = p - b;
  const double d3 = dot(ab, bp), d4 = dot(ac, bp);
  if (d3 >= 0 && d4 <= d3) return b;
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return a + ab * (d1 / (d1 - d3));
  const Vec3 cp = p - c;
  const double d5 = dot(ab, cp), d6 = dot(ac, cp);
  if (d6 >= 0 && d5 <= d6) return c;
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return a + ac * (d2 / (d2 - d6));
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return b + (c - b) * ((d4 - d3) / ((d4 - d3) + (d5 - d6)));
  const double denominator = va + vb + vc;
  if (!(denominator > 0)) return a;
  return a + ab * (vb / denominator) + ac * (vc / denominator);
}

struct NearestSearch {
  const Surface* surface;
  Vec3 p;
  double best = 0;
  Vec3 point;
  int triangle = -1;
};

bool visit_triangle(RTCPointQueryFunctionArguments* args) {
  auto& search = *static_cast<NearestSearch*>(args->userPtr);
  const std::size_t t = args->primID;
  const Vec3 q = nearest_on_triangle(search.p, search.surface->corner(t, 0), search.surface->corner(t, 1), search.surface->corner(t, 2));
  const double d = norm(q - search.p);
  if (d > search.best || (d == search.best && search.triangle >= 0 && static_cast<int>(t) > search.triangle)) return false;
  search.best = d;
  search.point = q;
  search.triangle = static_cast<int>(t);
  // The radius is rounded up so that ties stay inside it and the choice among them is the same each time.
  args->query->radius = static_cast<float>(d * (1 + 1e-6)) + 1e-30f;
  return true;
}

}  // namespace

struct SurfaceQuery::State {
  Surface surface;
  RTCDevice device = nullptr;
  RTCScene scene = nullptr;
  Pieces pieces;
  std::vector<char> piece_open;
  std::vector<WindingNumber> winding;

  ~State() {
    if (scene) rtcReleaseScene(scene);
    if (device) rtcReleaseDevice(device);
  }
};

SurfaceQuery::SurfaceQuery(const Surface& surface) : state_(std::make_unique<State>()) {
  State& s = *state_;
  s.surface = surface;
  s.device = rtcNewDevice(nullptr);
  s.scene = rtcNewScene(s.device);
  rtcSetSceneFlags(s.scene, RTC_SCENE_FLAG_ROBUST);
  RTCGeometry mesh = rtcNewGeometry(s.device, RTC_GEOMETRY_TYPE_TRIANGLE);
  if (surface.size() > 0) {
    auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, surface.points.size()));
    for (const Vec3& p : surface.points)
      for (int i = 0; i < 3; ++i) *points++ = static_cast<float>(p[i]);
    auto* corners = static_cast<unsigned*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, surface.size()));
    for (const auto& c : surface.triangles)
      for (const int i : c) *corners++ = static_cast<unsigned>(i);
    rtcSetGeometryPointQueryFunction(mesh, visit_triangle);
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(s.scene, mesh);
  }
  rtcReleaseGeometry(mesh);
  rtcCommitScene(s.scene);

  s.pieces = connected_pieces(s.surface);
  s.piece_open = count_edges(s.surface, s.pieces).piece_open;
  std::vector<std::vector<int>> members(static_cast<std::size_t>(s.pieces.count));
  for (std::size_t t = 0; t < surface.size(); ++t) members[static_cast<std::size_t>(s.pieces.of_triangle[t])].push_back(static_cast<int>(t));
  for (auto& m : members) s.winding.emplace_back(s.surface, std::move(m));
}

SurfaceQuery::~SurfaceQuery() = default;
SurfaceQuery::SurfaceQuery(SurfaceQuery&&) noexcept = default;
SurfaceQuery& SurfaceQuery::operator=(SurfaceQuery&&) noexcept = default;

const Surface& SurfaceQuery::surface() const { return state_->surface; }

std::optional<SurfaceQuery::Hit> SurfaceQuery::nearest(const Vec3& p, double reach) const {
  const State& s = *state_;
  NearestSearch search{&s.surface, p, reach, {}, -1};
  RTCPointQuery query{};
  query.x = static_cast<float>(p.x), query.y = static_cast<float>(p.y), query.z = static_cast<float>(p.z);
  // Room for the rounding of the point itself.
  query.radius = static_cast<float>(reach * (1 + 1e-6) + 1e-6 * (std::abs(p.x) + std::abs(p.y) + std::abs(p.z)));
  RTCPointQueryContext context;
  rtcInitPointQueryContext(&context);
  rtcPointQuery(s.scene, &query, &context, nullptr, &search);
  if (search.triangle < 0) return std::nullopt;
  return Hit{search.point, unit(s.surface.area_vector(static_cast<std::size_t>(search.triangle))), search.best, search.triangle};
}

std::optional<SurfaceQuery::Hit> SurfaceQuery::first_crossing(const Vec3& a, const Vec3& b) const {
  const State& s = *state_;
  const Vec3 d = b - a;
  RTCRayHit ray{};
  ray.ray.org_x = static_cast<float>(a.x), ray.ray.org_y = static_cast<float>(a.y), ray.ray.org_z = static_cast<float>(a.z);
  ray.ray.dir_x = static_cast<float>(d.x), ray.ray.dir_y = static_cast<float>(d.y), ray.ray.dir_z = static_cast<float>(d.z);
  ray.ray.tnear = 0;
  ray.ray.tfar = 1;
  ray.ray.mask = ~0u;
  ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcIntersect1(s.scene, &context, &ray);
  if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
  const std::size_t t = ray.hit.primID;
  const Vec3 n = unit(s.surface.area_vector(t));
  const double slope = dot(n, d);
  double along = static_cast<double>(ray.ray.tfar);
  if (std::abs(slope) > 1e-9 * norm(d)) {
    const double exact = dot(n, s.surface.corner(t, 0) - a) / slope;
    if (std::abs(exact - along) < 1e-3) along = exact;
  }
  along = std::clamp(along, 0.0, 1.0);
  return Hit{a + d * along, n, along * norm(d), static_cast<int>(t)};
}

bool SurfaceQuery::inside(const Vec3& p) const {
  for (const WindingNumber& w : state_->winding)
    if (w.box().contains(p) && std::abs(w.at(p)) > 0.5) return true;
  return false;
}

bool SurfaceQuery::is_open(int triangle) const {
  return state_->piece_open[static_cast<std::size_t>(state_->pieces.of_triangle[static_cast<std::size_t>(triangle)])];
}

}  // namespace dunefield
