#include <dunefield/geometry/stl.hpp>

#include <charconv>
#include <cstdint>
#include <cstring>
#include <fstream>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;
constexpr std::size_t header_bytes = 84, facet_bytes = 50;

std::string read_file(const fs::path& file) {
  std::error_code status;
  if (!fs::exists(file, status)) throw InputError("there is no such file", file.string(), "check the path");
  if (!fs::is_regular_file(file, status)) throw InputError("is not a file", file.string(), "name an STL file");
  std::ifstream in(file, std::ios::binary);
  if (!in) throw InputError("cannot be opened", file.string(), "check its permissions");
  std::string bytes(fs::file_size(file), '\0');
  in.read(bytes.data(), static_cast<std::streamsize>(bytes.size()));
  if (bytes.empty()) throw InputError("is empty", file.string(), "export the surface again");
  return bytes;
}

void add_triangle(Surface& s, const Vec3 (&corner)[3], int part, const fs::path& file) {
  for (const Vec3& p : corner)
    if (!finite(p))
      throw InputError(fmt::format("triangle {} has a coordinate that is not a finite number", s.size() + 1), file.string(),
                       "repair or export the surface again");
  const int first = static_cast<int>(s.points.size());
  for (const Vec3& p : corner) s.points.push_back(p);
  s.triangles.push_back({first, first + 1, first + 2});
  s.part_of.push_back(part);
}

Surface parse_binary(const std::string& bytes, const fs::path& file) {
  std::uint32_t promised;
  std::memcpy(&promised, bytes.data() + 80, 4);
  const std::size_t held = (bytes.size() - header_bytes) / facet_bytes;
  if (held != promised || bytes.size() != header_bytes + facet_bytes * held)
    throw InputError(fmt::format("the header promises {} triangles ({} bytes) but the file has {} bytes, room for {}", promised,
                                 header_bytes + facet_bytes * std::size_t{promised}, bytes.size(), held),
                     file.string(), "it is truncated or damaged: export it again");
  Surface s;
  s.part_names.push_back(file.stem().string());
  s.points.reserve(3 * held);
  for (std::size_t t = 0; t < held; ++t) {
    float v[9];
    std::memcpy(v, bytes.data() + header_bytes + facet_bytes * t + 12, sizeof v);
    const Vec3 corner[3] = {{v[0], v[1], v[2]}, {v[3], v[4], v[5]}, {v[6], v[7], v[8]}};
    add_triangle(s, corner, 0, file);
  }
  return s;
}

/// Walks through the words of an ASCII file, counting lines.
class Words {
 public:
  explicit Words(const std::string& text) : p_(text.data()), end_(p_ + text.size()) {}

  std::string_view next() {
    skip_blanks();
    const char* from = p_;
    while (p_ < end_ && !is_blank(*p_)) ++p_;
    return {from, static_cast<std::size_t>(p_ - from)};
  }
  std::string_view rest_of_line() {
    const char* from = p_;
    while (p_ < end_ && *p_ != '\n') ++p_;
    std::string_view line(from, static_cast<std::size_t>(p_ - from));
    while (!line.empty() && is_blank(line.front())) line.remove_prefix(1);
    while (!line.empty() && is_blank(line.back())) line.remove_suffix(1);
    return line;
  }
  int line() const { return line_; }

 private:
  static bool is_blank(char c) { return c == ' ' || c == '\n' || c == '\r' || c == '\t'; }
  void skip_blanks() {
    for (; p_ < end_ && is_blank(*p_); ++p_) line_ += *p_ == '\n';
  }
  const char* p_;
  const char* end_;
  int line_ = 1;
};

class AsciiParser {
 public:
  AsciiParser(const std::string& text, const fs::path& file) : words_(text), file_(file) {}

  Surface parse() {
    for (std::string_view w = words_.next(); !w.empty(); w = words_.next()) {
      if (w != "solid") fail(fmt::format("expected 'solid', found '{}'", shown(w)));
      parse_solid();
    }
    return std::move(surface_);
  }

 private:
  [[noreturn]] void fail(const std::string& what) const {
    throw InputError(what, fmt::format("{}:{}", file_.string(), words_.line()), "it is truncated or damaged: export it again");
  }
  static std::string shown(std::string_view w) { return w.empty() ? "the end of the file" : std::string(w.substr(0, 40)); }

