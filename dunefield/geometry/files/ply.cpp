#include <dunefield/geometry/files/ply.hpp>

#include <algorithm>
#include <bit>
#include <cstring>
#include <optional>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/index.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/files/surface_builder.hpp>

namespace dunefield {
namespace {

enum class Scalar { i8, u8, i16, u16, i32, u32, f32, f64 };

std::optional<Scalar> scalar_of(std::string_view w) {
  static constexpr std::pair<std::string_view, Scalar> names[] = {
      {"char", Scalar::i8},    {"int8", Scalar::i8},     {"uchar", Scalar::u8},
      {"uint8", Scalar::u8},   {"short", Scalar::i16},   {"int16", Scalar::i16},
      {"ushort", Scalar::u16}, {"uint16", Scalar::u16},  {"int", Scalar::i32},
      {"int32", Scalar::i32},  {"uint", Scalar::u32},    {"uint32", Scalar::u32},
      {"float", Scalar::f32},  {"float32", Scalar::f32}, {"double", Scalar::f64},
      {"float64", Scalar::f64}};
  for (const auto& [name, scalar] : names)
    if (w == name) return scalar;
  return std::nullopt;
}

std::size_t size_of(Scalar s) {
  static constexpr std::size_t sizes[] = {1, 1, 2, 2, 4, 4, 4, 8};
  return sizes[at(s)];
}

struct Property {
  std::string name;
  Scalar type = Scalar::f32;
  std::optional<Scalar> count;  ///< a list, and the type of its length
};

struct Element {
  std::string name;
  std::size_t count = 0;
  std::vector<Property> properties;
  std::size_t least_bytes(bool binary) const {
    std::size_t n = 0;
    // a digit and a blank
    for (const Property& p : properties) n += binary ? size_of(p.count.value_or(p.type)) : 2;
    return n;
  }
};

/// The values of the body one by one, whatever the format.
class Values {
 public:
  Values(InputFile& file, std::size_t first, int line, bool binary, bool swap)
      : file_(&file), words_(file, first, line), at_(first), binary_(binary), swap_(swap) {}

  double next(Scalar type) {
    if (!binary_) return words_.number(words_.word());
    char b[8] = {};
    const std::size_t n = size_of(type);
    if (file_->bytes().size() - at_ < n)
      throw InputError(fmt::format("ends after {} bytes, before its elements do", at_),
                       file_->path().string(), "it is truncated: export it again");
    const char* from = file_->bytes().data() + at_;
    for (std::size_t i = 0; i < n; ++i) b[i] = from[swap_ ? n - 1 - i : i];
    at_ += n;
    file_->release_before(at_);
    switch (type) {
      case Scalar::i8: return as<std::int8_t>(b);
      case Scalar::u8: return as<std::uint8_t>(b);
      case Scalar::i16: return as<std::int16_t>(b);
      case Scalar::u16: return as<std::uint16_t>(b);
      case Scalar::i32: return as<std::int32_t>(b);
      case Scalar::u32: return as<std::uint32_t>(b);
      case Scalar::f32: return static_cast<double>(as<float>(b));
      default: return as<double>(b);
    }
  }
  std::size_t left() const { return file_->bytes().size() - (binary_ ? at_ : words_.position()); }

 private:
  template <class T>
  static T as(const char* b) {
    T v;
    std::memcpy(&v, b, sizeof v);
    return v;
  }
  InputFile* file_;
  TextScanner words_;
  std::size_t at_;
  bool binary_, swap_;
};

class PlyParser {
 public:
  explicit PlyParser(InputFile& file) : file_(file), header_(file), builder_(file.path()) {}

  Surface parse() {
    parse_header();
    Values values(file_, header_.position(), header_.line(), binary_, swap_);
    builder_.use_part({});
    for (const Element& e : elements_) {
      // What the header promises is held against the file before anything is made for it.
      const std::size_t least = e.least_bytes(binary_);
      if (e.count > 0 && (least == 0 || e.count > values.left() / least + 1))
        throw InputError(
            fmt::format(
                "the header promises {} elements '{}', more than the {} bytes left can hold",
                e.count, e.name, values.left()),
            file_.path().string(), "it is truncated or damaged: export it again");
      for (std::size_t i = 0; i < e.count; ++i) read_element(e, values);
    }
    return builder_.finish();
  }

