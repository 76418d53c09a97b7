// What a person sees: a progress line that renews itself, warnings, tables. JSON goes to standard
// output alone.
#pragma once

#include <chrono>
#include <string>
#include <vector>

#include <dunefield/base/display_units.hpp>
#include <dunefield/base/findings.hpp>

namespace dunefield::tool {

struct ConsoleOptions {
  bool json = false;   ///< nothing but JSON on standard output
  bool colour = true;  ///< off with --plain, NO_COLOR, or when the output is no terminal
  DisplayUnits units;  ///< of tables, where no campaign file says otherwise
  bool notes = false;  ///< every note, where otherwise they are counted
  bool speaks = true;  ///< false on all MPI ranks but the first
};

class Console {
 public:
  explicit Console(ConsoleOptions options);

  /// On a terminal broken between words.
  void line(const std::string& text = "");
  void heading(const std::string& text);
  void show(const Findings& findings);
  /// Warnings, the first five of them, and how many notes there are. @param advice how to see all
  void show_briefly(const Findings& findings, const std::string& advice);
  /// A conclusion, in the colour of what it means.
  enum class Meaning { good, bad, open };
  void verdict(const std::string& text, Meaning meaning);
  /// On standard error, where the output is for other programs.
  void show_aside(const Findings& findings);
  /// For other programs: to the letter.
  void data(const std::string& text);
  /// A line that replaces the one before on a terminal; elsewhere it is printed now and then.
  void progress(const std::string& text, bool last = false);
  void error(const std::string& text);
  /// The one JSON document of a command.
  void json(const std::string& text);
  /// Columns right-aligned but the first; the first row is the heading.
  void table(const std::vector<std::vector<std::string>>& rows);
  bool wants_json() const { return options_.json; }
  const DisplayUnits& units() const { return options_.units; }
  void set_units(const DisplayUnits& units) { options_.units = units; }

 private:
  void print(const std::string& text);
  std::string painted(const std::string& text, const char* code) const;
  ConsoleOptions options_;
  bool terminal_;
  bool open_line_ = false;
  std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

/// Whether all that went to standard output got there, or its reader wanted no more.
bool output_is_whole();

/// 75 -> "1:15"
std::string clock_time(double seconds);

}  // namespace dunefield::tool
