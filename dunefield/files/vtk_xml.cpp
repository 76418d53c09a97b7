#include <dunefield/files/vtk_xml.hpp>

#include <algorithm>
#include <charconv>
#include <cstring>
#include <fstream>
#include <iterator>

#include <fmt/format.h>
#include <zlib.h>
#include <pugixml.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>
#include <dunefield/parallel/parallel_for.hpp>

namespace dunefield {
namespace {

template <class T>
constexpr const char* type_name = "";
template <>
constexpr const char* type_name<float> = "Float32";
template <>
constexpr const char* type_name<double> = "Float64";
template <>
constexpr const char* type_name<std::uint8_t> = "UInt8";
template <>
constexpr const char* type_name<std::int32_t> = "Int32";
template <>
constexpr const char* type_name<std::int64_t> = "Int64";

template <class T>
std::vector<T> components_of(std::span<const Vec3> vectors) {
  std::vector<T> out;
  out.reserve(3 * vectors.size());
  for (const Vec3& v : vectors)
    for (int i = 0; i < 3; ++i) out.push_back(static_cast<T>(v[i]));
  return out;
}

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '<')
      out += "&lt;";
    else if (c == '>')
      out += "&gt;";
    else if (c == '&')
      out += "&amp;";
    else if (c == '"')
      out += "&quot;";
    else
      out += c;
  }
  return out;
}

std::string packed_block(const unsigned char* bytes, std::size_t size) {
  auto bound = compressBound(static_cast<uLong>(size));
  std::string out(bound, '\0');
  compress2(reinterpret_cast<Bytef*>(out.data()), &bound, bytes, static_cast<uLong>(size), 1);
  out.resize(bound);
  return out;
}

}  // namespace

std::vector<float> coordinates(std::span<const Vec3> points) {
  return components_of<float>(points);
}
std::vector<double> exact_coordinates(std::span<const Vec3> points) {
  return components_of<double>(points);
}

template <class T>
std::string VtkWriter::add(const std::string& name, int components, const std::vector<T>& values) {
  return append(type_name<T>, name, components, values.size(),
                reinterpret_cast<const unsigned char*>(values.data()), values.size() * sizeof(T));
}
template std::string VtkWriter::add(const std::string&, int, const std::vector<float>&);
template std::string VtkWriter::add(const std::string&, int, const std::vector<double>&);
template std::string VtkWriter::add(const std::string&, int, const std::vector<std::uint8_t>&);
template std::string VtkWriter::add(const std::string&, int, const std::vector<std::int32_t>&);
template std::string VtkWriter::add(const std::string&, int, const std::vector<std::int64_t>&);

std::string VtkWriter::add(const NamedField& f) {
  return f.vector.empty() ? add(f.name, 1, std::vector<float>(f.scalar.begin(), f.scalar.end()))
                          : add(f.name, 3, components_of<float>(f.vector));
}

VtkWriter::VtkWriter(const std::filesystem::path& file)
    : file_(file),
      beside_(name_beside(file)),
      data_(beside_, std::ios::binary | std::ios::in | std::ios::out | std::ios::trunc) {
  if (!data_)
    throw OutputError("cannot be written", file.string(), "check the folder and its permissions");
}

VtkWriter::~VtkWriter() {
  std::error_code gone;
  std::filesystem::remove(beside_, gone);
}

void VtkWriter::finish(const char* type, const std::string& body) {
  FreshFile fresh(file_);
  std::ofstream& out = fresh.out();
  out << "<?xml version=\"1.0\"?>\n"
      << fmt::format(R"(<VTKFile type="{}" version="1.0" byte_order="LittleEndian" )", type)
      << "header_type=\"UInt64\" compressor=\"vtkZLibDataCompressor\">\n"
      << body << "<AppendedData encoding=\"raw\">\n_";
  data_.seekg(0);
  if (data_.peek() != std::fstream::traits_type::eof()) out << data_.rdbuf();
  data_.clear(data_.rdstate() & ~std::ios::eofbit);
  out << "\n</AppendedData>\n</VTKFile>\n";
  if (!data_)
    throw OutputError("could not be written to its end", file_.string(), "check the free space");
  fresh.place();
}

