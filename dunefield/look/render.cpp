#include <dunefield/look/render.hpp>

#include <cmath>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/look/annotation.hpp>
#include <dunefield/look/camera.hpp>
#include <dunefield/look/plane_raster.hpp>
#include <dunefield/look/ray_tracer.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

constexpr int most_layers = 12;  // of translucent things, one behind the other

/// One picture being drawn.
class Drawing {
 public:
  Drawing(const Scene& scene, const Progress& progress)
      : scene_(scene),
        progress_(progress),
        colours_(paper_colours(scene.dark)),
        camera_(scene, picture_frame(scene)),
        rays_(scene, 1.1 * camera_.metres_per_pixel(), camera_.towards_eye()),
        light_(unit(camera_.towards_eye() + camera_.up() * 0.6 - camera_.right() * 0.4)),
        reach_(0.25 * std::cbrt(std::max(1e-9, scene.frame.size().x * scene.frame.size().y *
                                                   scene.frame.size().z))) {}

  Image draw() {
    Image image(scene_.width, scene_.height, colours_.paper);
    std::vector<Sample> samples(image.pixels.size());
    const auto width = static_cast<std::size_t>(image.width);
    rows([&](std::size_t y) {
      for (std::size_t x = 0; x < width; ++x)
        samples[y * width + x] =
            sample(static_cast<double>(x) + 0.5, static_cast<double>(y) + 0.5, turn_of(x, y));
    });
    rows([&](std::size_t y) {
      for (std::size_t x = 0; x < width; ++x)
        image.pixels[y * width + x] =
            rough(samples, x, y) ? finer(x, y)
                                 : samples[y * width + x].lit_by(openness_round(samples, x, y));
    });
    add_streaks(samples, image);
    Scene seen = scene_;
    std::erase_if(seen.marks, [&](const Mark& m) { return hidden(m); });
    return annotated(seen, camera_, image);
  }

 private:
  /// What a ray finds: the light on the first thing that shadows can fall on is left open.
  struct Sample {
    Colour fixed;   ///< of all the rest
    Colour colour;  ///< of that thing, by its share of the pixel
    double direct = 0, open = 1;
    bool shadowed = false;
    const void* thing = nullptr;
    Vec3 normal;
    Vec3 flow;  ///< in pixels to the right and upward, of what has streaks
    Colour lit_by(double openness) const {
      if (!shadowed) return fixed;
      const double light = 0.50 + 0.38 * direct + 0.14 * openness;
      return fixed + colour * (light * (0.55 + 0.45 * openness));
    }
  };
  static constexpr int turns = 4;  ///< each way: rays of neighbours look different ways
  static int turn_of(std::size_t x, std::size_t y) {
    return static_cast<int>(x % turns + turns * (y % turns));
  }

  bool hidden(const Mark& m) const {
    const auto at = camera_.project(m.place);
    if (!at) return true;
    const Camera::Ray ray = camera_.ray(at->x, at->y);
    const auto hit = rays_.first(ray.from, ray.way);
    return hit && hit->distance <
                      norm(m.place - ray.from) - 0.05 * reach_ - 4 * camera_.metres_per_pixel();
  }

  /// The mean of what the pixels round this one found on the same thing.
  static double mean_open(const std::vector<Sample>& all, std::size_t from, std::size_t step,
                          const Sample& here, double& sum, int& count) {
    const Sample& s = all[from + step];
    constexpr double alike = 0.9;
    if (s.thing == here.thing && s.shadowed && dot(s.normal, here.normal) > alike)
      sum += s.open, ++count;
    return sum;
  }
  double openness_round(const std::vector<Sample>& all, std::size_t x, std::size_t y) const {
    const auto w = static_cast<std::size_t>(scene_.width),
               h = static_cast<std::size_t>(scene_.height);
    const Sample& here = all[y * w + x];
    if (!here.shadowed) return 1;
    double sum = 0;
    int count = 0;
    constexpr std::size_t half = turns;
    for (std::size_t j = y >= half ? y - half : 0; j < std::min(h, y + half); ++j)
      for (std::size_t i = x >= half ? x - half : 0; i < std::min(w, x + half); ++i)
        mean_open(all, j * w, i, here, sum, count);
    return count > 0 ? sum / count : here.open;
  }

