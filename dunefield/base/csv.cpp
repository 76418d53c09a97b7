#include <dunefield/base/csv.hpp>

#include <charconv>
#include <stdexcept>
#include <string_view>

#include <fmt/format.h>

namespace dunefield {

namespace {

/// What a table program would take for a formula gets a sign in front that says text.
std::string quoted(const std::string& text) {
  const bool formula =
      !text.empty() && std::string_view("=+-@\t\r").find(text[0]) != std::string_view::npos;
  const std::string words = formula ? "'" + text : text;
  if (words.find_first_of(",\"\r\n") == words.npos && !words.empty()) return words;
  std::string out = "\"";
  for (const char c : words) out += c == '"' ? "\"\"" : std::string(1, c);
  return out + "\"";
}

struct Written {
  int digits;
  std::string operator()(std::monostate) const { return ""; }
  std::string operator()(const std::string& words) const { return quoted(words); }
  std::string operator()(int number) const { return fmt::format("{}", number); }
  std::string operator()(double number) const {
    return digits > 0 ? fmt::format("{:.{}g}", number, digits) : fmt::format("{}", number);
  }
};

}  // namespace

CsvTable::CsvTable(const std::vector<std::string>& heading, int digits)
    : columns_(heading.size()), digits_(digits) {
  add({heading.begin(), heading.end()});
}

void CsvTable::add(const std::vector<CsvCell>& row) {
  if (row.size() != columns_) throw std::logic_error("a row has not as many cells as the heading");
  for (std::size_t i = 0; i < row.size(); ++i)
    text_ += (i ? "," : "") + std::visit(Written{digits_}, row[i].value);
  text_ += "\n";
}

std::vector<std::vector<double>> csv_numbers(const std::string& text) {
  std::vector<std::vector<double>> rows;
  const char* p = text.data() + std::min(text.size(), text.find('\n'));
  const char* const end = text.data() + text.size();
  while (p < end && ++p < end) {
    std::vector<double> row;
    for (;; ++p) {
      double v = 0;
      const auto [after, fault] = std::from_chars(p, end, v);
      if (fault != std::errc()) return rows;
      row.push_back(v);
      p = after;
      if (p == end || *p != ',') break;
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

}  // namespace dunefield
