#include <dunefield/report/page.hpp>

#include <sstream>

#include <fmt/format.h>
#include <glib.h>
#include <pugixml.hpp>

#include <dunefield/base/packing.hpp>
#include <dunefield/base/valid_text.hpp>
#include <dunefield/look/canvas.hpp>
#include <dunefield/report/viewer_bundle.hpp>
#include <page_parts.hpp>

namespace dunefield {
namespace {

/// As content security policies name what is allowed.
std::string fingerprint(std::string_view text) {
  GChecksum* sum = g_checksum_new(G_CHECKSUM_SHA256);
  g_checksum_update(sum, reinterpret_cast<const guchar*>(text.data()),
                    static_cast<gssize>(text.size()));
  guint8 digest[32];
  gsize length = sizeof digest;
  g_checksum_get_digest(sum, digest, &length);
  g_checksum_free(sum);
  return "'sha256-" + base64(std::string(reinterpret_cast<char*>(digest), length)) + "'";
}

}  // namespace

struct Page::State {
  pugi::xml_document doc;
  pugi::xml_node contents, main, here, columns, policy;
  int sections = 0;
  std::string view_data;  ///< JSON
  bool live = false;

  /// What is data to the browser, and the script that shows it. In JSON a "<" can only stand in a
  /// text, where its number means the same and ends no element.
  std::string view_parts() const {
    const std::string script = "<script>" + std::string(viewer_bundle()) + "</script>";
    if (live) return script;
    if (view_data.empty()) return "";
    std::string out = "<script type=\"application/json\" id=\"view-data\">";
    for (const char c : view_data)
      if (c == '<')
        out += "\\u003c";
      else
        out += c;
    return out + "</script>" + script;
  }

