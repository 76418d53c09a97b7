#include <dunefield/look/reel.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/array_file.hpp>
#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/base/text_file.hpp>
#include <dunefield/look/render.hpp>
#include <dunefield/record/json.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;
using PointF = std::array<float, 3>;

constexpr char shared_file[] = "shared.arrays", frame_ending[] = ".frame", words_name[] = "words";

std::string frame_name(int number) { return fmt::format("{:06}{}", number, frame_ending); }

std::vector<char> letters(const std::string& text) { return {text.begin(), text.end()}; }
std::string text_of(const std::vector<char>& letters) { return {letters.begin(), letters.end()}; }

// Pictures have some thousand pixels: single precision is plenty.
std::vector<PointF> points_f(const std::vector<Vec3>& points) {
  std::vector<PointF> out;
  for (const Vec3& p : points)
    out.push_back({static_cast<float>(p.x), static_cast<float>(p.y), static_cast<float>(p.z)});
  return out;
}
std::vector<Vec3> points_from(const std::vector<PointF>& points) {
  std::vector<Vec3> out;
  for (const PointF& p : points)
    out.push_back(
        {static_cast<double>(p[0]), static_cast<double>(p[1]), static_cast<double>(p[2])});
  return out;
}
std::vector<float> floats(const std::vector<double>& values) {
  return {values.begin(), values.end()};
}
std::vector<double> doubles(const std::vector<float>& values) {
  return {values.begin(), values.end()};
}

Json colour_json(const Colour& c) { return {c.r, c.g, c.b}; }
Colour colour_from(const Json& j) { return {j.at(0), j.at(1), j.at(2)}; }

/// Arrays by name on their way to a file; those that the shared file holds alike stay out.
class Arrays {
 public:
  Arrays(ArrayFileWriter& out, const Json& shared) : out_(out), shared_(shared) {}
  template <class T>
  void put(const std::string& name, const std::vector<T>& values) {
    if (values.empty()) return;
    const std::string digits = Hash().add(values).hex();
    hashes_[name] = digits;
    if (shared_.value(name, "") != digits) out_.put(name, values);
  }
  const Json& hashes() const { return hashes_; }

 private:
  ArrayFileWriter& out_;
  const Json& shared_;
  Json hashes_ = Json::object();
};

/// Arrays by name from a frame's file, or else from the shared one.
class FrameArrays {
 public:
  FrameArrays(const fs::path& folder, const fs::path& file)
      : file_(file), own_(file), shared_(folder / shared_file) {
    head = parsed_json(text_of(own_.take<char>("head")), file.string());
    shared_hashes_ = parsed_json(text_of(shared_.take<char>("hashes")), file.string());
    if (!head.is_object() || !shared_hashes_.is_object()) fail();
  }
  template <class T>
  std::vector<T> take(const std::string& name) {
    if (own_.has(name)) return own_.take<T>(name);
    const Json& hashes = head.at("hashes");
    if (!hashes.contains(name)) return {};
    if (shared_hashes_.value(name, "") != hashes.at(name)) fail();
    return shared_.take<T>(name);
  }
  [[noreturn]] void fail() const {
    throw InputError("the kept frame does not belong to the others", file_.string(),
                     "delete the folder; run that case again");
  }
  Json head;

 private:
  const fs::path file_;
  ArrayFileReader own_, shared_;
  Json shared_hashes_;
};

Json put_sheet(Arrays& out, const std::string& at_name, const Sheet& s) {
  out.put(at_name + "points", points_f(s.points)), out.put(at_name + "triangles", s.triangles);
  out.put(at_name + "values", floats(s.values)), out.put(at_name + "normals", points_f(s.normals));
  out.put(at_name + "flow", points_f(s.flow));
  Json j = {{"name", s.name},       {"quantity", s.quantity}, {"colour", colour_json(s.colour)},
            {"opacity", s.opacity}, {"lit", s.lit},           {"facets", s.facets}};
  if (const PlaneTexture* t = s.texture.get()) {
    out.put(at_name + "shade", t->shade);
    j["texture"] = {{"corner", vector_json(t->corner)},
                    {"across", vector_json(t->across)},
                    {"up", vector_json(t->up)},
                    {"pixel", t->pixel},
                    {"width", t->width},
                    {"height", t->height}};
  }
  return j;
}

