#include <dunefield/base/array_file.hpp>

#include <array>

#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

constexpr char magic[] = "dunefield arrays 1\n";
constexpr std::size_t magic_size = sizeof magic - 1, checksum_size = 16;

template <class T>
void write(std::ofstream& out, const T& value) {
  out.write(reinterpret_cast<const char*>(&value), sizeof value);
}
template <class T>
bool read(std::ifstream& in, T& value) {
  return static_cast<bool>(in.read(reinterpret_cast<char*>(&value), sizeof value));
}

}  // namespace

ArrayFileWriter::ArrayFileWriter(const fs::path& file) : file_(file) {
  file_.out().write(magic, magic_size);
}

void ArrayFileWriter::put_bytes(const std::string& name, std::size_t element,
                                std::span<const std::byte> bytes) {
  std::ofstream& out = file_.out();
  write(out, static_cast<std::uint64_t>(name.size()));
  out.write(name.data(), static_cast<std::streamsize>(name.size()));
  write(out, static_cast<std::uint64_t>(element));
  write(out, static_cast<std::uint64_t>(bytes.size() / element));
  out.write(reinterpret_cast<const char*>(bytes.data()),
            static_cast<std::streamsize>(bytes.size()));
  write(out, Hash().add(bytes).value());
}

void ArrayFileWriter::finish() { file_.place(); }

ArrayFileReader::ArrayFileReader(const fs::path& file) : file_(file), in_(file, std::ios::binary) {
  std::error_code status;
  const std::uint64_t size = fs::file_size(file, status);
  if (status || !in_) fail("is missing or cannot be read");
  std::string head(magic_size, ' ');
  if (!in_.read(head.data(), magic_size) || head != magic) fail("is no file of arrays");
  for (std::uint64_t place = magic_size; place < size;) {
    std::uint64_t length = 0;
    Entry e{};
    if (!read(in_, length) || length > 1000) fail("is damaged");
    std::string name(length, ' ');
    in_.read(name.data(), static_cast<std::streamsize>(length));
    if (!read(in_, e.element) || !read(in_, e.count)) fail("is cut short");
    e.place = place + 3 * sizeof(std::uint64_t) + length;
    const std::uint64_t left = size - std::min(size, e.place);
    if (e.element == 0 || e.count > left / e.element || e.count * e.element + checksum_size > left)
      fail("is cut short");
    place = e.place + e.count * e.element + checksum_size;
    in_.seekg(static_cast<std::streamoff>(place));
    entries_[name] = e;
  }
}

std::size_t ArrayFileReader::count(const std::string& name, std::size_t element) const {
  const auto e = entries_.find(name);
  if (e == entries_.end()) fail("lacks '" + name + "'");
  if (e->second.element != element) fail("holds '" + name + "' in another form");
  return e->second.count;
}

void ArrayFileReader::take_bytes(const std::string& name, std::span<std::byte> bytes) {
  in_.seekg(static_cast<std::streamoff>(entries_.at(name).place));
  std::array<std::uint64_t, 2> checksum{};
  if (!in_.read(reinterpret_cast<char*>(bytes.data()),
                static_cast<std::streamsize>(bytes.size())) ||
      !read(in_, checksum))
    fail("is cut short");
  if (checksum != Hash().add(bytes).value()) fail("was altered in '" + name + "'");
}

void ArrayFileReader::fail(const std::string& how) const {
  throw InputError(how, file_.string(), "run that case again");
}

}  // namespace dunefield