  /// Streaks along the flow on the surfaces as they are seen.
  void add_streaks(const std::vector<Sample>& samples, Image& image) const {
    if (std::none_of(scene_.sheets.begin(), scene_.sheets.end(),
                     [](const Sheet& s) { return !s.flow.empty(); }))
      return;
    PlaneRaster raster;
    raster.across = {1, 0, 0}, raster.up = {0, 1, 0}, raster.pixel = 1;
    raster.width = image.width, raster.height = image.height;
    raster.value.resize(samples.size()), raster.there.assign(samples.size(), 0);
    for (int y = 0; y < image.height; ++y)
      for (int x = 0; x < image.width; ++x) {
        const Sample& s = samples[raster.index(x, y)];
        const std::size_t from_below = raster.index(x, image.height - 1 - y);
        raster.value[from_below] = s.flow, raster.there[from_below] = norm2(s.flow) > 0;
      }
    constexpr double streak = 30;  // pixels
    const PlaneTexture t = flow_texture(raster, streak);
    for (int y = 0; y < image.height; ++y)
      for (int x = 0; x < image.width; ++x)
        image.at(x, y) =
            image.at(x, y) * static_cast<double>(t.shade[raster.index(x, image.height - 1 - y)]);
  }

  template <class Work>
  void rows(const Work& work) {
    parallel_for(
        static_cast<std::size_t>(scene_.height),
        [&](std::size_t y) {
          progress_.check();
          work(y);
        },
        8);
  }

  static double difference(const Colour& a, const Colour& b) {
    return std::abs(a.r - b.r) + std::abs(a.g - b.g) + std::abs(a.b - b.b);
  }

  /// Where one sample a pixel would show steps.
  bool rough(const std::vector<Sample>& all, std::size_t x, std::size_t y) const {
    const auto w = static_cast<std::size_t>(scene_.width),
               h = static_cast<std::size_t>(scene_.height);
    const Sample& here = all[y * w + x];
    const auto differs = [&](std::size_t i, std::size_t j) {
      const Sample& other = all[j * w + i];
      constexpr double bent = 0.95, other_colour = 0.06;
      return other.thing != here.thing || dot(other.normal, here.normal) < bent ||
             difference(other.lit_by(1), here.lit_by(1)) > other_colour;
    };
    return (x > 0 && differs(x - 1, y)) || (x + 1 < w && differs(x + 1, y)) ||
           (y > 0 && differs(x, y - 1)) || (y + 1 < h && differs(x, y + 1));
  }

  Colour finer(std::size_t x, std::size_t y) const {
    constexpr int side = 2;
    Colour sum;
    for (int k = 0; k < side * side; ++k) {
      const int row = k / side, column = k % side;
      const Sample s = sample(static_cast<double>(x) + (column + 0.5) / side,
                              static_cast<double>(y) + (row + 0.5) / side,
                              (turn_of(x, y) + 7 * k) % (turns * turns));
      sum = sum + s.lit_by(s.open);
    }
    return sum * (1.0 / (side * side));
  }

  Sample sample(double px, double py, int turn) const {
    const Camera::Ray ray = camera_.ray(px, py);
    Sample out;
    double left = 1, nearest = 0;
    for (int layer = 0; layer < most_layers && left > 0.01; ++layer) {
      const auto hit = rays_.first(ray.from, ray.way, nearest);
      if (!hit) break;
      const double opacity = hit->sheet ? hit->sheet->opacity : 1;
      if (layer == 0)
        out.thing = hit->sheet ? static_cast<const void*>(hit->sheet) : hit->bundle,
        out.normal = hit->smooth,
        out.flow = {dot(hit->flow, camera_.right()), dot(hit->flow, camera_.up()), 0};
      shade(*hit, ray, turn, left * opacity, out);
      left *= 1 - opacity;
      nearest = hit->distance * (1 + 1e-5) + 1e-5 * reach_;
    }
    if (left > 0.01) shade_behind(ray, turn, left, out);
    return out;
  }

  /// Colours by value, or of its own; the vehicle's inside, which a cut opens, is plain.
  Colour own_colour(const RayTracer::Hit& h, const Vec3& point) const {
    const std::string& quantity = h.sheet ? h.sheet->quantity : h.bundle->quantity;
    Colour c = h.sheet ? h.sheet->colour : h.bundle->colour;
    const auto scale = scene_.scales.find(quantity);
    if (!quantity.empty() && scale != scene_.scales.end()) c = scale->second.of(h.value);
    if (h.sheet && h.sheet->texture) c = c * h.sheet->texture->at(point);
    return c;
  }