 private:
  void parse_header() {
    if (header_.word_of_line() != "ply")
      header_.fail("does not start with 'ply'", "check that it is a PLY file");
    bool format = false;
    while (header_.next_line()) {
      const std::string_view w = header_.word_of_line();
      if (w == "end_header") {
        if (!format) header_.fail("the header names no format");
        header_.next_line();
        return check_elements();
      }
      if (w == "format")
        parse_format(), format = true;
      else if (w == "element")
        parse_element();
      else if (w == "property")
        parse_property();
      else if (w != "comment" && w != "obj_info" && !w.empty())
        header_.fail(fmt::format("'{}' is not known in a PLY header", shown(w)));
    }
    header_.fail("the header has no end");
  }
  void parse_format() {
    const std::string_view w = header_.word_of_line();
    binary_ = w != "ascii";
    if (binary_ && w != "binary_little_endian" && w != "binary_big_endian")
      header_.fail(fmt::format("the format '{}' is not known", shown(w)));
    swap_ = binary_ && (w == "binary_big_endian") != (std::endian::native == std::endian::big);
  }
  void parse_element() {
    Element e;
    e.name = safe_text(header_.word_of_line());
    const long long n = header_.whole_number(header_.word_of_line());
    if (n < 0) header_.fail(fmt::format("element '{}' has {} entries", e.name, n));
    e.count = static_cast<std::size_t>(n);
    elements_.push_back(e);
  }
  void parse_property() {
    if (elements_.empty()) header_.fail("a property stands before the first element");
    Property p;
    std::string_view w = header_.word_of_line();
    if (w == "list") {
      p.count = known_scalar(header_.word_of_line());
      if (*p.count == Scalar::f32 || *p.count == Scalar::f64)
        header_.fail("the length of a list is not a whole number");
      w = header_.word_of_line();
    }
    p.type = known_scalar(w);
    p.name = safe_text(header_.word_of_line());
    elements_.back().properties.push_back(p);
  }
  Scalar known_scalar(std::string_view w) const {
    const auto s = scalar_of(w);
    if (!s) header_.fail(fmt::format("the type '{}' is not known", shown(w)));
    return *s;
  }
  void check_elements() const {
    const auto has = [&](const char* element, const auto& property) {
      return std::any_of(elements_.begin(), elements_.end(), [&](const Element& e) {
        return e.name == element && std::any_of(e.properties.begin(), e.properties.end(), property);
      });
    };
    for (const char* axis : {"x", "y", "z"})
      if (!has("vertex", [&](const Property& p) { return p.name == axis && !p.count; }))
        header_.fail(fmt::format("the points have no {}", axis), "export points and faces");
    if (!has("face", is_ring))
      header_.fail("there are no faces: these are points alone",
                   "export a surface, not a cloud of points");
  }
  static bool is_ring(const Property& p) {
    return p.count && (p.name == "vertex_indices" || p.name == "vertex_index");
  }

  void read_element(const Element& e, Values& values) {
    const bool vertex = e.name == "vertex", face = e.name == "face";
    Vec3 place;
    ring_.clear();
    for (const Property& p : e.properties) {
      if (!p.count) {
        const double v = values.next(p.type);
        if (vertex && p.name.size() == 1 && p.name[0] >= 'x' && p.name[0] <= 'z')
          place[p.name[0] - 'x'] = v;
        continue;
      }
      const double length = values.next(*p.count);
      const std::size_t entry = binary_ ? size_of(p.type) : 2;
      const std::size_t most = values.left() / entry + 1;
      if (!(length >= 0) || length > static_cast<double>(most))
        throw InputError(fmt::format("a list of {} entries is longer than the file", length),
                         file_.path().string(), "it is truncated or damaged: export it again");
      for (double i = 0; i < length; ++i) {
        const double v = values.next(p.type);
        if (face && is_ring(p)) ring_.push_back(index(v));
      }
    }
    if (vertex) builder_.add_point(place);
    if (face && ring_.size() >= 3) builder_.add_polygon(ring_);
  }
  long long index(double v) const {
    if (!(v >= 0 && v < 4e9) || v != std::floor(v))
      throw InputError(fmt::format("a face names point {}", v), file_.path().string(),
                       "it is truncated or damaged: export it again");
    return static_cast<long long>(v);
  }

  InputFile& file_;
  TextScanner header_;
  SurfaceBuilder builder_;
  bool binary_ = false, swap_ = false;
  std::vector<Element> elements_;
  std::vector<long long> ring_;
};

}  // namespace

Surface read_ply(const std::filesystem::path& file) {
  InputFile input(file);
  return PlyParser(input).parse();
}

}  // namespace dunefield
