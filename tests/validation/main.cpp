// Runs the validation cases and prints their figures beside the references:
//   build/release/bin/validation [case ...] [--list], or [--write docs/validation.md]
#include <chrono>
#include <cstdio>
#include <fstream>
#include <iostream>
#include <sstream>

#include <fmt/format.h>
#include <CLI/CLI.hpp>

#include "validation.hpp"

namespace {

using namespace dunefield::validation;

constexpr const char *begin_mark = "<!-- measured: begin -->\n",
                     *end_mark = "<!-- measured: end -->\n";

std::string table_rows(const Case& c, const Result& result, double seconds) {
  std::string text;
  for (const Row& r : result.rows) {
    const std::string band =
        r.band > 0 ? fmt::format("{:.3g} %{}", 100 * r.band,
                                 r.scale > 0 ? fmt::format(" of {:.3g}", r.scale) : "")
                   : "reported";
    const std::string verdict = r.band > 0 ? (r.within() ? "within" : "**out of band**") : "-";
    text += fmt::format(
        "| {} | {} | {:.5g} | {} | {:.5g} | {:+.2f} % | {} | {} cells, {} iterations, {:.0f} s |\n",
        c.title, r.quantity, r.reference, band, r.got, 100 * r.off(), verdict, result.cells,
        result.iterations, seconds);
  }
  return text;
}

/// Replaces what stands between the marks of a file.
void write_between_marks(const std::string& file, const std::string& table) {
  std::stringstream all;
  all << std::ifstream(file).rdbuf();
  std::string text = all.str();
  const auto first = text.find(begin_mark), last = text.find(end_mark);
  if (first == std::string::npos || last == std::string::npos)
    throw std::runtime_error(file + " has no marks between which the table goes");
  const auto from = first + std::string(begin_mark).size();
  std::ofstream(file) << text.replace(from, last - from, table);
}

}  // namespace

int main(int count, char** words) {
  std::vector<std::string> names;
  std::string file;
  bool list = false;
  CLI::App app{
      "Flows with reference results from the literature, for example: validation cylinder-40 "
      "channel-1000"};
  std::vector<Case> cases;
  for (auto group :
       {laminar_cases(), channel_cases(), plate_cases(), step_cases(), aerofoil_cases(),
        tandem_cases(), unsteady_cases(), decay_cases(), wheel_cases(), section_cases()})
    cases.insert(cases.end(), group.begin(), group.end());
  std::vector<std::string> known;
  for (const Case& c : cases) known.push_back(c.name);
  CLI::Option* which =
      app.add_option("cases", names, "which (default: all)")->check(CLI::IsMember(known));
  app.add_flag("--list", list, "only list them");
  app.add_flag("--trace", trace, "print what is watched as it settles");
  app.add_option("--write", file, "put the table of all cases into this file, between its marks")
      ->excludes(which);
  CLI11_PARSE(app, count, words);
  std::string table =
      "| case | quantity | reference | band | got | off | | how |\n| --- | --- | --- | --- | --- | "
      "--- | --- | --- |\n";
  bool all_within = true;
  fmt::print("{}", table);
  for (const Case& c : cases) {
    if (!names.empty() && std::find(names.begin(), names.end(), c.name) == names.end()) continue;
    if (list) {
      fmt::print("{}: {}\n", c.name, c.title);
      continue;
    }
    const auto start = std::chrono::steady_clock::now();
    try {
      const Result result = c.run();
      const std::string rows = table_rows(
          c, result,
          std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
      for (const Row& r : result.rows) all_within = all_within && (r.band == 0 || r.within());
      table += rows;
      fmt::print("{}", rows);
    } catch (const std::exception& e) {
      all_within = false;
      fmt::print("| {} | failed: {} | | | | | | |\n", c.title, e.what());
    }
    std::fflush(stdout);
  }
  if (!file.empty() && !list) write_between_marks(file, table);
  return all_within ? 0 : 1;
}
