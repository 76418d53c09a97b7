// What the user typed.
#pragma once

#include <string>
#include <vector>

#include <CLI/CLI.hpp>

#include "commands.hpp"

namespace dunefield::tool {

struct Arguments {
  bool json = false, plain = false, notes = false;
  int ranks = 0, port = 0;
  InspectOptions inspect;
  MendArguments mend;
  std::vector<std::string> files;
  SurfaceArguments surface;
  WantedRuns wanted;
  std::string campaign, variant, into, folder, time_limit, demo_folder = "dunefield-demo",
                                                           vehicle = "marram";
  ListArguments list;
  LookArguments look;
  WatchOptions watch;
  SensitivityArguments sensitivity;
  std::vector<std::string> explored;  ///< runs or campaigns of the page to look at
  bool open = false;                  ///< in the browser
  std::vector<std::string> wants, recipes = {"sketch", "scout", "standard"};
  std::string at_speed, runs_folder, shell, units;
  bool only_files = false, cgns = false, cluster = false, again = false, report = true;
};

/// Tells the parser all commands and options; their values go into `arguments`, which must outlive
/// it.
void add_commands(CLI::App& app, Arguments& arguments);

/// A script that completes commands and options in "bash", "zsh" or "fish". @throw InputError
std::string completion(const CLI::App& app, const std::string& shell);
/// The manual in troff's words.
std::string man_page(const CLI::App& app, const std::string& version);

}  // namespace dunefield::tool
