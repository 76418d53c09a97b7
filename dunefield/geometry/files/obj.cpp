#include <dunefield/geometry/files/obj.hpp>

#include <algorithm>

#include <fmt/format.h>

#include <dunefield/base/fresh_file.hpp>
#include <dunefield/geometry/files/input_file.hpp>
#include <dunefield/geometry/files/surface_builder.hpp>

namespace dunefield {
namespace {

class ObjParser {
 public:
  explicit ObjParser(InputFile& file) : words_(file), builder_(file.path()) {}

  Surface parse() {
    do {
      const std::string_view w = words_.word_of_line();
      if (w == "v")
        parse_point();
      else if (w == "f")
        parse_polygon();
      else if (w == "g")
        group_ = words_.rest_of_line(), name_part();
      else if (w == "o")
        object_ = words_.rest_of_line(), group_.clear(), name_part();
      else if (w.size() == 1 && w[0] == '\\')
        words_.fail("a line goes on in the next one where it cannot");
      else if (!w.empty() && static_cast<unsigned char>(w[0]) < 0x20)
        words_.fail("is not text", "check that it is an OBJ file");
    } while (words_.next_line());
    return builder_.finish();
  }

 private:
  void name_part() {
    if (object_.empty() || group_.empty() || group_ == object_)
      builder_.use_part(group_.empty() ? object_ : group_);
    else
      builder_.use_part(object_ + " / " + group_);
  }
  /// The next word of a statement; a backslash joins the next line.
  std::string_view word() {
    for (;;) {
      const std::string_view w = words_.word_of_line();
      if (w != "\\") return w.empty() || w[0] == '#' ? std::string_view{} : w;
      if (!words_.next_line()) return {};
    }
  }
  void parse_point() {
    Vec3 p;
    for (int i = 0; i < 3; ++i) p[i] = words_.number(word());
    if (!finite(p)) words_.fail("a coordinate is not a finite number");
    builder_.add_point(p);
  }
  void parse_polygon() {
    ring_.clear();
    for (std::string_view w = word(); !w.empty(); w = word()) {
      const long long n = words_.whole_number(w.substr(0, w.find('/')));
      const auto points = static_cast<long long>(builder_.points());
      if (n == 0 || n > points || n < -points)
        words_.fail(
            fmt::format("a polygon names point {}, but {} points came before it", n, points));
      ring_.push_back(n > 0 ? n - 1 : points + n);
    }
    if (ring_.size() < 3)
      words_.fail(fmt::format("a polygon has {} points, but needs three", ring_.size()));
    builder_.add_polygon(ring_);
  }

  TextScanner words_;
  SurfaceBuilder builder_;
  std::string object_, group_;
  std::vector<long long> ring_;
};

std::string one_line(std::string name) {
  std::replace(name.begin(), name.end(), '\n', ' ');
  return name;
}

}  // namespace

void write_obj(const std::filesystem::path& file, const Surface& s) {
  FreshFile fresh(file);
  std::ofstream& out = fresh.out();
  for (const Vec3& p : s.points) out << fmt::format("v {:.6g} {:.6g} {:.6g}\n", p.x, p.y, p.z);
  for (std::size_t part = 0; part < s.part_names.size(); ++part) {
    out << "g " << one_line(s.part_names[part]) << '\n';
    for (std::size_t t = 0; t < s.size(); ++t)
      if (s.part_of[t] == static_cast<int>(part))
        out << fmt::format("f {} {} {}\n", s.triangles[t][0] + 1, s.triangles[t][1] + 1,
                           s.triangles[t][2] + 1);
  }
  fresh.place();
}

Surface read_obj(const std::filesystem::path& file) {
  InputFile input(file);
  return ObjParser(input).parse();
}

}  // namespace dunefield
