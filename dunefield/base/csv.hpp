// Tables as comma-separated values (RFC 4180).
#pragma once

#include <string>
#include <vector>

namespace dunefield {

/// One entry of a table.
struct CsvCell {
  std::string text;

  CsvCell() = default;  ///< empty
  CsvCell(const std::string& words);
  CsvCell(const char* words) : CsvCell(std::string(words)) {}
  CsvCell(int number);
  /// Shortest digits that give the number again.
  CsvCell(double number);
};

class CsvTable {
 public:
  /// @param heading column names with units, like "pressure Pa"
  explicit CsvTable(const std::vector<std::string>& heading);
  /// @throw std::logic_error when it has not as many cells as the heading
  void add(const std::vector<CsvCell>& row);
  const std::string& text() const { return text_; }

 private:
  std::size_t columns_;
  std::string text_;
};

/// The rows of a table of numbers, without its heading; rows that are no numbers end it.
std::vector<std::vector<double>> csv_numbers(const std::string& text);

}  // namespace dunefield
