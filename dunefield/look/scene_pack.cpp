#include <dunefield/look/scene_pack.hpp>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <map>
#include <unordered_map>

#include <xxhash.h>
#include <nlohmann/json.hpp>

#include <dunefield/base/index.hpp>
#include <dunefield/base/packing.hpp>
#include <dunefield/base/valid_text.hpp>
#include <dunefield/look/lightened_sheet.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

using Json = nlohmann::ordered_json;

/// Differences of neighbours of the same component, the sign in the last bit, bytes of equal weight
/// side by side: what is smooth becomes rows of zeros.
std::string packed(const std::vector<std::int32_t>& values, int components) {
  const std::size_t n = values.size(), c = static_cast<std::size_t>(components);
  std::string bytes(4 * n, '\0');
  for (std::size_t i = 0; i < n; ++i) {
    const auto now = static_cast<std::uint32_t>(values[i]);
    const auto before = i < c ? 0U : static_cast<std::uint32_t>(values[i - c]);
    const std::uint32_t step = now - before;
    const std::uint32_t folded = (step << 1) ^ (step >> 31 ? 0xFFFFFFFFU : 0U);
    for (std::size_t k = 0; k < 4; ++k)
      bytes[k * n + i] = static_cast<char>((folded >> (8 * k)) & 0xFFU);
  }
  return deflated(bytes);
}

// While the view turns, those who draw slowly draw a share of a large sheet's triangles.
constexpr std::size_t lighter = 1000;
constexpr double light_share = 0.08;
constexpr std::int32_t nothing = -2'000'000'000;  // no value here

/// The triangles on the meshed side (y >= 0), with their points numbered anew.
Sheet meshed_half(const Sheet& s) {
  Sheet out = s;
  out.points.clear(), out.values.clear(), out.triangles.clear();
  std::vector<int> number(s.points.size(), -1);
  for (const auto& t : s.triangles) {
    if (s.points[at(t[0])].y + s.points[at(t[1])].y + s.points[at(t[2])].y < 0) continue;
    std::array<int, 3> own{};
    for (std::size_t k = 0; k < 3; ++k) {
      int& n = number[at(t[k])];
      if (n < 0) {
        n = static_cast<int>(out.points.size());
        out.points.push_back(s.points[at(t[k])]);
        if (!s.values.empty()) out.values.push_back(s.values[at(t[k])]);
      }
      own[k] = n;
    }
    out.triangles.push_back(own);
  }
  return out;
}

}  // namespace

struct ScenePack::State {
  Json runs = Json::array(), items = Json::array(), arrays = Json::array(), notes = Json::array();
  Json scales = Json::object();
  std::vector<std::uint64_t> sums;               ///< of what is in the arrays
  std::vector<std::string> data;                 ///< of each array, deflated
  std::unordered_map<std::uint64_t, int> known;  ///< arrays by these
  std::size_t bytes = 0;
  /// Shapes of large sheets, by the numbers of their places and corners: in the end each gets a
  /// lighter self.
  std::map<std::pair<int, int>, Sheet> large;
  Box frame;
  bool half = false;
  double step = 0;  ///< m

