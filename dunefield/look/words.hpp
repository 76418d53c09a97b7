// The short words in which looks are asked for, on the command line as in campaign files:
// "y = 0.2 m, total Cp, lines = 10, arrows".
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include <dunefield/base/units.hpp>
#include <dunefield/base/vec.hpp>

namespace dunefield {

/// Parts between commas: `key = value`, or a word alone. Remembers what was asked for, so that the
/// rest can be refused with the nearest known word.
class Words {
 public:
  /// @param where for messages: the option or the key of the file
  Words(const std::string& text, std::string where);

  bool flag(const std::string& word);
  bool has(const std::string& key);
  std::string text(const std::string& key, const std::string& otherwise);
  double number(const std::string& key, double otherwise);
  int count(const std::string& key, int otherwise, int least, int most);
  double quantity(const std::string& key, Dimension dimension, double otherwise);
  /// "(-1 m, 0 m, 0.5 m)"
  std::optional<Vec3> place(const std::string& key);
  /// "(-1, 0, 0.5)"
  std::optional<Vec3> direction(const std::string& key);
  /// "a | b"
  std::vector<std::string> list(const std::string& key);
  /// "-1..1". @throw InputError for a range that is empty or inverted
  std::optional<std::pair<double, double>> range(const std::string& key);
  /// Words alone that were no flag, in their order: names of quantities.
  std::vector<std::string> others();
  /// @throw InputError for keys that nobody asked for
  void finish();
  [[noreturn]] void fail(const std::string& what, const std::string& advice) const;

 private:
  std::optional<std::string> value(const std::string& key);
  Vec3 three(const std::string& key, const std::string& text, bool lengths) const;

  std::string where_;
  std::map<std::string, std::string> values_;
  std::vector<std::string> words_;
  std::set<std::string> asked_, used_;
};

/// The known word that is nearest to a wrong one, by the fewest letters to change (Levenshtein
/// 1966).
std::string nearest_word(const std::string& wrong, const std::vector<std::string>& known);

}  // namespace dunefield
