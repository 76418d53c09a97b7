// Hashes of 128 bits: equal ones mean equal contents.
#pragma once

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace dunefield {

/// XXH3 with 128 bits (Collet 2019), fed piece by piece.
class Hash {
 public:
  Hash();
  ~Hash();
  Hash(const Hash&) = delete;
  Hash& operator=(const Hash&) = delete;

  Hash& add(std::span<const std::byte> bytes);
  Hash& add(std::string_view text);
  template <class T>
  Hash& add(const std::vector<T>& values) {
    return add(std::as_bytes(std::span(values)));
  }
  /// Of all that was added so far.
  std::array<std::uint64_t, 2> value() const;
  /// The same as 32 hexadecimal digits.
  std::string hex() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// Of a file's content. @throw InputError when it cannot be read
std::string hash_of_file(const std::filesystem::path& file);

}  // namespace dunefield
