// A small campaign whose process is killed, or whose file calls fail, at every change of a file;
// the same command then ends it. The table must be the same every time:
//   build/release/bin/faults            # all of them: most of an hour
//   build/release/bin/faults --every 40
#include <cstdio>
#include <string>

#include <fmt/format.h>
#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

#include <dunefield/base/text_file.hpp>
#include <tests/support/process.hpp>
#include <tests/tool/brick.hpp>

namespace dunefield::test {
namespace {

namespace fs = std::filesystem;

/// The figures that a campaign's runs leave, as one text; a run that is missing has none.
std::string table_of(const std::string& campaign) {
  const auto list = nlohmann::json::parse(tool("list " + campaign + " --json").out, nullptr, false);
  std::string all;
  for (const auto& run : list.is_object() ? list.value("runs", nlohmann::json::array()) : list)
    for (const char* key : {"variant", "speed_m_s", "status", "CD", "CL", "iterations"})
      all += run.value(key, nlohmann::json()).dump() + (key[0] == 'i' ? "\n" : " ");
  return all;
}

struct Campaign {
  TemporaryFolder folder;
  std::string file = brick_campaign(folder);
  std::string run(const std::string& fault) const {
    const ProcessResult r = shell((fault.empty() ? "" : "DUNEFIELD_FAULT=" + fault + " ") +
                                  DUNEFIELD_TOOL + " run " + file + " --no-report");
    return fmt::format("exit {} {}", r.exit_code, r.err);
  }
};

/// @return whether the table was the same
bool survives(const std::string& fault, const std::string& wanted) {
  const Campaign c;
  const std::string first = c.run(fault), second = c.run("");
  if (table_of(c.file) == wanted) return true;
  fmt::print("{}: WRONG\n{}\nthen {}\nhas\n{}\nfor\n{}\n", fault, first, second, table_of(c.file),
             wanted);
  return false;
}

int all(int every) {
  const Campaign whole;
  const auto count = whole.folder / "count";
  whole.run("count:" + count.string());
  const std::string wanted = table_of(whole.file);
  const int calls = std::stoi(read_text(count));
  fmt::print("{} changes of files; the table is\n{}", calls, wanted);
  int wrong = std::count(wanted.begin(), wanted.end(), '\n') != 4;
  for (const char* kind : {"kill", "fail"})
    for (int i = 1 + every / 2; i <= calls; i += every) {
      wrong += !survives(fmt::format("{}:{}", kind, i), wanted);
      std::fflush(stdout);
    }
  fmt::print("{} wrong\n", wrong);
  return wrong > 0;
}

}  // namespace
}  // namespace dunefield::test

int main(int argc, char** argv) {
  int every = 1;
  CLI::App app("Kill or fail a campaign at its changes of files.");
  app.add_option("--every", every, "only each Nth of them")->check(CLI::PositiveNumber);
  CLI11_PARSE(app, argc, argv);
  return dunefield::test::all(every);
}
