#include <dunefield/look/scene_files.hpp>

#include <cstring>
#include <set>

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <pugixml.hpp>

#include <sstream>

#include <dunefield/base/index.hpp>
#include <dunefield/base/slug.hpp>
#include <dunefield/base/text_file.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

std::string file_name(const std::string& name, std::set<std::string>& taken) {
  const std::string stem = slug(name, "sheet");
  std::string out = stem;
  for (int n = 2; !taken.insert(out).second; ++n) out = fmt::format("{}-{}", stem, n);
  return out + ".vtp";
}

/// A VTP of polygons or lines. @param starts after each cell, how many corners have come
std::string vtp(const std::vector<Vec3>& points, const char* kind, const std::vector<int>& corners,
                const std::vector<int>& ends, const std::string& quantity,
                const std::vector<double>& values) {
  pugi::xml_document doc;
  auto root = doc.append_child("VTKFile");
  root.append_attribute("type") = "PolyData";
  root.append_attribute("version") = "1.0";
  root.append_attribute("byte_order") = "LittleEndian";
  auto piece = root.append_child("PolyData").append_child("Piece");
  piece.append_attribute("NumberOfPoints") = points.size();
  piece.append_attribute((std::string("NumberOf") + kind).c_str()) = ends.size();
  const auto array = [](pugi::xml_node in, const char* type, const std::string& name,
                        int components, const std::string& text) {
    auto a = in.append_child("DataArray");
    a.append_attribute("type") = type;
    a.append_attribute("Name") = name.c_str();
    if (components > 1) a.append_attribute("NumberOfComponents") = components;
    a.append_attribute("format") = "ascii";
    a.text().set(text.c_str());
  };
  std::string text;
  for (const Vec3& p : points) text += fmt::format("{:.7g} {:.7g} {:.7g}\n", p.x, p.y, p.z);
  array(piece.append_child("Points"), "Float32", "points", 3, text);
  auto cells = piece.append_child(kind);
  text.clear();
  for (const int c : corners) text += fmt::format("{} ", c);
  array(cells, "Int32", "connectivity", 1, text);
  text.clear();
  for (const int e : ends) text += fmt::format("{} ", e);
  array(cells, "Int32", "offsets", 1, text);
  if (!values.empty()) {
    text.clear();
    for (const double v : values) text += fmt::format("{:.7g} ", std::isfinite(v) ? v : 0.0);
    array(piece.append_child("PointData"), "Float32", quantity, 1, text);
  }
  std::ostringstream out;
  doc.save(out);
  return out.str();
}

/// The parts of a glTF file as they come together.
class Gltf {
 public:
  explicit Gltf(const Scene& scene) : scene_(scene) {
    json_["asset"] = {{"version", "2.0"}, {"generator", "Dunefield"}};
    // z is up here, y is up there
    json_["nodes"] = Json::array({{{"name", scene.title},
                                   {"rotation", {-0.70710678, 0, 0, 0.70710678}},
                                   {"children", Json::array()}}});
    json_["scenes"] = Json::array({{{"nodes", {0}}}});
    json_["scene"] = 0;
  }

  void add(const Sheet& s) {
    if (s.triangles.empty()) return;
    std::vector<std::uint32_t> corners;
    for (const auto& t : s.triangles)
      for (const int i : t) corners.push_back(static_cast<std::uint32_t>(i));
    primitive(s.name, s.points, s.normals, corners,
              colours(s.quantity, s.values, s.colour, s.points.size(), s.opacity), 4, s.opacity,
              !s.lit);
  }
  void add(const Bundle& b) {
    std::vector<Vec3> points;
    std::vector<double> values;
    std::vector<std::uint32_t> corners;
    for (const Strand& s : b.strands)
      for (std::size_t i = 0; i < s.points.size(); ++i) {
        if (i > 0) {
          corners.push_back(static_cast<std::uint32_t>(points.size() - 1));
          corners.push_back(static_cast<std::uint32_t>(points.size()));
        }
        points.push_back(s.points[i]);
        if (!s.values.empty()) values.push_back(s.values[i]);
      }
    if (corners.empty()) return;
    if (values.size() != points.size()) values.clear();
    primitive(b.name, points, {}, corners, colours(b.quantity, values, b.colour, points.size(), 1),
              1, 1, true);
  }
  std::string file() {
    json_["buffers"] = Json::array({{{"byteLength", bytes_.size()}}});
    std::string text = json_.dump(-1, ' ', false, Json::error_handler_t::replace);
    while (text.size() % 4) text += ' ';
    std::string out;
    const auto word = [&](std::size_t v) {
      const auto w = static_cast<std::uint32_t>(v);
      out.append(reinterpret_cast<const char*>(&w), 4);
    };
    out += "glTF";
    word(2), word(12 + 8 + text.size() + 8 + bytes_.size());
    word(text.size()), word(0x4E4F534Au);
    out += text;
    word(bytes_.size()), word(0x004E4942u);
    return out + bytes_;
  }