std::string VtkWriter::append(const char* type, const std::string& name, int components,
                              std::size_t count, const unsigned char* bytes, std::size_t size) {
  const std::string tag = fmt::format(R"(<DataArray type="{}" Name="{}" NumberOfComponents="{}" )",
                                      type, escaped(name), components) +
                          fmt::format("NumberOfTuples=\"{}\" format=\"appended\" offset=\"{}\"/>\n",
                                      count / static_cast<std::size_t>(components),
                                      static_cast<std::uint64_t>(data_.tellp()));
  constexpr std::size_t block = 1 << 20;
  const std::size_t blocks = (size + block - 1) / block;
  std::vector<std::uint64_t> head = {blocks, block, size % block};
  head.resize(3 + blocks);
  const auto write_head = [&] {
    data_.write(reinterpret_cast<const char*>(head.data()),
                static_cast<std::streamsize>(head.size() * sizeof(head[0])));
  };
  const auto start = data_.tellp();
  write_head();  // to be written again when the lengths of the blocks are known
  constexpr std::size_t at_once = 64;  // bounds the memory
  std::vector<std::string> packed(std::min(blocks, at_once));
  for (std::size_t first = 0; first < blocks; first += at_once) {
    const std::size_t n = std::min(at_once, blocks - first);
    parallel_for(
        n,
        [&](std::size_t i) {
          const std::size_t from = (first + i) * block;
          packed[i] = packed_block(bytes + from, std::min(block, size - from));
        },
        1);
    for (std::size_t i = 0; i < n; ++i) {
      head[3 + first + i] = packed[i].size();
      data_.write(packed[i].data(), static_cast<std::streamsize>(packed[i].size()));
    }
  }
  data_.seekp(start);
  write_head();
  data_.seekp(0, std::ios::end);
  return tag;
}

struct VtkReader::Content {
  std::string name;
  pugi::xml_document tree;
  pugi::xml_node set;    ///< the data set
  std::string appended;  ///< behind the underscore, as it stands in the file
  bool appended_coded = false;
  bool wide_heads = false, packed = false;
  mutable std::uint64_t unpacked_left = 0;  ///< bytes that all arrays may still unpack to

  [[noreturn]] void refuse(const std::string& what,
                           const std::string& advice = "write the file anew") const {
    throw InputError(what, name, advice);
  }

  [[noreturn]] void refuse_cut() const {
    refuse("an array ends early", "the file may have been cut off: copy or write it anew");
  }

  /// The tree, without the raw bytes behind it: they are no XML.
  void parse(const std::string& text) {
    const std::size_t tail = text.find("<AppendedData");
    std::string head = text.substr(0, tail);
    if (tail != std::string::npos) {
      const std::size_t end_of_tag = text.find('>', tail), start = text.find('_', end_of_tag),
                        end = text.rfind("</AppendedData>");
      if (start == std::string::npos || end == std::string::npos || end < start)
        refuse("it ends before its data do", "it may have been cut off: copy or write it anew");
      appended_coded = text.substr(tail, end_of_tag - tail).find("base64") != std::string::npos;
      appended = text.substr(start + 1, end - start - 1);
      head += "</VTKFile>";
    }
    const pugi::xml_parse_result parsed = tree.load_buffer(head.data(), head.size());
    if (!parsed)
      refuse(fmt::format("cannot be read as XML ({})", parsed.description()),
             "check that it is a whole VTK XML file");
  }

  /// Four letters for three bytes. @param used letters read, to the end of a padded group
  std::string decoded(const char* text, std::size_t size, std::size_t bytes,
                      std::size_t& used) const {
    std::string out;
    unsigned group = 0, letters = 0, fillers = 0;
    for (used = 0; used < size && (out.size() < bytes || letters > 0); ++used) {
      const char c = text[used];
      if (std::isspace(static_cast<unsigned char>(c))) continue;
      const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
      const char* digit = c == '=' ? digits : std::strchr(digits, c);
      if (!digit || c == 0) refuse("an array is not in base 64 where it should be");
      fillers += c == '=';
      group = group << 6 | static_cast<unsigned>(digit - digits);
      if (++letters < 4) continue;
      for (unsigned k = 0; k < 3 - std::min(fillers, 2u); ++k)
        out += static_cast<char>(group >> (16 - 8 * k) & 255);
      group = letters = fillers = 0;
    }
    if (out.size() < bytes) refuse_cut();
    return out;
  }