Sheet take_sheet(FrameArrays& in, const std::string& at_name, const Json& j) {
  Sheet s;
  s.name = j.at("name"), s.quantity = j.at("quantity"), s.colour = colour_from(j.at("colour"));
  s.opacity = j.at("opacity"), s.lit = j.at("lit"), s.facets = j.at("facets");
  s.points = points_from(in.take<PointF>(at_name + "points"));
  s.triangles = in.take<std::array<int, 3>>(at_name + "triangles");
  s.values = doubles(in.take<float>(at_name + "values"));
  s.normals = points_from(in.take<PointF>(at_name + "normals"));
  s.flow = points_from(in.take<PointF>(at_name + "flow"));
  if (j.contains("texture")) {
    const Json& t = j.at("texture");
    s.texture = std::make_shared<PlaneTexture>(PlaneTexture{
        vector_from(t.at("corner")), vector_from(t.at("across")), vector_from(t.at("up")),
        t.at("pixel"), t.at("width"), t.at("height"), in.take<float>(at_name + "shade")});
  }
  return s;
}

constexpr int widest = 32768;  // pixels

/// @throw InputError for a sheet whose lists do not fit together
void check_sheet(const FrameArrays& in, const Sheet& s) {
  const auto fits = [&](std::size_t size) { return size == 0 || size == s.points.size(); };
  bool good = (fits(s.values.size()) || s.values.size() == s.triangles.size()) &&
              fits(s.normals.size()) && fits(s.flow.size());
  for (const std::array<int, 3>& t : s.triangles)
    for (const int corner : t) good &= corner >= 0 && at(corner) < s.points.size();
  if (const PlaneTexture* t = s.texture.get())
    good &= t->width > 0 && t->width <= widest && t->height > 0 && t->height <= widest &&
            t->shade.size() == at(t->width) * at(t->height) && t->pixel >= 0;
  if (!good) in.fail();
}

Json put_bundle(Arrays& out, const std::string& at_name, const Bundle& b) {
  std::vector<Vec3> points;
  std::vector<double> values;
  std::vector<std::int32_t> counts;
  for (const Strand& s : b.strands) {
    counts.push_back(static_cast<std::int32_t>(s.points.size()));
    points.insert(points.end(), s.points.begin(), s.points.end());
    values.insert(values.end(), s.values.begin(), s.values.end());
  }
  out.put(at_name + "points", points_f(points)), out.put(at_name + "counts", counts);
  if (values.size() == points.size()) out.put(at_name + "values", floats(values));
  return {{"name", b.name},     {"quantity", b.quantity},
          {"radius", b.radius}, {"colour", colour_json(b.colour)},
          {"lit", b.lit},       {"arrows", b.arrows}};
}

Bundle take_bundle(FrameArrays& in, const std::string& at_name, const Json& j) {
  Bundle b;
  b.name = j.at("name"), b.quantity = j.at("quantity"), b.radius = j.at("radius");
  b.colour = colour_from(j.at("colour")), b.lit = j.at("lit"), b.arrows = j.at("arrows");
  const auto points = points_from(in.take<PointF>(at_name + "points"));
  const auto values = doubles(in.take<float>(at_name + "values"));
  std::size_t first = 0;
  for (const std::int32_t count : in.take<std::int32_t>(at_name + "counts")) {
    if (count < 0) in.fail();
    const std::size_t end = std::min(points.size(), first + at(count));
    Strand s;
    for (std::size_t i = first; i < end; ++i) {
      s.points.push_back(points[i]);
      if (i < values.size()) s.values.push_back(values[i]);
    }
    b.strands.push_back(std::move(s)), first = end;
  }
  return b;
}

