// Completion of commands and options for shells, from the parser's own list.
#include "arguments.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <dunefield/base/error.hpp>

namespace dunefield::tool {
namespace {

struct CommandWords {
  std::string name, about;
  std::vector<std::string> options;
};

std::vector<std::string> options_of(const CLI::App& app) {
  std::vector<std::string> all;
  for (const CLI::Option* o : app.get_options())
    for (const std::string& name : o->get_lnames()) all.push_back("--" + name);
  return all;
}

std::vector<CommandWords> commands_of(const CLI::App& app) {
  std::vector<CommandWords> all;
  for (const CLI::App* c : app.get_subcommands([](const CLI::App*) { return true; }))
    all.push_back({c->get_name(), c->get_description(), options_of(*c)});
  return all;
}

std::string bash(const std::vector<CommandWords>& commands, const std::string& general) {
  std::string names, cases;
  for (const CommandWords& c : commands) {
    names += (names.empty() ? "" : " ") + c.name;
    cases += fmt::format("    {}) words=\"{}\" ;;\n", c.name, fmt::join(c.options, " "));
  }
  return fmt::format(
      "# source <(dunefield completion bash)\n"
      "_dunefield() {{\n"
      "  local word=${{COMP_WORDS[COMP_CWORD]}} words\n"
      "  case \"${{COMP_WORDS[1]}}\" in\n{}    *) words=\"{} {}\" ;;\n  esac\n"
      "  if [ \"$COMP_CWORD\" -eq 1 ] || [ \"${{word#-}}\" != \"$word\" ]; then\n"
      "    COMPREPLY=($(compgen -W \"$words\" -- \"$word\"))\n"
      "  else\n    COMPREPLY=()\n  fi\n}}\n"
      "complete -o default -F _dunefield dunefield\n",
      cases, names, general);
}

std::string zsh(const std::vector<CommandWords>& commands, const std::string& general) {
  return "# source <(dunefield completion zsh)\nautoload -U bashcompinit && bashcompinit\n" +
         bash(commands, general);
}

std::string fish(const std::vector<CommandWords>& commands) {
  std::string out = "# dunefield completion fish | source\n";
  for (const CommandWords& c : commands) {
    std::string about = c.about.substr(0, c.about.find_first_of(".:"));
    std::erase(about, '\'');
    out += fmt::format("complete -c dunefield -n __fish_use_subcommand -a {} -d '{}'\n", c.name,
                       about);
    for (const std::string& o : c.options)
      out += fmt::format("complete -c dunefield -n '__fish_seen_subcommand_from {}' -l {}\n",
                         c.name, o.substr(2));
  }
  return out;
}

}  // namespace

std::string completion(const CLI::App& app, const std::string& shell) {
  const std::vector<CommandWords> commands = commands_of(app);
  const std::string general = fmt::format("{}", fmt::join(options_of(app), " "));
  if (shell == "bash") return bash(commands, general);
  if (shell == "zsh") return zsh(commands, general);
  if (shell == "fish") return fish(commands);
  throw InputError("'" + shell + "' is no shell that is known", "completion",
                   "use bash, zsh or fish");
}

std::string man_page(const CLI::App& app, const std::string& version) {
  std::string out = fmt::format(
      ".TH DUNEFIELD 1 \"\" \"Dunefield {}\"\n.SH NAME\ndunefield \\- {}\n"
      ".SH SYNOPSIS\n.B dunefield\n[options] command ...\n.SH COMMANDS\n",
      version, "a numerical wind tunnel for vehicles");
  const auto plain = [](std::string text) {
    for (std::size_t i = 0; (i = text.find('-', i)) != std::string::npos; i += 2)
      text.replace(i, 1, "\\-");
    for (std::size_t i = 0; (i = text.find('\n', i)) != std::string::npos;)
      text.replace(i, 1, "\n.br\n"), i += 5;
    return text;
  };
  for (const CLI::App* c : app.get_subcommands([](const CLI::App*) { return true; })) {
    out += ".SS " + c->get_name() + "\n" + plain(c->get_description()) + "\n";
    for (const CLI::Option* o : c->get_options())
      out +=
          ".TP\n.B " + plain(o->get_name(false, true)) + "\n" + plain(o->get_description()) + "\n";
    if (!c->get_footer().empty()) out += ".PP\n" + plain(c->get_footer()) + "\n";
  }
  out += ".SH EXIT STATUS\n0 done, 1 failed, 2 wrong arguments, 3 stopped with all saved.\n";
  return out;
}

}  // namespace dunefield::tool