  /// Takes bytes from a stream that is coded by letters or not.
  struct Stream {
    const Content& file;
    const char* text;
    std::size_t size;
    bool coded;

    std::string take(std::size_t bytes) {
      std::size_t used = bytes;
      std::string out;
      if (coded)
        out = file.decoded(text, size, bytes, used);
      else if (bytes > size)
        file.refuse_cut();
      else
        out.assign(text, bytes);
      text += used, size -= used;
      out.resize(bytes);
      return out;
    }
    std::vector<std::uint64_t> heads(std::size_t count) {
      const std::string bytes = take(count * (file.wide_heads ? 8 : 4));
      std::vector<std::uint64_t> out(count, 0);
      for (std::size_t i = 0; i < count; ++i)
        std::memcpy(&out[i], bytes.data() + i * (file.wide_heads ? 8 : 4), file.wide_heads ? 8 : 4);
      return out;
    }
  };

  std::string binary(const char* text, std::size_t size, bool coded) const {
    Stream stream{*this, text, size, coded};
    if (!packed) {
      if (!coded) return stream.take(stream.heads(1)[0]);
      const std::size_t head = wide_heads ? 8 : 4;  // coded together with what follows
      Stream ahead = stream;
      const std::uint64_t bytes = ahead.heads(1)[0];
      if (bytes > size) refuse_cut();
      return stream.take(head + bytes).substr(head);
    }
    // Three numbers and a length for each block, coded together; then the blocks.
    Stream ahead = stream;
    const std::uint64_t blocks = ahead.heads(3)[0];
    if (blocks > size) refuse("an array says that it has more blocks than the file has bytes");
    const std::vector<std::uint64_t> head = stream.heads(3 + blocks);
    std::uint64_t total = 0;
    for (std::uint64_t b = 0; b < blocks; ++b) {
      if (head[3 + b] > size) refuse_cut();  // before a sum of such numbers wraps
      total += head[3 + b];
    }
    if (total > size) refuse_cut();
    const std::string bytes = stream.take(total);
    std::string out;
    std::size_t from = 0;
    for (std::uint64_t b = 0; b < blocks; ++b) {
      uLongf length = b + 1 == blocks && head[2] > 0 ? head[2] : head[1];
      constexpr std::uint64_t most_packed = 1100;  // zlib shrinks by no more than 1032
      if (length > most_packed * (head[3 + b] + 1))
        refuse("an array is damaged", "copy or write the file anew");
      if (length > unpacked_left)
        refuse("its arrays unpack to more than a hundred times the file", "write it unpacked");
      unpacked_left -= length;
      std::string block(length, '\0');
      if (uncompress(reinterpret_cast<Bytef*>(block.data()), &length,
                     reinterpret_cast<const Bytef*>(bytes.data()) + from, head[3 + b]) != Z_OK ||
          length != block.size())
        refuse("an array is damaged", "copy or write the file anew");
      out += block;
      from += head[3 + b];
    }
    return out;
  }

  template <class T, class Into>
  static void unpack(const std::string& bytes, std::vector<Into>& into) {
    into.resize(bytes.size() / sizeof(T));
    for (std::size_t i = 0; i < into.size(); ++i) {
      T value;
      std::memcpy(&value, bytes.data() + i * sizeof(T), sizeof(T));
      into[i] = static_cast<Into>(value);
    }
  }

  template <class Into>
  void read_text(const char* text, std::vector<Into>& into) const {
    const char* end = text + std::strlen(text);
    while (true) {
      while (text < end && std::isspace(static_cast<unsigned char>(*text))) ++text;
      if (text == end) return;
      Into value{};
      const auto [rest, error] = std::from_chars(text, end, value);
      if (error != std::errc())
        refuse(fmt::format(
            "'{}' stands where a number should",
            std::string(text, std::min<std::size_t>(12, static_cast<std::size_t>(end - text)))));
      into.push_back(value);
      text = rest;
    }
  }