  int array(const std::vector<std::int32_t>& values, int components, double scale) {
    const std::string data = packed(values, components);
    const auto sum = XXH3_64bits(data.data(), data.size()) + static_cast<std::uint64_t>(components);
    if (const auto it = known.find(sum); it != known.end()) return it->second;
    return array(sum, {{"count", values.size()}, {"components", components}, {"scale", scale}},
                 data);
  }
  int array(std::uint64_t sum, Json&& a, std::string deflated_values) {
    const auto [it, fresh] = known.try_emplace(sum, static_cast<int>(arrays.size()));
    if (!fresh) return it->second;
    bytes += 4 * deflated_values.size() / 3;
    arrays.push_back(std::move(a)), sums.push_back(sum), data.push_back(std::move(deflated_values));
    return it->second;
  }
  void append(State&& other) {
    if (step == 0) step = other.step;
    frame.include(other.frame);
    std::vector<int> number;
    for (std::size_t i = 0; i < other.arrays.size(); ++i)
      number.push_back(array(other.sums[i], std::move(other.arrays[i]), std::move(other.data[i])));
    const auto renumber = [&](Json& which) { which = number[which.get<std::size_t>()]; };
    const std::size_t before = runs.size();
    for (Json& i : other.items) {
      i["run"] = i["run"].get<std::size_t>() + before;
      for (const char* which : {"points", "corners", "light"})
        if (i.contains(which)) renumber(i[which]);
      for (Json& one : i["values"]) renumber(one);
      items.push_back(std::move(i));
    }
    for (auto& [key, shape] : other.large)
      large.try_emplace({number[at(key.first)], number[at(key.second)]}, std::move(shape));
    for (auto& [quantity, scale] : other.scales.items()) scales.emplace(quantity, std::move(scale));
    for (Json& run : other.runs) runs.push_back(std::move(run));
    for (Json& note : other.notes) notes.push_back(std::move(note));
  }
  int places(const std::vector<Vec3>& points) {
    std::vector<std::int32_t> whole;
    for (const Vec3& p : points)
      for (int k = 0; k < 3; ++k)
        whole.push_back(static_cast<std::int32_t>(std::lround(p[k] / step)));
    return array(whole, 3, step);
  }
  /// A two-thousandth of the range is finer than colours are told apart.
  int values(const std::vector<double>& v, const std::string& quantity) {
    const Json& range = scales.at(quantity);
    const double fine = (range["most"].get<double>() - range["least"].get<double>()) / 2000;
    std::vector<std::int32_t> whole;
    for (const double one : v)
      whole.push_back(std::isfinite(one) ? static_cast<std::int32_t>(
                                               std::lround(std::clamp(one / fine, -1e9, 1e9)))
                                         : nothing);
    return array(whole, 1, fine);
  }
  void scale(const std::string& quantity, const ColourScale& s) {
    if (quantity.empty() || !(s.most > s.least)) return;
    scales.emplace(quantity, Json{{"least", s.least},
                                  {"most", s.most},
                                  {"palette", s.palette == Palette::balance ? "balance" : "dune"},
                                  {"title", valid_text(s.title)}});
  }
  int triangles(const std::vector<std::array<int, 3>>& all) {
    std::vector<std::int32_t> corners;
    for (const auto& t : all) corners.insert(corners.end(), t.begin(), t.end());
    return array(corners, 1, 1);
  }
  /// The entry of this kind, name and shape, of this run; a new one when there is none.
  Json& item(const std::string& kind, const std::string& name, int points, int triangles) {
    const auto run = runs.size() - 1;
    for (Json& i : items)
      if (i["run"] == run && i["kind"] == kind && i["name"] == valid_text(name) &&
          i["points"] == points && i["corners"] == triangles)
        return i;
    items.push_back({{"run", run},
                     {"kind", kind},
                     {"name", valid_text(name)},
                     {"points", points},
                     {"corners", triangles},
                     {"values", Json::object()}});
    return items.back();
  }

  static std::pair<int, int> shape_of(const Json& item) {
    return {item["points"].get<int>(), item["corners"].get<int>()};
  }
  void lighten() {
    std::vector<const Sheet*> shapes;
    for (const auto& [key, shape] : large) shapes.push_back(&shape);
    std::vector<std::vector<std::array<int, 3>>> kept(shapes.size());
    parallel_for(
        shapes.size(),
        [&](std::size_t k) {
          const auto share = light_share * static_cast<double>(shapes[k]->triangles.size());
          kept[k] =
              lightened_triangles(*shapes[k], std::max(lighter, static_cast<std::size_t>(share)));
        },
        1);
    std::map<std::pair<int, int>, int> light;
    std::size_t k = 0;
    for (const auto& [key, shape] : large) light[key] = triangles(kept[k++]);
    for (Json& i : items)
      if (const auto it = light.find(shape_of(i)); it != light.end()) i["light"] = it->second;
    large.clear();
  }

