#include <dunefield/look/ray_tracer.hpp>

#include <cmath>

#include <embree3/rtcore.h>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

constexpr unsigned casts_shadow = 1, casts_none = 2;

RTCRay ray_of(const Vec3& from, const Vec3& way, double nearest, double farthest, unsigned mask) {
  RTCRay ray{};
  ray.org_x = static_cast<float>(from.x), ray.org_y = static_cast<float>(from.y),
  ray.org_z = static_cast<float>(from.z);
  ray.dir_x = static_cast<float>(way.x), ray.dir_y = static_cast<float>(way.y),
  ray.dir_z = static_cast<float>(way.z);
  ray.tnear = static_cast<float>(nearest), ray.tfar = static_cast<float>(farthest);
  ray.mask = mask;
  return ray;
}

float* put(float* to, const Vec3& p) {
  for (int i = 0; i < 3; ++i) *to++ = static_cast<float>(p[i]);
  return to;
}

}  // namespace

struct RayTracer::State {
  RTCDevice device = nullptr;
  RTCScene scene = nullptr;
  struct Thing {
    const Sheet* sheet = nullptr;
    const Bundle* bundle = nullptr;
    std::vector<std::pair<int, int>> segment;  ///< strand and first point of each primitive
  };
  std::vector<Thing> things;  ///< by number of Embree's geometry
  ~State() {
    if (scene) rtcReleaseScene(scene);
    if (device) rtcReleaseDevice(device);
  }
  void attach(RTCGeometry geometry, bool shadow, Thing thing) {
    rtcSetGeometryMask(geometry, shadow ? casts_shadow : casts_none);
    rtcCommitGeometry(geometry);
    rtcAttachGeometryByID(scene, geometry, static_cast<unsigned>(things.size()));
    rtcReleaseGeometry(geometry);
    things.push_back(std::move(thing));
  }
  /// @param nearer what looks at the eye of lit sheets is nearer to it by that: where the wall is a
  /// sheet, its two sides lie in one place, and chance would show now one and now the other
  void add(const Sheet& s, const Vec3& nearer) {
    if (s.triangles.empty() || s.opacity <= 0) return;
    RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(
        g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, s.points.size()));
    const bool two_sides = s.lit && s.normals.size() == s.points.size();
    for (std::size_t i = 0; i < s.points.size(); ++i)
      points = put(points,
                   two_sides && dot(s.normals[i], nearer) > 0 ? s.points[i] + nearer : s.points[i]);
    auto* corners = static_cast<unsigned*>(rtcSetNewGeometryBuffer(
        g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, s.triangles.size()));
    for (const auto& t : s.triangles)
      for (const int c : t) *corners++ = static_cast<unsigned>(c);
    attach(g, s.lit && s.opacity >= 1, {&s, nullptr, {}});
  }
  void add(const Bundle& b, double thin) {
    Thing thing{nullptr, &b, {}};
    std::vector<float> points;
    std::vector<unsigned> first;
    const auto radius = static_cast<float>(b.radius > 0 ? b.radius : thin);
    for (std::size_t s = 0; s < b.strands.size(); ++s) {
      const auto& line = b.strands[s].points;
      for (std::size_t i = 0; i < line.size(); ++i) {
        if (i + 1 < line.size()) {
          first.push_back(static_cast<unsigned>(points.size() / 4));
          thing.segment.push_back({static_cast<int>(s), static_cast<int>(i)});
        }
        for (int k = 0; k < 3; ++k) points.push_back(static_cast<float>(line[i][k]));
        points.push_back(radius);
      }
    }
    if (first.empty()) return;
    RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_ROUND_LINEAR_CURVE);
    std::copy(points.begin(), points.end(),
              static_cast<float*>(rtcSetNewGeometryBuffer(
                  g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT4, 16, points.size() / 4)));
    std::copy(first.begin(), first.end(),
              static_cast<unsigned*>(rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0,
                                                             RTC_FORMAT_UINT, 4, first.size())));
    attach(g, false, std::move(thing));
  }
};

RayTracer::RayTracer(const Scene& scene, double thin, const Vec3& towards_eye)
    : state_(std::make_unique<State>()) {
  State& s = *state_;
  s.device = rtcNewDevice(nullptr);
  s.scene = rtcNewScene(s.device);
  rtcSetSceneFlags(s.scene, RTC_SCENE_FLAG_ROBUST);
  rtcSetSceneBuildQuality(s.scene, RTC_BUILD_QUALITY_LOW);  // it is used for one picture
  constexpr double apart = 2e-4;                            // of what is seen
  for (const Sheet& one : scene.sheets)
    s.add(one, towards_eye * (apart * norm(scene.frame.size())));
  for (const Bundle& one : scene.bundles) s.add(one, thin);
  rtcCommitScene(s.scene);
}
RayTracer::~RayTracer() = default;

namespace {

void fill_from(RayTracer::Hit& out, const Sheet& s, const RTCHit& h) {
  const auto& t = s.triangles[h.primID];
  const double u = static_cast<double>(h.u), v = static_cast<double>(h.v);
  const double w[3] = {1 - u - v, u, v};
  if (!s.values.empty()) {
    out.value = s.facets ? s.values[at(t[0])] : 0;
    for (int k = 0; k < 3 && !s.facets; ++k) out.value += w[k] * s.values[at(t[at(k)])];
  }
  for (int k = 0; k < 3 && !s.flow.empty(); ++k) out.flow += s.flow[at(t[at(k)])] * w[k];
  out.sheet = &s;
  out.smooth = out.normal;
  if (s.normals.empty()) return;
  Vec3 sum;
  for (int k = 0; k < 3; ++k) sum += s.normals[at(t[at(k)])] * w[k];
  // Across a sharp edge the mean says nothing.
  constexpr double alike = 0.7;
  if (std::abs(dot(unit(sum), out.normal)) > alike) out.smooth = unit(sum);
}

}  // namespace

std::optional<RayTracer::Hit> RayTracer::first(const Vec3& from, const Vec3& way,
                                               double nearest) const {
  RTCRayHit ray{};
  ray.ray = ray_of(from, way, nearest, std::numeric_limits<double>::infinity(), ~0u);
  ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcIntersect1(state_->scene, &context, &ray);
  if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
  Hit out;
  out.distance = static_cast<double>(ray.ray.tfar);
  out.normal = unit({static_cast<double>(ray.hit.Ng_x), static_cast<double>(ray.hit.Ng_y),
                     static_cast<double>(ray.hit.Ng_z)});
  out.front = dot(out.normal, way) < 0;
  const State::Thing& thing = state_->things[ray.hit.geomID];
  if (thing.sheet) {
    fill_from(out, *thing.sheet, ray.hit);
    return out;
  }
  out.bundle = thing.bundle, out.smooth = out.normal;
  const auto [s, i] = thing.segment[ray.hit.primID];
  const Strand& strand = thing.bundle->strands[at(s)];
  const double u = static_cast<double>(ray.hit.u);
  if (!strand.values.empty())
    out.value = strand.values[at(i)] + u * (strand.values[at(i + 1)] - strand.values[at(i)]);
  return out;
}

bool RayTracer::blocked(const Vec3& from, const Vec3& way, double distance) const {
  RTCRay ray = ray_of(from, way, 0, distance, casts_shadow);
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcOccluded1(state_->scene, &context, &ray);
  return ray.tfar < 0;
}

}  // namespace dunefield