  void shade(const RayTracer::Hit& h, const Camera::Ray& ray, int turn, double share,
             Sample& out) const {
    const Vec3 point = ray.from + ray.way * h.distance;
    if (scene_.flat && h.sheet && h.sheet->lit && !h.front) {
      out.fixed = out.fixed + cut_through() * share;
      return;
    }
    const Colour c = own_colour(h, point);
    if (!(h.sheet ? h.sheet->lit : h.bundle->lit)) {
      out.fixed = out.fixed + c * share;
      return;
    }
    Vec3 n = h.smooth;
    if (dot(n, ray.way) > 0) n = -n;
    const double direct = std::max(0.0, dot(n, light_));
    const double gloss = 0.05 * share * std::pow(std::max(0.0, dot(unit(light_ - ray.way), n)), 24);
    out.fixed = out.fixed + Colour{gloss, gloss, gloss};
    if (h.sheet && h.sheet->opacity >= 1 && !out.shadowed) {
      out.colour = c * share, out.direct = direct, out.shadowed = true;
      out.open = openness(point, n, turn);
      return;
    }
    out.fixed = out.fixed + c * (share * (0.64 + 0.38 * direct));
  }

  Colour cut_through() const {
    return scene_.dark ? Colour{0.36, 0.36, 0.37} : Colour{0.66, 0.65, 0.63};
  }

  /// Share of the sky that a point sees within reach: few rays, turned from pixel to pixel.
  double openness(const Vec3& point, const Vec3& n, int turn) const {
    constexpr int count = 5;
    const Vec3 a = unit(std::abs(n.z) < 0.9 ? cross(n, {0, 0, 1}) : cross(n, {1, 0, 0})),
               b = cross(n, a);
    int free = 0;
    for (int k = 0; k < count; ++k) {
      constexpr double golden = 2.399963229728653;
      const double phi = golden * (k * 16 + turn), s = std::sqrt((k + 0.5) / count);
      const Vec3 way = a * (s * std::cos(phi)) + b * (s * std::sin(phi)) + n * std::sqrt(1 - s * s);
      if (!rays_.blocked(point + n * (1e-3 * reach_), way, reach_)) ++free;
    }
    return static_cast<double>(free) / count;
  }

  /// The road, where it is drawn and near, else paper.
  void shade_behind(const Camera::Ray& ray, int turn, double share, Sample& out) const {
    const auto paper = [&] { out.fixed = out.fixed + colours_.paper * share; };
    if (!scene_.road || scene_.flat || !(ray.way.z < 0) || !(ray.from.z > 0)) return paper();
    const Vec3 point = ray.from + ray.way * (-ray.from.z / ray.way.z);
    const Vec3 off = point - scene_.frame.centre();
    const Vec3 size = scene_.frame.size() * 0.5 + Vec3{reach_, reach_, 0} * 2;
    const double far = std::max(std::abs(off.x) / size.x, std::abs(off.y) / size.y);
    if (far >= 1 || out.shadowed) return paper();
    // What lit_by leaves of paper under an open sky is paper.
    constexpr double full = 0.50 + 0.38 + 0.14;
    const double fade = 0.6 * std::min(1.0, 4 * (1 - far));
    out.fixed = out.fixed + colours_.paper * (share * (1 - fade));
    out.colour = colours_.paper * (share * fade / full), out.direct = 1, out.shadowed = true;
    out.open = openness(point, {0, 0, 1}, turn);
    if (!out.thing) out.thing = this, out.normal = {0, 0, 1};
  }

  const Scene& scene_;
  const Progress& progress_;
  PaperColours colours_;
  Camera camera_;
  RayTracer rays_;
  Vec3 light_;
  double reach_;
};

}  // namespace

PaperColours paper_colours(bool dark) {
  if (dark) return {{0.115, 0.12, 0.13}, {0.93, 0.92, 0.89}, {0.55, 0.55, 0.54}};
  return {{0.985, 0.98, 0.965}, {0.16, 0.155, 0.145}, {0.50, 0.49, 0.47}};
}

Image render(const Scene& scene, const Progress& progress) {
  constexpr int smallest = 64, largest = 16'384;
  if (scene.width < smallest || scene.height < smallest || scene.width > largest ||
      scene.height > largest)
    throw InputError(
        fmt::format("a picture of {} x {} pixels cannot be drawn", scene.width, scene.height),
        scene.title, "use 64 to 16384 each way, like 1280x800");
  if (!scene.flat || !scene.fitted_height) return Drawing(scene, progress).draw();
  Scene fitted = scene;
  const PixelFrame frame = picture_frame(scene);
  const Camera camera(scene, frame);
  const auto a = camera.project(scene.frame.lo), b = camera.project(scene.frame.hi);
  fitted.height -= static_cast<int>(std::max(0.0, frame.height - std::abs(a->y - b->y)));
  return Drawing(fitted, progress).draw();
}

}  // namespace dunefield
