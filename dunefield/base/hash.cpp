#include <dunefield/base/hash.hpp>

#include <fstream>

#include <fmt/format.h>
#include <xxhash.h>

#include <dunefield/base/error.hpp>

namespace dunefield {

struct Hash::State {
  XXH3_state_t* xxh = XXH3_createState();
  State() { XXH3_128bits_reset(xxh); }
  ~State() { XXH3_freeState(xxh); }
  State(const State&) = delete;
  State& operator=(const State&) = delete;
};

Hash::Hash() : state_(std::make_unique<State>()) {}
Hash::~Hash() = default;

Hash& Hash::add(std::span<const std::byte> bytes) {
  XXH3_128bits_update(state_->xxh, bytes.data(), bytes.size());
  return *this;
}

Hash& Hash::add(std::string_view text) { return add(std::as_bytes(std::span(text))); }

std::array<std::uint64_t, 2> Hash::value() const {
  const XXH128_hash_t h = XXH3_128bits_digest(state_->xxh);
  return {h.high64, h.low64};
}

std::string Hash::hex() const {
  const auto [high, low] = value();
  return fmt::format("{:016x}{:016x}", high, low);
}

std::string hash_of_file(const std::filesystem::path& file) {
  std::ifstream in(file, std::ios::binary);
  if (!in) throw InputError("cannot be read", file.string(), "check the path and its rights");
  Hash hash;
  std::vector<char> block(1 << 20);
  while (in.read(block.data(), static_cast<std::streamsize>(block.size())) || in.gcount() > 0)
    hash.add(std::string_view(block.data(), static_cast<std::size_t>(in.gcount())));
  return hash.hex();
}

}  // namespace dunefield
