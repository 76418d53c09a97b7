// Drawings of the report: SVG whose colours are classes of the page's style, so that they follow
// light and dark. Not part of the public interface.
#pragma once

#include <array>
#include <string>
#include <vector>

#include <pugixml.hpp>

namespace dunefield {

/// Lengths are pixels at the natural size; y points downward.
class Drawing {
 public:
  /// @param kind class of the whole. @param label what it shows, for those who do not see it
  Drawing(double width, double height, const std::string& kind, const std::string& label);

  void line(double x1, double y1, double x2, double y2, const std::string& kind);
  void words(double x, double y, const std::string& text, const std::string& kind);
  /// @param title shown under the pointer, of both
  void dot(double x, double y, const std::string& kind, const std::string& title);
  void box(double x, double y, double width, double height, const std::string& kind,
           const std::string& title);
  void polygon(const std::vector<std::array<double, 2>>& points, const std::string& kind);

  /// The element as text.
  std::string text() const;

 private:
  pugi::xml_node add(const char* element,
                     const std::vector<std::pair<const char*, std::string>>& attributes);

  pugi::xml_document doc_;
  pugi::xml_node svg_;
};

}  // namespace dunefield
