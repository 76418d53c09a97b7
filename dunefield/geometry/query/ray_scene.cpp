#include <dunefield/geometry/query/ray_scene.hpp>

#include <embree3/rtcore.h>

namespace dunefield {
namespace {

RTCRay ray_of(const Vec3& a, const Vec3& b) {
  const Vec3 d = b - a;
  RTCRay ray{};
  ray.org_x = static_cast<float>(a.x), ray.org_y = static_cast<float>(a.y),
  ray.org_z = static_cast<float>(a.z);
  ray.dir_x = static_cast<float>(d.x), ray.dir_y = static_cast<float>(d.y),
  ray.dir_z = static_cast<float>(d.z);
  ray.tnear = 0;
  ray.tfar = 1;
  ray.mask = ~0u;
  return ray;
}

}  // namespace

struct RayScene::State {
  const Surface* surface = nullptr;
  RTCDevice device = nullptr;
  RTCScene scene = nullptr;
  ~State() {
    if (scene) rtcReleaseScene(scene);
    if (device) rtcReleaseDevice(device);
  }
};

RayScene::RayScene(const Surface& surface) : state_(std::make_unique<State>()) {
  State& s = *state_;
  s.surface = &surface;
  s.device = rtcNewDevice(nullptr);
  s.scene = rtcNewScene(s.device);
  constexpr std::size_t large = 3'000'000;  // triangles from which memory counts more than speed
  rtcSetSceneFlags(s.scene,
                   surface.size() > large
                       ? static_cast<RTCSceneFlags>(RTC_SCENE_FLAG_ROBUST | RTC_SCENE_FLAG_COMPACT)
                       : RTC_SCENE_FLAG_ROBUST);
  RTCGeometry mesh = rtcNewGeometry(s.device, RTC_GEOMETRY_TYPE_TRIANGLE);
  if (surface.size() > 0) {
    auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(
        mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, surface.points.size()));
    for (const Vec3& p : surface.points)
      for (int i = 0; i < 3; ++i) *points++ = static_cast<float>(p[i]);
    // The corners are shared with the surface, not copied.
    rtcSetSharedGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                               surface.triangles.data(), 0, 12, surface.size());
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(s.scene, mesh);
  }
  rtcReleaseGeometry(mesh);
  rtcCommitScene(s.scene);
}

RayScene::~RayScene() = default;
RayScene::RayScene(RayScene&&) noexcept = default;
RayScene& RayScene::operator=(RayScene&&) noexcept = default;

std::optional<RayScene::Hit> RayScene::first_crossing(const Vec3& a, const Vec3& b) const {
  const Surface& s = *state_->surface;
  RTCRayHit ray{};
  ray.ray = ray_of(a, b);
  ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcIntersect1(state_->scene, &context, &ray);
  if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
  const std::size_t t = ray.hit.primID;
  const Vec3 d = b - a, n = unit(s.area_vector(t));
  const double slope = dot(n, d);
  double along = static_cast<double>(ray.ray.tfar);
  if (std::abs(slope) > 1e-9 * norm(d)) {
    const double exact = dot(n, s.corner(t, 0) - a) / slope;
    if (std::abs(exact - along) < 1e-3) along = exact;
  }
  along = std::clamp(along, 0.0, 1.0);
  return Hit{a + d * along, n, along * norm(d), static_cast<int>(t)};
}

bool RayScene::blocked(const Vec3& a, const Vec3& b) const {
  RTCRay ray = ray_of(a, b);
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcOccluded1(state_->scene, &context, &ray);
  return ray.tfar < 0;
}

}  // namespace dunefield
