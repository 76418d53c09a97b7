// Damage of every kind to the bytes of a file, the same each time.
#pragma once

#include <gtest/gtest.h>

#include <cstdint>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <random>
#include <string>

#include <dunefield/base/error.hpp>
#include <dunefield/base/text_file.hpp>

namespace dunefield::test {

/// One or more of: a bit turned, a number put at the limits of its type, bytes left out, doubled or
/// cut off at the end, a digit changed.
inline std::string damaged(std::string bytes, std::uint64_t number) {
  std::mt19937_64 random(number);
  const auto below = [&](std::size_t n) { return n > 0 ? random() % n : 0; };
  for (std::size_t blows = 1 + below(3); blows > 0 && bytes.size() > 16; --blows) {
    const std::size_t place = below(bytes.size() - 8);
    switch (below(7)) {
      case 0: bytes[place] = static_cast<char>(bytes[place] ^ (1 << below(8))); break;
      case 1: {
        static constexpr std::uint64_t limits[] = {
            0, ~0ull, 1ull << 63, (1ull << 63) - 1, 1ull << 31, (1ull << 31) - 1, 1ull << 32};
        const std::uint64_t value = limits[below(std::size(limits))];
        std::memcpy(&bytes[place / 4 * 4], &value, below(2) ? 8 : 4);
        break;
      }
      case 2: bytes.resize(place + 8); break;
      case 3: bytes.erase(place, 1 + below(64)); break;
      case 4: bytes.insert(place, bytes.substr(below(bytes.size() - 8), 1 + below(64))); break;
      case 5: bytes.insert(place, below(2) ? "-" : "99999999999999999999"); break;
      default: {
        const std::size_t digit = bytes.find_first_of("0123456789", place);
        if (digit != std::string::npos) bytes[digit] = static_cast<char>('0' + below(10));
      }
    }
  }
  return bytes;
}

/// The reader takes a file's damaged forms or refuses them in one line; nothing else happens.
template <class Read>
void expect_taken_or_refused(const Read& read, const std::filesystem::path& file, int rounds) {
  const std::string whole = read_text(file);
  int refused = 0;
  for (int i = 0; i < rounds; ++i) {
    std::ofstream(file, std::ios::binary) << damaged(whole, static_cast<std::uint64_t>(i));
    try {
      read();
    } catch (const InputError& e) {
      ++refused;
      EXPECT_EQ(std::string(e.what()).find('\n'), std::string::npos) << "round " << i;
    } catch (const std::exception& e) {
      ADD_FAILURE() << "round " << i << " ends in " << e.what();
    }
  }
  EXPECT_GT(refused, 0);
  write_text(file, whole);
}

}  // namespace dunefield::test