  pugi::xml_node add(pugi::xml_node to, const char* element, const std::string& text) {
    auto node = to.append_child(element);
    node.text().set(valid_text(text).c_str());
    return node;
  }
};

Page::Page(const std::string& title) : state_(std::make_unique<State>()) {
  State& s = *state_;
  auto html = s.doc.append_child("html");
  html.append_attribute("lang") = "en";
  auto head = html.append_child("head");
  head.append_child("meta").append_attribute("charset") = "utf-8";
  s.policy = head.append_child("meta");
  s.policy.append_attribute("http-equiv") = "Content-Security-Policy";
  s.policy.append_attribute("content") =
      fmt::format(
          "default-src 'none'; base-uri 'none'; form-action 'none'; img-src data:; "
          "style-src {}; script-src {} {}",
          fingerprint(page_style), fingerprint(page_script), fingerprint(viewer_bundle()))
          .c_str();
  auto view = head.append_child("meta");
  view.append_attribute("name") = "viewport";
  view.append_attribute("content") = "width=device-width, initial-scale=1";
  s.add(head, "title", title);
  auto body = html.append_child("body");
  s.add(body.append_child("header"), "h1", title);
  auto nav = body.append_child("nav");
  nav.append_attribute("aria-label") = "contents";
  s.contents = nav.append_child("ul");
  s.main = s.here = body.append_child("main");
}
Page::~Page() = default;

void Page::section(const std::string& title) {
  State& s = *state_;
  const std::string id = fmt::format("s{}", ++s.sections);
  auto link = s.add(s.contents.append_child("li"), "a", title);
  link.append_attribute("href") = ("#" + id).c_str();
  s.here = s.main.append_child("section");
  s.here.append_attribute("aria-labelledby") = id.c_str();
  s.add(s.here, "h2", title).append_attribute("id") = id.c_str();
}

void Page::begin_column() {
  State& s = *state_;
  if (!s.columns) {
    s.columns = s.here.append_child("div");
    s.columns.append_attribute("class") = "columns";
  }
  s.here = s.columns.append_child("div");
}
void Page::end_columns() {
  State& s = *state_;
  s.here = s.columns.parent(), s.columns = {};
}
void Page::drawing(const std::string& svg) {
  pugi::xml_document drawn;
  if (drawn.load_buffer(svg.data(), svg.size())) state_->here.append_copy(drawn.first_child());
}

void Page::heading(const std::string& text) { state_->add(state_->here, "h3", text); }
void Page::paragraph(const std::string& text) { state_->add(state_->here, "p", text); }

void Page::list(const std::vector<std::string>& lines) {
  auto ul = state_->here.append_child("ul");
  ul.append_attribute("class") = "verdict";
  for (const std::string& l : lines) state_->add(ul, "li", l);
}

void Page::table(const std::string& caption, const std::vector<std::vector<std::string>>& rows,
                 const std::vector<std::string>& notes) {
  State& s = *state_;
  if (rows.empty()) return;
  auto block = s.here.append_child("div");
  auto scroll = block.append_child("div");
  scroll.append_attribute("class") = "scroll";
  scroll.append_attribute("tabindex") = "0";
  scroll.append_attribute("role") = "group";
  scroll.append_attribute("aria-label") =
      valid_text(caption.empty() ? rows[0][0] : caption).c_str();
  auto table = scroll.append_child("table");
  if (!caption.empty()) s.add(table, "caption", caption);
  auto head = table.append_child("thead").append_child("tr");
  for (const std::string& h : rows[0]) {
    auto th = head.append_child("th");
    th.append_attribute("scope") = "col";
    th.append_attribute("aria-sort") = "none";
    s.add(th, "button", h).append_attribute("type") = "button";
  }
  auto body = table.append_child("tbody");
  for (std::size_t i = 1; i < rows.size(); ++i) {
    auto row = body.append_child("tr");
    for (std::size_t k = 0; k < rows[i].size(); ++k) {
      auto cell = s.add(row, k == 0 ? "th" : "td", rows[i][k]);
      if (k == 0) cell.append_attribute("scope") = "row";
    }
  }
  auto copy = s.add(block, "button", "copy as CSV");
  copy.append_attribute("class") = "copy";
  copy.append_attribute("type") = "button";
  for (const std::string& n : notes) s.add(block, "p", n).append_attribute("class") = "note";
}

void Page::folded_table(const std::string& title,
                        const std::vector<std::vector<std::string>>& rows) {
  State& s = *state_;
  pugi::xml_node outside = s.here;
  s.here = outside.append_child("details");
  s.add(s.here, "summary", title);
  table("", rows);
  s.here = outside;
}

void Page::picture(const Image& image, const std::string& text) {
  picture_file(Canvas(image).png_bytes(), "image/png", text);
}

void Page::picture_file(const std::string& bytes, const std::string& type,
                        const std::string& text) {
  auto figure = state_->here.append_child("figure");
  auto img = figure.append_child("img");
  img.append_attribute("alt") = valid_text(text).c_str();
  img.append_attribute("src") = ("data:" + type + ";base64," + base64(bytes)).c_str();
  state_->add(figure, "figcaption", text);
}

void Page::folded(const std::string& title, const std::string& text) {
  auto details = state_->here.append_child("details");
  state_->add(details, "summary", title);
  state_->add(details, "pre", text);
}

void Page::view(const std::string& data) {
  if (viewer_bundle().empty())
    return paragraph(
        "The 3-D view is missing: this program was built without Node.js. The pictures below show "
        "the same from fixed places.");
  auto view = state_->here.append_child("div");
  view.append_attribute("id") = "view";
  state_->add(view, "p", "The 3-D view needs JavaScript and WebGL.");
  state_->view_data = data;
}

void Page::application(const std::string& name) {
  State& s = *state_;
  s.live = true;
  auto content = s.policy.attribute("content");
  content = (std::string(content.value()) + "; connect-src 'self'").c_str();
  auto host = s.here.append_child("div");
  host.append_attribute("id") = name.c_str();
  s.add(host, "p",
        viewer_bundle().empty() ? "This page is missing: the program was built without Node.js."
                                : "This page needs JavaScript.");
}

std::string Page::html() {
  std::ostringstream out;
  // Elements without content would be taken as open by readers of HTML.
  state_->doc.save(
      out, "", pugi::format_raw | pugi::format_no_declaration | pugi::format_no_empty_element_tags,
      pugi::encoding_utf8);
  std::string text = "<!DOCTYPE html>\n" + out.str();
  // The two texts of ours that are markup's own, as they are.
  const std::size_t head = text.find("</head>");
  text.insert(head, std::string("<style>") + page_style + "</style>");
  const std::size_t body = text.rfind("</body>");
  text.insert(body, std::string("<script>") + page_script + "</script>" + state_->view_parts());
  return text;
}

std::string application_page(const std::string& title, const std::string& name) {
  Page page(title);
  page.application(name);
  return page.html();
}

}  // namespace dunefield
