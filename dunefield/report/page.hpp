// One self-contained HTML page, put together as a tree of text: nothing that comes from data is
// ever markup. No network; what scripts there are is allowed by its hash alone.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include <dunefield/look/image.hpp>

namespace dunefield {

class Page {
 public:
  explicit Page(const std::string& title);
  ~Page();
  Page(const Page&) = delete;
  Page& operator=(const Page&) = delete;

  /// Begins a part of the page with an entry in its contents.
  void section(const std::string& title);
  void heading(const std::string& text);
  /// What follows stands in columns beside each other where there is room, until `end_columns`.
  void begin_column();
  void end_columns();
  /// SVG of our own making (first_screen.hpp), whose colours are the page's.
  void drawing(const std::string& svg);
  void paragraph(const std::string& text);
  void list(const std::vector<std::string>& lines);
  /// The first row is the heading; sorted by a click, copied as CSV.
  void table(const std::string& caption, const std::vector<std::vector<std::string>>& rows,
             const std::vector<std::string>& notes = {});
  /// @param text what it shows, for those who do not see it
  void picture(const Image& image, const std::string& text);
  /// The same, folded away until it is wanted.
  void folded_table(const std::string& title, const std::vector<std::vector<std::string>>& rows);
  /// A file of pixels (PNG) or lines (SVG), as it is.
  void picture_file(const std::string& bytes, const std::string& type, const std::string& text);
  /// The 3-D view of what look/scene_pack.hpp packed; a word of what is missing where it was not
  /// built. Once a page.
  void view(const std::string& packed_json);
  /// Makes it the page of a watched campaign ("live", report/watch_server.hpp) or of records
  /// ("explore", report/explore_server.hpp): its script asks the server that it came from for what
  /// there is, and for nothing else.
  void application(const std::string& name);
  /// Folded away until it is wanted.
  void folded(const std::string& title, const std::string& text);

  std::string html();

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// A page that is one of those applications alone.
std::string application_page(const std::string& title, const std::string& name);

}  // namespace dunefield