  void parse_solid() {
    std::string name(words_.rest_of_line());
    if (name.empty()) name = file_.stem().string();
    int part = surface_.find_part(name);
    if (part < 0) part = static_cast<int>(surface_.part_names.size()), surface_.part_names.push_back(name);
    for (;;) {
      const std::string_view w = words_.next();
      if (w == "endsolid") return void(words_.rest_of_line());
      if (w != "facet") fail(fmt::format("expected 'facet' or 'endsolid', found '{}'", shown(w)));
      parse_facet(part);
    }
  }
  void parse_facet(int part) {
    expect("normal");
    for (int i = 0; i < 3; ++i) words_.next();
    expect("outer"), expect("loop");
    Vec3 corner[3];
    for (Vec3& p : corner) {
      expect("vertex");
      for (int i = 0; i < 3; ++i) p[i] = number();
    }
    expect("endloop"), expect("endfacet");
    add_triangle(surface_, corner, part, file_);
  }
  void expect(const char* word) {
    const std::string_view w = words_.next();
    if (w != word) fail(fmt::format("expected '{}', found '{}'", word, shown(w)));
  }
  double number() {
    std::string_view w = words_.next();
    if (!w.empty() && w.front() == '+') w.remove_prefix(1);
    double value = 0;
    const auto [end, status] = std::from_chars(w.data(), w.data() + w.size(), value);
    if (status != std::errc() || end != w.data() + w.size())
      fail(fmt::format("'{}' is not a number{}", shown(w), w.find(',') != w.npos ? " (decimal comma?)" : ""));
    return value;
  }

  Words words_;
  const fs::path& file_;
  Surface surface_;
};

bool looks_binary(const std::string& bytes) {
  if (bytes.size() >= header_bytes) {
    std::uint32_t n;
    std::memcpy(&n, bytes.data() + 80, 4);
    if (bytes.size() == header_bytes + facet_bytes * std::size_t{n}) return true;
  }
  if (bytes.compare(0, 5, "solid") != 0) return true;
  return bytes.substr(0, 1000).find('\0') != std::string::npos;
}

std::ofstream open_for_writing(const fs::path& file) {
  std::ofstream out(file, std::ios::binary);
  if (!out) throw OutputError("cannot be written", file.string(), "check the folder and its permissions");
  return out;
}

void finish_writing(std::ofstream& out, const fs::path& file) {
  out.close();
  if (!out) throw OutputError("could not be written to its end", file.string(), "check the free space");
}

}  // namespace

Surface read_stl(const fs::path& file) {
  const std::string bytes = read_file(file);
  Surface s;
  if (looks_binary(bytes)) {
    if (bytes.size() < header_bytes)
      throw InputError(fmt::format("has {} bytes, less than the header of an STL file", bytes.size()), file.string(),
                       "it is truncated or not an STL file");
    s = parse_binary(bytes, file);
  } else {
    s = AsciiParser(bytes, file).parse();
  }
  if (s.size() == 0) throw InputError("holds no triangles", file.string(), "export the surface again");
  weld(s);
  if (s.size() == 0) throw InputError("all triangles have two corners at the same place", file.string(), "check the export's number format");
  return s;
}

void write_stl_ascii(const fs::path& file, const Surface& s) {
  std::ofstream out = open_for_writing(file);
  for (std::size_t part = 0; part < s.part_names.size(); ++part) {
    out << "solid " << s.part_names[part] << '\n';
    for (std::size_t t = 0; t < s.size(); ++t) {
      if (s.part_of[t] != static_cast<int>(part)) continue;
      const Vec3 n = unit(s.area_vector(t));
      out << fmt::format("facet normal {:.4g} {:.4g} {:.4g}\nouter loop\n", n.x, n.y, n.z);
      for (int k = 0; k < 3; ++k) out << fmt::format("vertex {:.7g} {:.7g} {:.7g}\n", s.corner(t, k).x, s.corner(t, k).y, s.corner(t, k).z);
      out << "endloop\nendfacet\n";
    }
    out << "endsolid " << s.part_names[part] << '\n';
  }
  finish_writing(out, file);
}

void write_stl_binary(const fs::path& file, const Surface& s) {
  std::ofstream out = open_for_writing(file);
  char header[80] = "binary STL";
  out.write(header, sizeof header);
  const auto n = static_cast<std::uint32_t>(s.size());
  out.write(reinterpret_cast<const char*>(&n), 4);
  for (std::size_t t = 0; t < s.size(); ++t) {
    const Vec3 normal = unit(s.area_vector(t));
    const Vec3 rows[4] = {normal, s.corner(t, 0), s.corner(t, 1), s.corner(t, 2)};
    char facet[facet_bytes] = {};
    for (int r = 0; r < 4; ++r)
      for (int i = 0; i < 3; ++i) {
        const auto v = static_cast<float>(rows[r][i]);
        std::memcpy(facet + 12 * r + 4 * i, &v, 4);
      }
    out.write(facet, sizeof facet);
  }
  finish_writing(out, file);
}

}  // namespace dunefield