  VtkArray array(const pugi::xml_node& node) const {
    VtkArray a;
    a.name = node.attribute("Name").value();
    a.components = std::max(1, node.attribute("NumberOfComponents").as_int(1));
    const std::string type = node.attribute("type").value(),
                      form = node.attribute("format").value();
    const bool real = type.rfind("Float", 0) == 0;
    if (form == "ascii") {
      real ? read_text(node.text().get(), a.reals) : read_text(node.text().get(), a.integers);
      return a;
    }
    std::string bytes;
    if (form == "appended") {
      const std::size_t offset = node.attribute("offset").as_ullong();
      if (offset >= appended.size())
        refuse(fmt::format("array '{}' begins behind the end of the data", a.name),
               "the file may have been cut off: copy or write it anew");
      bytes = binary(appended.data() + offset, appended.size() - offset, appended_coded);
    } else {
      bytes = binary(node.text().get(), std::strlen(node.text().get()), true);
    }
    if (type == "Float32")
      unpack<float>(bytes, a.reals);
    else if (type == "Float64")
      unpack<double>(bytes, a.reals);
    else if (type == "Int8")
      unpack<std::int8_t>(bytes, a.integers);
    else if (type == "UInt8")
      unpack<std::uint8_t>(bytes, a.integers);
    else if (type == "Int32")
      unpack<std::int32_t>(bytes, a.integers);
    else if (type == "UInt32")
      unpack<std::uint32_t>(bytes, a.integers);
    else if (type == "Int64" || type == "UInt64")
      unpack<std::int64_t>(bytes, a.integers);
    else
      refuse(fmt::format("array '{}' is of type {}", a.name, type), "use 32 or 64 bit numbers");
    return a;
  }
};

VtkReader::VtkReader(const std::filesystem::path& file, const char* type)
    : content_(std::make_unique<Content>()) {
  Content& c = *content_;
  c.name = file.string();
  if (!std::filesystem::is_regular_file(file)) c.refuse("there is no such file", "check the path");
  std::ifstream in(file, std::ios::binary);
  const std::string text(std::istreambuf_iterator<char>(in), {});
  constexpr std::uint64_t most_unpacked = 100, small = 64 << 20;
  c.unpacked_left = most_unpacked * text.size() + small;
  c.parse(text);
  const pugi::xml_node root = c.tree.child("VTKFile");
  if (!root) c.refuse("this is no VTK XML file", "check that it is the right one");
  c.set = root.child(type);
  if (!c.set)
    c.refuse(fmt::format("it holds a data set of type '{}'", root.attribute("type").value()),
             fmt::format("it should be of type '{}'", type));
  if (std::strcmp(root.attribute("byte_order").as_string("LittleEndian"), "LittleEndian") != 0)
    c.refuse("its numbers are in the order of another kind of processor",
             "write it with byte_order LittleEndian");
  const std::string packer = root.attribute("compressor").value();
  if (!packer.empty() && packer != "vtkZLibDataCompressor")
    c.refuse(fmt::format("it is packed by {}", packer), "write it packed by zlib, or not at all");
  c.packed = !packer.empty();
  c.wide_heads = std::strcmp(root.attribute("header_type").as_string("UInt32"), "UInt64") == 0;
  const auto pieces = c.set.children("Piece");
  if (const auto n = std::distance(pieces.begin(), pieces.end()); n != 1)
    c.refuse(fmt::format("it has {} pieces", n), "write it as one piece");
}

VtkReader::~VtkReader() = default;

std::int64_t VtkReader::number(const char* attribute) const {
  return content_->set.child("Piece").attribute(attribute).as_llong();
}

std::vector<VtkArray> VtkReader::arrays(const char* holder) const {
  pugi::xml_node node = content_->set.child("Piece").child(holder);
  if (!node) node = content_->set.child(holder);
  std::vector<VtkArray> arrays;
  for (const pugi::xml_node& child : node.children("DataArray"))
    arrays.push_back(content_->array(child));
  return arrays;
}

void VtkReader::refuse(const std::string& what, const std::string& advice) const {
  content_->refuse(what, advice);
}

}  // namespace dunefield
