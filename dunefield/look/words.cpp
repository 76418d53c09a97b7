#include <dunefield/look/words.hpp>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <utility>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

std::string trimmed(const std::string& s) {
  const std::size_t a = s.find_first_not_of(" \t"), b = s.find_last_not_of(" \t");
  return a == std::string::npos ? "" : s.substr(a, b - a + 1);
}

/// Between commas, but for those in brackets.
std::vector<std::string> split(const std::string& text, char at) {
  std::vector<std::string> parts(1);
  int depth = 0;
  for (const char c : text) {
    depth += c == '(' ? 1 : c == ')' ? -1 : 0;
    if (c == at && depth == 0)
      parts.emplace_back();
    else
      parts.back() += c;
  }
  for (std::string& p : parts) p = trimmed(p);
  std::erase(parts, "");
  return parts;
}

std::optional<double> plain_number(const std::string& text) {
  char* end = nullptr;
  const double v = std::strtod(text.c_str(), &end);
  if (text.empty() || *end || !std::isfinite(v)) return std::nullopt;
  return v;
}

}  // namespace

std::string nearest_word(const std::string& wrong, const std::vector<std::string>& known) {
  std::string best;
  std::size_t fewest = std::string::npos;
  for (const std::string& k : known) {
    std::vector<std::size_t> row(k.size() + 1);
    for (std::size_t j = 0; j <= k.size(); ++j) row[j] = j;
    for (std::size_t i = 1; i <= wrong.size(); ++i) {
      std::size_t diagonal = row[0];
      row[0] = i;
      for (std::size_t j = 1; j <= k.size(); ++j) {
        const std::size_t above = row[j];
        row[j] = std::min({above + 1, row[j - 1] + 1, diagonal + (wrong[i - 1] != k[j - 1])});
        diagonal = above;
      }
    }
    if (row.back() < fewest) fewest = row.back(), best = k;
  }
  return best;
}

Words::Words(const std::string& text, std::string where) : where_(std::move(where)) {
  const std::string all = trimmed(text);
  if (all.starts_with('=')) {  // a formula alone
    words_.push_back(all);
    return;
  }
  for (const std::string& part : split(text, ',')) {
    const std::size_t equals = part.find('=');
    if (equals == std::string::npos || equals == 0) {
      words_.push_back(part);
      continue;
    }
    const std::string key = trimmed(part.substr(0, equals));
    if (!values_.emplace(key, trimmed(part.substr(equals + 1))).second)
      fail("'" + key + "' stands twice", "give it once");
  }
}

void Words::fail(const std::string& what, const std::string& advice) const {
  throw InputError(what, where_, advice);
}

bool Words::flag(const std::string& word) {
  asked_.insert(word);
  const auto it = std::find(words_.begin(), words_.end(), word);
  if (it == words_.end()) return false;
  words_.erase(it);
  return true;
}

std::optional<std::string> Words::value(const std::string& key) {
  asked_.insert(key);
  const auto it = values_.find(key);
  if (it == values_.end()) return std::nullopt;
  used_.insert(key);
  return it->second;
}

bool Words::has(const std::string& key) { return value(key).has_value(); }

std::string Words::text(const std::string& key, const std::string& otherwise) {
  return value(key).value_or(otherwise);
}

double Words::number(const std::string& key, double otherwise) {
  const auto v = value(key);
  if (!v) return otherwise;
  const auto n = plain_number(*v);
  if (!n) fail("'" + key + "' is '" + *v + "', which is no number", "write " + key + " = 0.5");
  return *n;
}

int Words::count(const std::string& key, int otherwise, int least, int most) {
  const double v = number(key, otherwise);
  if (v != std::floor(v) || v < least || v > most)
    fail(fmt::format("'{}' is {:.6g}", key, v),
         fmt::format("write a whole number from {} to {}", least, most));
  return static_cast<int>(v);
}

double Words::quantity(const std::string& key, Dimension dimension, double otherwise) {
  const auto v = value(key);
  if (!v) return otherwise;
  if (plain_number(*v) == 0.0) return 0;
  return parse_quantity(*v, dimension, where_ + " (" + key + ")");
}

Vec3 Words::three(const std::string& key, const std::string& text, bool lengths) const {
  const bool bracketed = text.size() > 1 && text.front() == '(' && text.back() == ')';
  const auto parts =
      bracketed ? split(text.substr(1, text.size() - 2), ',') : std::vector<std::string>();
  if (parts.size() != 3)
    fail("'" + key + "' is '" + text + "'",
         lengths ? "write " + key + " = (-1 m, 0 m, 0.5 m)" : "write " + key + " = (-1, 0, 0.5)");
  Vec3 out;
  for (int i = 0; i < 3; ++i) {
    const std::string& part = parts[static_cast<std::size_t>(i)];
    const auto n = plain_number(part);
    if (!lengths && !n) fail("'" + part + "' of '" + key + "' is no number", "check it");
    out[i] = !lengths || n == 0.0
                 ? *n
                 : parse_quantity(part, Dimension::length, where_ + " (" + key + ")");
  }
  return out;
}

std::optional<Vec3> Words::place(const std::string& key) {
  const auto v = value(key);
  return v ? std::optional(three(key, *v, true)) : std::nullopt;
}
std::optional<Vec3> Words::direction(const std::string& key) {
  const auto v = value(key);
  if (!v) return std::nullopt;
  const Vec3 d = three(key, *v, false);
  if (!(norm(d) > 0)) fail("'" + key + "' is no direction", "write " + key + " = (1, 0, 0)");
  return unit(d);
}

std::vector<std::string> Words::list(const std::string& key) {
  const auto v = value(key);
  return v ? split(*v, '|') : std::vector<std::string>();
}

std::optional<std::pair<double, double>> Words::range(const std::string& key) {
  const auto v = value(key);
  if (!v) return std::nullopt;
  const std::size_t dots = v->find("..");
  const auto least = plain_number(trimmed(v->substr(0, dots))),
             most = dots == std::string::npos ? std::nullopt
                                              : plain_number(trimmed(v->substr(dots + 2)));
  if (!least || !most)
    fail("'" + key + "' is '" + *v + "', which is no range", "write " + key + " = -1..1");
  if (!(*least < *most))
    fail("the range of '" + key + "' is empty or inverted", "write the smaller end first");
  return std::pair{*least, *most};
}

std::vector<std::string> Words::others() { return std::exchange(words_, {}); }

void Words::finish() {
  const std::vector<std::string> known(asked_.begin(), asked_.end());
  const auto refuse = [&](const std::string& wrong) {
    fail("'" + wrong + "' is not known here",
         fmt::format("did you mean '{}'? Known: {}", nearest_word(wrong, known),
                     fmt::join(known, ", ")));
  };
  for (const auto& [key, v] : values_)
    if (!used_.count(key)) refuse(key);
  for (const std::string& w : words_) refuse(w);
}

}  // namespace dunefield
