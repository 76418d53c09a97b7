// A file to be read: taken into memory whole, given back page by page, split into words and lines.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace dunefield {

class InputFile {
 public:
  /// @throw InputError when there is no such file, it is a folder, cannot be opened or is empty
  explicit InputFile(const std::filesystem::path& file);
  ~InputFile();
  InputFile(const InputFile&) = delete;
  InputFile& operator=(const InputFile&) = delete;

  std::string_view bytes() const { return bytes_; }
  const std::filesystem::path& path() const { return path_; }
  /// What lies before `position` will not be read again: its memory is given back.
  void release_before(std::size_t position);

 private:
  std::filesystem::path path_;
  std::string_view bytes_;
  std::size_t released_ = 0;
};

/// Walks through the words of a text, counting lines.
class TextScanner {
 public:
  /// @param first where in the file to start, @param line number of the line there
  explicit TextScanner(InputFile& file, std::size_t first = 0, int line = 1);

  /// The next word, over line ends; empty at the end of the file.
  std::string_view word();
  /// The next word of this line; empty at its end.
  std::string_view word_of_line();
  /// What is left of this line, without blanks around it.
  std::string_view rest_of_line();
  /// Goes to the start of the next line; false at the end of the file.
  bool next_line();
  /// Reads a word as a number. @throw InputError, with a hint for decimal commas
  double number(std::string_view word) const;
  /// Reads a word as a whole number. @throw InputError
  long long whole_number(std::string_view word) const;
  [[noreturn]] void fail(
      const std::string& what,
      const std::string& advice = "it is truncated or damaged: export it again") const;

  std::size_t position() const { return static_cast<std::size_t>(p_ - file_->bytes().data()); }
  int line() const { return line_; }

 private:
  const char* line_end() const;
  InputFile* file_;
  const char* p_;
  const char* end_;
  int line_;
};

/// A word from a file, made fit for a message.
std::string shown(std::string_view word);
/// Text from a file, made safe to print and store: valid UTF-8, no control characters (each such
/// byte becomes its hexadecimal number), at most 200 bytes.
std::string safe_text(std::string_view raw);

}  // namespace dunefield
