#include <dunefield/base/csv.hpp>

#include <charconv>
#include <stdexcept>

#include <fmt/format.h>

namespace dunefield {

CsvCell::CsvCell(const std::string& words) {
  if (words.find_first_of(",\"\r\n") == words.npos && !words.empty()) {
    text = words;
    return;
  }
  text = "\"";
  for (const char c : words) text += c == '"' ? "\"\"" : std::string(1, c);
  text += "\"";
}
CsvCell::CsvCell(int number) : text(fmt::format("{}", number)) {}
CsvCell::CsvCell(double number) : text(fmt::format("{}", number)) {}

CsvTable::CsvTable(const std::vector<std::string>& heading) : columns_(heading.size()) {
  add({heading.begin(), heading.end()});
}

void CsvTable::add(const std::vector<CsvCell>& row) {
  if (row.size() != columns_) throw std::logic_error("a row has not as many cells as the heading");
  for (std::size_t i = 0; i < row.size(); ++i) text_ += (i ? "," : "") + row[i].text;
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
