#include <dunefield/geometry/files/stl.hpp>

#include <cstdint>
#include <cstring>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/files/surface_builder.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;
constexpr std::size_t header_bytes = 84, facet_bytes = 50;

Surface parse_binary(InputFile& file) {
  const std::string_view bytes = file.bytes();
  std::uint32_t promised;
  std::memcpy(&promised, bytes.data() + 80, 4);
  const std::size_t held = (bytes.size() - header_bytes) / facet_bytes;
  if (held != promised || bytes.size() != header_bytes + facet_bytes * held)
    throw InputError(
        fmt::format(
            "the header promises {} triangles ({} bytes) but the file has {} bytes, room for {}",
            promised, header_bytes + facet_bytes * std::size_t{promised}, bytes.size(), held),
        file.path().string(), "it is truncated or damaged: export it again");
  SurfaceBuilder builder(file.path());
  // a closed surface has half as many points as triangles
  builder.expect_points(held / 2 + held / 50);
  constexpr std::size_t batch = 1024;
  std::vector<Vec3> corner(3 * batch);
  for (std::size_t first = 0; first < held; first += batch) {
    const std::size_t n = std::min(batch, held - first);
    for (std::size_t t = 0; t < n; ++t) {
      float v[9];
      std::memcpy(v, bytes.data() + header_bytes + facet_bytes * (first + t) + 12, sizeof v);
      for (std::size_t k = 0; k < 3; ++k)
        corner[3 * t + k] = {v[3 * k], v[3 * k + 1], v[3 * k + 2]};
    }
    builder.add_triangles(corner.data(), n);
    file.release_before(header_bytes + facet_bytes * first);
  }
  return builder.finish();
}

/// Equal but for capital letters: some exporters shout.
bool same(std::string_view w, std::string_view lower_case) {
  return w.size() == lower_case.size() &&
         std::equal(w.begin(), w.end(), lower_case.begin(),
                    [](char a, char b) { return (a >= 'A' && a <= 'Z' ? a - 'A' + 'a' : a) == b; });
}

class AsciiParser {
 public:
  explicit AsciiParser(InputFile& file) : words_(file), builder_(file.path()) {}

  Surface parse() {
    for (std::string_view w = words_.word(); !w.empty(); w = words_.word()) {
      if (!same(w, "solid")) words_.fail(fmt::format("expected 'solid', found '{}'", shown(w)));
      builder_.use_part(words_.rest_of_line());
      parse_solid();
    }
    return builder_.finish();
  }

 private:
  void parse_solid() {
    for (;;) {
      const std::string_view w = words_.word();
      if (same(w, "endsolid")) return void(words_.rest_of_line());
      if (!same(w, "facet"))
        words_.fail(fmt::format("expected 'facet' or 'endsolid', found {}",
                                w.empty() ? shown(w) : "'" + shown(w) + "'"));
      parse_facet();
    }
  }
  void parse_facet() {
    expect("normal");
    for (int i = 0; i < 3; ++i) words_.word();
    expect("outer"), expect("loop");
    Vec3 corner[3];
    for (Vec3& p : corner) {
      expect("vertex");
      for (int i = 0; i < 3; ++i) p[i] = words_.number(words_.word());
    }
    expect("endloop"), expect("endfacet");
    builder_.add_triangles(corner, 1);
  }
  void expect(const char* word) {
    const std::string_view w = words_.word();
    if (!same(w, word))
      words_.fail(fmt::format("expected '{}', found {}", word,
                              w.empty() ? shown(w) : "'" + shown(w) + "'"));
  }

  TextScanner words_;
  SurfaceBuilder builder_;
};

bool looks_binary(std::string_view bytes) {
  if (bytes.size() >= header_bytes) {
    std::uint32_t n;
    std::memcpy(&n, bytes.data() + 80, 4);
    if (bytes.size() == header_bytes + facet_bytes * std::size_t{n}) return true;
  }
  const std::size_t first = bytes.find_first_not_of(" \t\r\n");
  if (first == bytes.npos || !same(bytes.substr(first, 5), "solid")) return true;
  return bytes.substr(0, 1000).find('\0') != std::string::npos;
}

}  // namespace

Surface read_stl(const fs::path& file) {
  InputFile input(file);
  if (!looks_binary(input.bytes())) return AsciiParser(input).parse();
  if (input.bytes().size() < header_bytes)
    throw InputError(
        fmt::format("has {} bytes, less than the header of an STL file", input.bytes().size()),
        file.string(), "it is truncated or not an STL file");
  return parse_binary(input);
}

void write_stl_ascii(const fs::path& file, const Surface& s) {
  FreshFile fresh(file);
  std::ofstream& out = fresh.out();
  for (std::size_t part = 0; part < s.part_names.size(); ++part) {
    out << "solid " << s.part_names[part] << '\n';
    for (std::size_t t = 0; t < s.size(); ++t) {
      if (s.part_of[t] != static_cast<int>(part)) continue;
      const Vec3 n = unit(s.area_vector(t));
      out << fmt::format("facet normal {:.4g} {:.4g} {:.4g}\nouter loop\n", n.x, n.y, n.z);
      for (int k = 0; k < 3; ++k)
        out << fmt::format("vertex {:.7g} {:.7g} {:.7g}\n", s.corner(t, k).x, s.corner(t, k).y,
                           s.corner(t, k).z);
      out << "endloop\nendfacet\n";
    }
    out << "endsolid " << s.part_names[part] << '\n';
  }
  fresh.place();
}

void write_stl_binary(const fs::path& file, const Surface& s) {
  FreshFile fresh(file);
  std::ofstream& out = fresh.out();
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
  fresh.place();
}

}  // namespace dunefield