  void add(const Sheet& whole, const std::string& kind) {
    const Sheet s = half ? meshed_half(whole) : whole;
    if (s.triangles.empty()) return;
    Json& i = item(kind, s.name, places(s.points), triangles(s.triangles));
    if (s.triangles.size() > lighter) {
      Sheet& shape = large[shape_of(i)];
      if (shape.triangles.empty()) shape.points = s.points, shape.triangles = s.triangles;
    }
    i["mirrored"] = half;
    i["opacity"] = s.opacity;
    i["colour"] = Json::array({s.colour.r, s.colour.g, s.colour.b});
    if (!s.values.empty() && scales.contains(s.quantity))
      i["values"][s.quantity] = values(s.values, s.quantity);
  }
  void add(const Bundle& b, const std::string& kind) {
    std::vector<Vec3> points;
    std::vector<double> of_points;
    std::vector<std::int32_t> ends;
    for (const Strand& s : b.strands) {
      if (s.points.size() < 2) continue;
      points.insert(points.end(), s.points.begin(), s.points.end());
      of_points.insert(of_points.end(), s.values.begin(), s.values.end());
      ends.push_back(static_cast<std::int32_t>(points.size()));
    }
    if (points.empty()) return;
    Json& i = item(kind, b.name, places(points), array(ends, 1, 1));
    i["lines"] = true;
    i["colour"] = Json::array({b.colour.r, b.colour.g, b.colour.b});
    if (of_points.size() == points.size() && scales.contains(b.quantity))
      i["values"][b.quantity] = values(of_points, b.quantity);
  }

  /// All but the arrays' data.
  Json document() const {
    const auto place = [](const Vec3& p) { return Json::array({p.x, p.y, p.z}); };
    Json palettes;
    for (const auto& [name, palette] :
         {std::pair{"dune", Palette::dune}, std::pair{"balance", Palette::balance}}) {
      Json& steps = palettes[name] = Json::array();
      constexpr int count = 64;
      for (int i = 0; i < count; ++i) {
        const Colour c = palette_colour(palette, i / (count - 1.0));
        steps.push_back(Json::array({c.r, c.g, c.b}));
      }
    }
    const bool any = !frame.empty();
    return {
        {"version", 1},
        {"runs", runs},
        {"items", items},
        {"arrays", arrays},
        {"scales", scales},
        {"palettes", palettes},
        {"notes", notes},
        {"frame", Json::array({place(any ? frame.lo : Vec3{}), place(any ? frame.hi : Vec3{})})}};
  }
};

ScenePack::ScenePack() : state_(std::make_unique<State>()) {}
ScenePack::~ScenePack() = default;
ScenePack::ScenePack(ScenePack&&) noexcept = default;
ScenePack& ScenePack::operator=(ScenePack&&) noexcept = default;

void ScenePack::begin(const PackedRun& run) {
  state_->runs.push_back({{"name", valid_text(run.name)},
                          {"variant", valid_text(run.variant)},
                          {"condition", valid_text(run.condition)}});
  state_->half = run.half;
}

void ScenePack::add(const Scene& scene, const std::string& kind) {
  State& s = *state_;
  if (s.step == 0) s.step = std::max(norm(scene.frame.size()), 1e-6) / 60'000;
  s.frame.include(scene.frame);
  for (const auto& [quantity, scale] : scene.scales) s.scale(quantity, scale);
  for (const Sheet& sheet : scene.sheets) s.add(sheet, kind);
  for (const Bundle& bundle : scene.bundles) s.add(bundle, kind);
}

void ScenePack::append(ScenePack other) { state_->append(std::move(*other.state_)); }
void ScenePack::note(const std::string& text) { state_->notes.push_back(valid_text(text)); }
std::size_t ScenePack::size() const { return state_->bytes; }

std::string ScenePack::json() {
  state_->lighten();
  Json all = state_->document();
  for (std::size_t i = 0; i < state_->data.size(); ++i)
    all["arrays"][i]["data"] = base64(state_->data[i]);
  return all.dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string ScenePack::bytes(bool lighter) {
  if (lighter) state_->lighten();
  Json all = state_->document();
  std::size_t offset = 0;
  for (std::size_t i = 0; i < state_->data.size(); ++i) {
    all["arrays"][i]["offset"] = offset, all["arrays"][i]["length"] = state_->data[i].size();
    offset += state_->data[i].size();
  }
  const std::string head = all.dump(-1, ' ', false, Json::error_handler_t::replace);
  std::string out;
  out.reserve(4 + head.size() + offset);
  for (int i = 0; i < 4; ++i) out += static_cast<char>((head.size() >> (8 * i)) & 0xFFU);
  out += head;
  for (const std::string& d : state_->data) out += d;
  return out;
}

}  // namespace dunefield