Json scales_json(const std::map<std::string, ColourScale>& scales) {
  Json all = Json::array();
  for (const auto& [quantity, s] : scales)
    all.push_back({{"quantity", quantity},
                   {"balance", s.palette == Palette::balance},
                   {"least", s.least},
                   {"most", s.most},
                   {"title", s.title},
                   {"bands", s.bands}});
  return all;
}

/// All but sheets and bundles.
Json frame_json(const Scene& s, double time) {
  Json marks = Json::array();
  for (const Mark& m : s.marks)
    marks.push_back({{"place", vector_json(m.place)}, {"text", m.text}, {"dot", m.dot}});
  return {{"time", time},
          {"title", s.title},
          {"note", s.note},
          {"marks", marks},
          {"scales", scales_json(s.scales)},
          {"frame", to_json(s.frame)},
          {"road", s.road},
          {"width", s.width},
          {"height", s.height},
          {"dark", s.dark},
          {"flat", s.flat},
          {"flat_point", vector_json(s.flat_point)}};
}

Scene frame_from(const Json& j) {
  Scene s;
  s.title = j.at("title"), s.note = j.at("note"), s.road = j.at("road"), s.dark = j.at("dark");
  s.width = j.at("width"), s.height = j.at("height"), s.flat = j.at("flat");
  s.flat_point = vector_from(j.at("flat_point"));
  s.frame = {vector_from(j.at("frame").at("from")), vector_from(j.at("frame").at("to"))};
  for (const Json& m : j.at("marks"))
    s.marks.push_back({vector_from(m.at("place")), m.at("text"), m.at("dot")});
  for (const Json& c : j.at("scales"))
    s.scales[c.at("quantity")] = {c.at("balance") ? Palette::balance : Palette::dune, c.at("least"),
                                  c.at("most"), c.at("title"), c.at("bands")};
  return s;
}

// As an array: where it looks may be no number, which JSON does not have.
std::vector<double> view_numbers(const View& v) {
  return {v.from.x,    v.from.y,    v.from.z,   v.perspective ? 1.0 : 0.0, v.field_of_view, v.zoom,
          v.towards.x, v.towards.y, v.towards.z};
}
View view_from(const std::vector<double>& n) {
  if (n.size() != 9) return {};
  return {{n[0], n[1], n[2]}, n[3] > 0, n[4], n[5], {n[6], n[7], n[8]}};
}

/// @return the hashes of its arrays
Json write_frame(ArrayFileWriter& out, const Json& shared, const Scene& scene, double time) {
  Arrays arrays(out, shared);
  Json head = frame_json(scene, time);
  head["sheets"] = head["bundles"] = Json::array();
  for (std::size_t i = 0; i < scene.sheets.size(); ++i)
    head["sheets"].push_back(put_sheet(arrays, fmt::format("sheet {} ", i), scene.sheets[i]));
  for (std::size_t i = 0; i < scene.bundles.size(); ++i)
    head["bundles"].push_back(put_bundle(arrays, fmt::format("bundle {} ", i), scene.bundles[i]));
  arrays.put("view", view_numbers(scene.view));
  head["hashes"] = arrays.hashes();
  out.put("head", letters(dumped(head)));
  return arrays.hashes();
}

/// The words and hashes of what frames share; nothing where there is nothing that can be read.
std::pair<std::string, Json> shared_of(const fs::path& folder) {
  std::error_code status;
  if (!fs::exists(folder / shared_file, status)) return {};
  try {
    ArrayFileReader in(folder / shared_file);
    return {text_of(in.take<char>(words_name)),
            parsed_json(text_of(in.take<char>("hashes")), folder.string())};
  } catch (const InputError&) {
    return {};
  }
}

