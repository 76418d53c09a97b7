#include <dunefield/report/drawing.hpp>

#include <sstream>

#include <fmt/format.h>

#include <dunefield/base/valid_text.hpp>

namespace dunefield {
namespace {

std::string pixels(double v) { return fmt::format("{:.1f}", v); }

void entitle(pugi::xml_node node, const std::string& title) {
  node.append_child("title").text().set(valid_text(title).c_str());
}

}  // namespace

Drawing::Drawing(double width, double height, const std::string& kind, const std::string& label)
    : svg_(doc_.append_child("svg")) {
  for (const auto& [name, value] : std::vector<std::pair<const char*, std::string>>{
           {"viewBox", fmt::format("0 0 {} {}", width, height)},
           {"role", "img"},
           {"class", kind},
           {"aria-label", valid_text(label)}})
    svg_.append_attribute(name) = value.c_str();
}

pugi::xml_node Drawing::add(const char* element,
                            const std::vector<std::pair<const char*, std::string>>& attributes) {
  pugi::xml_node node = svg_.append_child(element);
  for (const auto& [name, value] : attributes)
    node.append_attribute(name) = valid_text(value).c_str();
  return node;
}

void Drawing::line(double x1, double y1, double x2, double y2, const std::string& kind) {
  add("line", {{"x1", pixels(x1)},
               {"y1", pixels(y1)},
               {"x2", pixels(x2)},
               {"y2", pixels(y2)},
               {"class", kind}});
}

void Drawing::words(double x, double y, const std::string& text, const std::string& kind) {
  add("text", {{"x", pixels(x)}, {"y", pixels(y)}, {"class", kind}})
      .text()
      .set(valid_text(text).c_str());
}

void Drawing::dot(double x, double y, const std::string& kind, const std::string& title) {
  entitle(add("circle", {{"cx", pixels(x)}, {"cy", pixels(y)}, {"r", "4.5"}, {"class", kind}}),
          title);
}

void Drawing::box(double x, double y, double width, double height, const std::string& kind,
                  const std::string& title) {
  entitle(add("rect", {{"x", pixels(x)},
                       {"y", pixels(y)},
                       {"width", pixels(width)},
                       {"height", pixels(height)},
                       {"class", kind}}),
          title);
}

void Drawing::polygon(const std::vector<std::array<double, 2>>& points, const std::string& kind) {
  std::string list;
  for (const auto& [x, y] : points) list += pixels(x) + "," + pixels(y) + " ";
  add("polygon", {{"points", list}, {"class", kind}});
}

std::string Drawing::text() const {
  std::ostringstream out;
  doc_.save(out, "", pugi::format_raw | pugi::format_no_declaration);
  return out.str();
}

}  // namespace dunefield
