// Tables as comma-separated values (RFC 4180).
#pragma once

#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace dunefield {

/// One entry of a table.
struct CsvCell {
  std::variant<std::monostate, std::string, int, double> value;

  CsvCell() = default;  ///< empty
  CsvCell(std::string words) : value(std::move(words)) {}
  CsvCell(const char* words) : value(std::string(words)) {}
  CsvCell(int number) : value(number) {}
  CsvCell(double number) : value(number) {}
};

class CsvTable {
 public:
  /// @param heading column names with units, like "pressure Pa"
  /// @param digits of numbers; 0: the shortest that give the number again
  explicit CsvTable(const std::vector<std::string>& heading, int digits = 0);
  /// @throw std::logic_error when it has not as many cells as the heading
  void add(const std::vector<CsvCell>& row);
  const std::string& text() const { return text_; }

 private:
  std::size_t columns_;
  int digits_;
  std::string text_;
};

/// The rows of a table of numbers, without its heading; rows that are no numbers end it.
std::vector<std::vector<double>> csv_numbers(const std::string& text);

}  // namespace dunefield