 private:
  using Json = nlohmann::json;
  std::vector<float> colours(const std::string& quantity, const std::vector<double>& values,
                             const Colour& plain, std::size_t count, double opacity) const {
    const auto scale = scene_.scales.find(quantity);
    std::vector<float> out;
    // The format has linear light, pictures have sRGB's.
    const auto linear = [](double v) {
      return static_cast<float>(std::pow(std::clamp(v, 0.0, 1.0), 2.2));
    };
    for (std::size_t i = 0; i < count; ++i) {
      const Colour c =
          values.empty() || scale == scene_.scales.end() ? plain : scale->second.of(values[i]);
      out.insert(out.end(), {linear(c.r), linear(c.g), linear(c.b), static_cast<float>(opacity)});
    }
    return out;
  }
  template <class T>
  int accessor(const std::vector<T>& data, int component, const char* type, std::size_t count) {
    const std::size_t from = bytes_.size(), size = data.size() * sizeof(T);
    bytes_.append(reinterpret_cast<const char*>(data.data()), size);
    while (bytes_.size() % 4) bytes_ += '\0';
    json_["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", from}, {"byteLength", size}});
    json_["accessors"].push_back({{"bufferView", json_["bufferViews"].size() - 1},
                                  {"componentType", component},
                                  {"count", count},
                                  {"type", type}});
    return static_cast<int>(json_["accessors"].size()) - 1;
  }
  int vectors(const std::vector<Vec3>& v, bool with_range) {
    std::vector<float> flat;
    Box box;
    for (const Vec3& p : v) {
      box.include(p);
      for (int k = 0; k < 3; ++k) flat.push_back(static_cast<float>(p[k]));
    }
    const int a = accessor(flat, 5126, "VEC3", v.size());
    if (with_range)
      json_["accessors"][at(a)]["min"] = {static_cast<float>(box.lo.x),
                                          static_cast<float>(box.lo.y),
                                          static_cast<float>(box.lo.z)},
      json_["accessors"][at(a)]["max"] = {
          static_cast<float>(box.hi.x), static_cast<float>(box.hi.y), static_cast<float>(box.hi.z)};
    return a;
  }
  void primitive(const std::string& name, const std::vector<Vec3>& points,
                 const std::vector<Vec3>& normals, const std::vector<std::uint32_t>& corners,
                 const std::vector<float>& colour, int mode, double opacity, bool unlit) {
    Json p;
    p["attributes"]["POSITION"] = vectors(points, true);
    if (normals.size() == points.size()) p["attributes"]["NORMAL"] = vectors(normals, false);
    p["attributes"]["COLOR_0"] = accessor(colour, 5126, "VEC4", points.size());
    p["indices"] = accessor(corners, 5125, "SCALAR", corners.size());
    p["mode"] = mode;
    Json material = {{"name", name},
                     {"doubleSided", true},
                     {"pbrMetallicRoughness", {{"metallicFactor", 0}, {"roughnessFactor", 0.8}}}};
    if (opacity < 1) material["alphaMode"] = "BLEND";
    if (unlit) {
      material["extensions"]["KHR_materials_unlit"] = Json::object();
      json_["extensionsUsed"] = {"KHR_materials_unlit"};
    }
    json_["materials"].push_back(material);
    p["material"] = json_["materials"].size() - 1;
    json_["meshes"].push_back({{"name", name}, {"primitives", Json::array({p})}});
    json_["nodes"].push_back({{"name", name}, {"mesh", json_["meshes"].size() - 1}});
    json_["nodes"][0]["children"].push_back(json_["nodes"].size() - 1);
  }

  const Scene& scene_;
  Json json_;
  std::string bytes_;
};

}  // namespace

std::vector<fs::path> write_scene_vtp(const fs::path& folder, const Scene& scene) {
  check_writable(folder);
  std::set<std::string> taken;
  std::vector<fs::path> files;
  const auto write = [&](const std::string& name, const std::string& text) {
    files.push_back(folder / file_name(name, taken));
    write_text(files.back(), text);
  };
  for (const Sheet& s : scene.sheets) {
    std::vector<int> corners, ends;
    for (const auto& t : s.triangles) {
      corners.insert(corners.end(), t.begin(), t.end());
      ends.push_back(static_cast<int>(corners.size()));
    }
    write(s.name, vtp(s.points, "Polys", corners, ends, s.quantity, s.values));
  }
  for (const Bundle& b : scene.bundles) {
    std::vector<Vec3> points;
    std::vector<double> values;
    std::vector<int> corners, ends;
    for (const Strand& s : b.strands) {
      for (const Vec3& p : s.points)
        corners.push_back(static_cast<int>(points.size())), points.push_back(p);
      values.insert(values.end(), s.values.begin(), s.values.end());
      ends.push_back(static_cast<int>(corners.size()));
    }
    if (values.size() != points.size()) values.clear();
    write(b.name, vtp(points, "Lines", corners, ends, b.quantity, values));
  }
  return files;
}

void write_scene_gltf(const fs::path& file, const Scene& scene) {
  Gltf gltf(scene);
  for (const Sheet& s : scene.sheets) gltf.add(s);
  for (const Bundle& b : scene.bundles) gltf.add(b);
  write_text(file, gltf.file());
}

}  // namespace dunefield
