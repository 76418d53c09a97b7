#include "console.hpp"

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <string_view>

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

namespace dunefield::tool {
namespace {

/// Columns a text takes on a terminal: bytes that start a UTF-8 character, colours left out.
std::size_t columns(std::string_view text) {
  std::size_t n = 0;
  bool colour = false;
  for (const unsigned char c : text) {
    colour = colour || c == '\033';
    n += !colour && (c & 0xC0) != 0x80;
    colour = colour && c != 'm';
  }
  return n;
}

/// Columns of the terminal behind a stream; very many where there is none.
std::size_t width_of(int stream) {
  winsize size{};
  const bool known = isatty(stream) && ioctl(stream, TIOCGWINSZ, &size) == 0 && size.ws_col > 0;
  return known ? size.ws_col : std::size_t(-1);
}

/// Broken between words, what follows standing under the text behind the label.
std::string wrapped(const std::string& text, std::size_t width) {
  constexpr std::size_t label = 11, least = 30;
  if (width < label + least || columns(text) <= width) return text;
  std::string out;
  std::size_t used = 0;
  for (std::size_t i = 0; i < text.size();) {
    const std::size_t word = std::min(text.find_first_not_of(' ', i), text.size()),
                      end = std::min(text.find(' ', word), text.size()),
                      needed = columns(std::string_view(text).substr(i, end - i));
    if (used > label && used + needed > width) {
      out += '\n' + std::string(label, ' '), used = label;
      i = word;
      continue;
    }
    out.append(text, i, end - i), used += needed;
    i = end;
  }
  return out;
}

/// Its first columns.
std::string cut(const std::string& text, std::size_t width) {
  std::size_t bytes = text.size();
  while (bytes > 0 && columns(std::string_view(text).substr(0, bytes)) > width) --bytes;
  return text.substr(0, bytes);
}

std::atomic<bool> lost = false;  // something of what standard output should have

/// A reader that has seen enough (`| head`) is no failure.
void note_failure() {
  if (errno != EPIPE) lost = true;
}

/// Never throws: a log on a full disk must not end a run.
void put(std::FILE* to, const std::string& text) {
  if (std::fwrite(text.data(), 1, text.size(), to) != text.size() && to == stdout) note_failure();
}

}  // namespace

Console::Console(ConsoleOptions options) : options_(options), terminal_(isatty(STDERR_FILENO)) {
  if (std::getenv("NO_COLOR") || !isatty(STDOUT_FILENO)) options_.colour = false;
}

std::string Console::painted(const std::string& text, const char* code) const {
  return options_.colour ? fmt::format("\033[{}m{}\033[0m", code, text) : text;
}

void Console::line(const std::string& text) { print(wrapped(text, width_of(STDOUT_FILENO))); }

void Console::data(const std::string& text) {
  if (options_.json || !options_.speaks) return;
  progress("", true);
  put(stdout, text);
}

void Console::print(const std::string& text) {
  if (options_.json || !options_.speaks) return;
  progress("", true);
  put(stdout, text + "\n");
  if (std::fflush(stdout) != 0) note_failure();
}

void Console::heading(const std::string& text) { line(painted(text, "1")); }

void Console::show(const Findings& findings) {
  for (const Finding& f : findings)
    line(f.level == Finding::Level::warning ? painted("warning    ", "33") + f.text
                                            : "note       " + f.text);
}

void Console::show_briefly(const Findings& findings, const std::string& advice) {
  if (options_.notes) return show(findings);
  constexpr int most = 5;
  int warnings = 0, notes = 0;
  for (const Finding& f : findings) {
    if (f.level == Finding::Level::note)
      ++notes;
    else if (++warnings <= most)
      line(painted("warning    ", "33") + f.text);
  }
  if (warnings > most)
    line(painted("warning    ", "33") + fmt::format("{} more; {}", warnings - most, advice));
  if (notes > 0) line(fmt::format("notes      {}; {}", notes, advice));
}

void Console::verdict(const std::string& text, Meaning meaning) {
  line(meaning == Meaning::good  ? painted(text, "32")
       : meaning == Meaning::bad ? painted(text, "31")
                                 : text);
}

void Console::show_aside(const Findings& findings) {
  if (!options_.speaks) return;
  for (const Finding& f : findings)
    put(stderr,
        fmt::format("{} {}\n", f.level == Finding::Level::warning ? "warning" : "note", f.text));
}

void Console::progress(const std::string& text, bool last) {
  if (!options_.speaks) return;
  if (last && text.empty()) {
    if (open_line_) put(stderr, "\r\033[K"), std::fflush(stderr);
    open_line_ = false;
    return;
  }
  const auto now = std::chrono::steady_clock::now();
  const double since = std::chrono::duration<double>(now - last_).count();
  if (terminal_) {
    if (since < 0.1 && !last) return;
    // A longer one would leave its first row behind when it is renewed.
    put(stderr, "\r\033[K" + cut(text, width_of(STDERR_FILENO) - 1));
    open_line_ = true;
  } else {
    if (since < 10 && !last) return;
    put(stderr, text + "\n");
  }
  std::fflush(stderr);
  last_ = now;
}

void Console::error(const std::string& text) {
  progress("", true);
  const bool colour = options_.colour && terminal_;
  put(stderr, fmt::format("{} {}\n", colour ? "\033[31merror\033[0m" : "error", text));
}

bool output_is_whole() {
  if (std::fflush(stdout) != 0) note_failure();
  return !lost;
}

void Console::json(const std::string& text) {
  progress("", true);
  if (options_.json && options_.speaks) put(stdout, text + "\n");
}

void Console::table(const std::vector<std::vector<std::string>>& rows) {
  std::vector<std::size_t> width;
  for (const auto& row : rows)
    for (std::size_t i = 0; i < row.size(); ++i) {
      if (i == width.size()) width.push_back(0);
      width[i] = std::max(width[i], columns(row[i]));
    }
  for (std::size_t r = 0; r < rows.size(); ++r) {
    std::string text;
    for (std::size_t i = 0; i < rows[r].size(); ++i) {
      const std::string pad(width[i] - columns(rows[r][i]), ' ');
      text += (i ? "  " : "") + (i ? pad + rows[r][i] : rows[r][i] + pad);
    }
    print(r == 0 ? painted(text, "1") : text);
  }
}

std::string clock_time(double seconds) {
  const int s = static_cast<int>(seconds + 0.5);
  return s >= 3600 ? fmt::format("{}:{:02}:{:02}", s / 3600, s / 60 % 60, s % 60)
                   : fmt::format("{}:{:02}", s / 60, s % 60);
}

}  // namespace dunefield::tool
