#include <dunefield/geometry/files/input_file.hpp>

#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstring>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr std::size_t release_step = std::size_t{32} << 20;

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\v' || c == '\f'; }

bool read_whole(int handle, char* to, std::size_t size) {
  for (std::size_t done = 0; done < size;) {
    const ssize_t got = read(handle, to + done, size - done);
    if (got <= 0) return false;
    done += static_cast<std::size_t>(got);
  }
  return true;
}

/// Bytes of the UTF-8 character at the start of `s`, or 0 if there is none.
std::size_t utf8_length(std::string_view s) {
  const auto byte = [&](std::size_t i) {
    return i < s.size() ? static_cast<unsigned char>(s[i]) : 0u;
  };
  const auto tail = [&](std::size_t i) { return (byte(i) & 0xC0) == 0x80; };
  const unsigned c = byte(0);
  if (c < 0x80) return 1;
  if (c >= 0xC2 && c < 0xE0 && tail(1)) return 2;
  if (c >= 0xE0 && c < 0xF0 && tail(1) && tail(2) && !(c == 0xE0 && byte(1) < 0xA0) &&
      !(c == 0xED && byte(1) >= 0xA0))
    return 3;
  if (c >= 0xF0 && c < 0xF5 && tail(1) && tail(2) && tail(3) && !(c == 0xF0 && byte(1) < 0x90) &&
      !(c == 0xF4 && byte(1) >= 0x90))
    return 4;
  return 0;
}

}  // namespace

InputFile::InputFile(const std::filesystem::path& file) : path_(file) {
  struct stat status {};
  if (stat(file.c_str(), &status) != 0) {
    if (errno == EACCES)
      throw InputError("cannot be reached", file.string(), "check the permissions of its folder");
    throw InputError("there is no such file", file.string(), "check the path");
  }
  if (!S_ISREG(status.st_mode))
    throw InputError(S_ISDIR(status.st_mode) ? "is a folder" : "is not a file", file.string(),
                     "name a surface file");
  if (status.st_size == 0) throw InputError("is empty", file.string(), "export the surface again");
  const int handle = open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (handle < 0) throw InputError("cannot be opened", file.string(), "check its permissions");
  const auto size = static_cast<std::size_t>(status.st_size);
  // Memory of our own, not the file's: one that shrinks while it is read would end the process.
  void* memory = mmap(nullptr, size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
  const bool whole = memory != MAP_FAILED && read_whole(handle, static_cast<char*>(memory), size);
  close(handle);
  if (memory == MAP_FAILED) throw InputError("cannot be read", file.string(), std::strerror(errno));
  bytes_ = {static_cast<const char*>(memory), size};
  if (whole) return;
  munmap(memory, size);
  throw InputError("could not be read to its end", file.string(),
                   "it may be being written: try again when it is whole");
}

InputFile::~InputFile() { munmap(const_cast<char*>(bytes_.data()), bytes_.size()); }

void InputFile::release_before(std::size_t position) {
  if (position < released_ + release_step) return;
  const std::size_t to = position / 4096 * 4096;
  madvise(const_cast<char*>(bytes_.data()) + released_, to - released_, MADV_DONTNEED);
  released_ = to;
}

TextScanner::TextScanner(InputFile& file, std::size_t first, int line)
    : file_(&file),
      p_(file.bytes().data() + first),
      end_(file.bytes().data() + file.bytes().size()),
      line_(line) {}

std::string_view TextScanner::word() {
  for (;;) {
    const std::string_view w = word_of_line();
    if (!w.empty() || !next_line()) return w;
  }
}

std::string_view TextScanner::word_of_line() {
  while (p_ < end_ && is_blank(*p_)) ++p_;
  const char* from = p_;
  while (p_ < end_ && *p_ != '\n' && !is_blank(*p_)) ++p_;
  return {from, static_cast<std::size_t>(p_ - from)};
}

std::string_view TextScanner::rest_of_line() {
  while (p_ < end_ && is_blank(*p_)) ++p_;
  const char* from = p_;
  p_ = line_end();
  const char* to = p_;
  while (to > from && is_blank(to[-1])) --to;
  return {from, static_cast<std::size_t>(to - from)};
}

const char* TextScanner::line_end() const {
  const std::string_view left = file_->bytes().substr(position());
  return p_ + std::min(left.find('\n'), left.size());
}

bool TextScanner::next_line() {
  p_ = line_end();
  if (p_ == end_) return false;
  ++p_;
  ++line_;
  if ((line_ & 0xFFFF) == 0) file_->release_before(position());
  return true;
}

double TextScanner::number(std::string_view w) const {
  std::string_view digits = w;
  if (!digits.empty() && digits.front() == '+') digits.remove_prefix(1);
  double value = 0;
  const auto [end, status] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (status == std::errc::result_out_of_range)
    return digits.find("e-") != digits.npos || digits.find("E-") != digits.npos ? 0.0 : HUGE_VAL;
  if (status != std::errc() || end != digits.data() + digits.size()) {
    if (w.find(',') != w.npos)
      fail(fmt::format("'{}' is not a number: it has a comma", shown(w)),
           "export the file with decimal points");
    fail(fmt::format("expected a number, found {}", w.empty() ? shown(w) : "'" + shown(w) + "'"));
  }
  return value;
}

long long TextScanner::whole_number(std::string_view w) const {
  std::string_view digits = w;
  if (!digits.empty() && digits.front() == '+') digits.remove_prefix(1);
  long long value = 0;
  const auto [end, status] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (status != std::errc() || end != digits.data() + digits.size())
    fail(fmt::format("expected a whole number, found {}",
                     w.empty() ? shown(w) : "'" + shown(w) + "'"));
  return value;
}

void TextScanner::fail(const std::string& what, const std::string& advice) const {
  throw InputError(what, fmt::format("{}:{}", file_->path().string(), line_), advice);
}

std::string shown(std::string_view word) {
  return word.empty() ? "the end of the line or file" : safe_text(word.substr(0, 40));
}

std::string safe_text(std::string_view raw) {
  constexpr std::size_t longest = 200;
  std::string out;
  while (!raw.empty() && out.size() < longest) {
    const std::size_t n = utf8_length(raw);
    const auto c = static_cast<unsigned char>(raw[0]);
    const bool control = n <= 1 && (c < 0x20 || c == 0x7F);
    const bool late_control = n == 2 && c == 0xC2 && static_cast<unsigned char>(raw[1]) < 0xA0;
    if (n == 0 || control) {
      out += fmt::format("\\x{:02X}", c);
      raw.remove_prefix(1);
    } else if (late_control) {
      out += fmt::format("\\x{:02X}", static_cast<unsigned char>(raw[1]));
      raw.remove_prefix(2);
    } else {
      out += raw.substr(0, n);
      raw.remove_prefix(n);
    }
  }
  return out;
}

}  // namespace dunefield
