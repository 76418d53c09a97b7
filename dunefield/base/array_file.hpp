// Named arrays in one binary file, each with its checksum: what must come back to the last bit, and
// fast. The layout is described in docs/reference/records.md.
#pragma once

#include <cstdint>
#include <filesystem>
#include <fstream>
#include <map>
#include <span>
#include <string>
#include <vector>

#include <dunefield/base/fresh_file.hpp>

namespace dunefield {

/// Writes beside the file; `finish` puts it in place.
class ArrayFileWriter {
 public:
  /// @throw OutputError
  explicit ArrayFileWriter(const std::filesystem::path& file);
  template <class T>
  void put(const std::string& name, const std::vector<T>& values) {
    put_bytes(name, sizeof(T), std::as_bytes(std::span(values)));
  }
  /// @throw OutputError
  void finish();

 private:
  void put_bytes(const std::string& name, std::size_t element, std::span<const std::byte> bytes);

  FreshFile file_;
};

class ArrayFileReader {
 public:
  /// Reads what arrays there are. @throw InputError for what is no such file or is cut short
  explicit ArrayFileReader(const std::filesystem::path& file);
  bool has(const std::string& name) const { return entries_.count(name) > 0; }
  /// @throw InputError when there is none, or it was altered
  template <class T>
  std::vector<T> take(const std::string& name) {
    std::vector<T> values(count(name, sizeof(T)));
    take_bytes(name, std::as_writable_bytes(std::span(values)));
    return values;
  }

 private:
  struct Entry {
    std::uint64_t element, count, place;
  };
  std::size_t count(const std::string& name, std::size_t element) const;
  void take_bytes(const std::string& name, std::span<std::byte> bytes);
  [[noreturn]] void fail(const std::string& how) const;

  std::filesystem::path file_;
  std::ifstream in_;
  std::map<std::string, Entry> entries_;
};

}  // namespace dunefield