/// Ranges that hold all frames'; about zero where the ends are as far from it.
void widen(std::map<std::string, ColourScale>& all, const std::map<std::string, ColourScale>& of) {
  for (const auto& [quantity, scale] : of) {
    ColourScale& s = all.try_emplace(quantity, scale).first->second;
    s.least = std::min(s.least, scale.least), s.most = std::max(s.most, scale.most);
    if (scale.palette == Palette::balance) s.palette = Palette::balance;
    if (s.palette == Palette::balance) {
      s.most = std::max(s.most, -s.least);
      s.least = -s.most;
    }
  }
}

}  // namespace

ReelWriter::ReelWriter(fs::path folder, std::string words)
    : folder_(std::move(folder)), words_(std::move(words)) {
  std::error_code ignored;
  if (shared_of(folder_).first != words_) fs::remove_all(folder_, ignored);
  check_writable(folder_);
}

void ReelWriter::add(const Scene& scene, int number, double time) const {
  if (!fs::exists(folder_ / shared_file)) {
    ArrayFileWriter out(folder_ / shared_file);
    const Json hashes = write_frame(out, Json::object(), scene, time);
    out.put("hashes", letters(dumped(hashes)));
    out.put(words_name, letters(words_));
    out.finish();
  }
  ArrayFileWriter out(folder_ / frame_name(number));
  write_frame(out, shared_of(folder_).second, scene, time);
  out.finish();
}

Reel::Reel(const fs::path& folder) : folder_(folder) {
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(folder, status))
    if (entry.path().extension() == frame_ending) files_.push_back(entry.path());
  if (files_.empty())
    throw InputError("there are no kept frames", folder.string(),
                     "give the campaign [time] picture_every and a [[picture]] before it runs");
  std::sort(files_.begin(), files_.end());
}

double Reel::time(int frame) const {
  const FrameArrays in(folder_, files_[at(frame)]);
  const Json& head = in.head;
  if (!head.contains("time") || !head["time"].is_number()) in.fail();
  return head["time"];
}

Scene Reel::scene(int frame) const {
  FrameArrays in(folder_, files_[at(frame)]);
  try {
    Scene s = frame_from(in.head);
    if (s.width < 1 || s.width > widest || s.height < 1 || s.height > widest) in.fail();
    const Json &sheets = in.head.at("sheets"), &bundles = in.head.at("bundles");
    for (std::size_t i = 0; i < sheets.size(); ++i)
      s.sheets.push_back(take_sheet(in, fmt::format("sheet {} ", i), sheets[i])),
          check_sheet(in, s.sheets.back());
    for (std::size_t i = 0; i < bundles.size(); ++i)
      s.bundles.push_back(take_bundle(in, fmt::format("bundle {} ", i), bundles[i]));
    s.view = view_from(in.take<double>("view"));
    return s;
  } catch (const Json::exception&) {
    in.fail();
  }
}

std::vector<std::string> reels_of(const fs::path& reels_folder) {
  std::vector<std::string> names;
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(reels_folder, status))
    if (fs::exists(entry.path() / shared_file, status))
      names.push_back(entry.path().filename().string());
  std::sort(names.begin(), names.end());
  return names;
}

void write_reel_film(const Reel& reel, const fs::path& file, double frames_per_second,
                     const std::function<void(Scene&)>& change, const Progress& progress) {
  std::map<std::string, ColourScale> scales;
  Box frame;
  for (int i = 0; i < reel.frames(); ++i) {
    progress.check();
    const Scene s = reel.scene(i);
    widen(scales, s.scales), frame.include(s.frame);
  }
  write_film(
      file, {reel.frames(), frames_per_second},
      [&](int i) {
        Scene s = reel.scene(i);
        s.scales = scales, s.frame = frame;
        s.title += fmt::format(", t = {:.4f} s", reel.time(i));
        change(s);
        return render(s, progress);
      },
      progress);
}

}  // namespace dunefield
