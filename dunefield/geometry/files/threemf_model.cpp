#include <dunefield/geometry/files/threemf_model.hpp>

#include <array>
#include <memory>

#include <minizip/unzip.h>
#include <pugixml.hpp>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

/// The text of the archive's first entry with this ending; empty where there is none.
std::string entry_with_ending(const std::filesystem::path& file, const std::string& ending) {
  const std::unique_ptr<void, int (*)(unzFile)> archive(unzOpen64(file.c_str()), unzClose);
  if (!archive) return {};
  for (int code = unzGoToFirstFile(archive.get()); code == UNZ_OK;
       code = unzGoToNextFile(archive.get())) {
    std::array<char, 1024> name{};
    unz_file_info64 info{};
    if (unzGetCurrentFileInfo64(archive.get(), &info, name.data(), name.size() - 1, nullptr, 0,
                                nullptr, 0) != UNZ_OK ||
        !std::string(name.data()).ends_with(ending) || unzOpenCurrentFile(archive.get()) != UNZ_OK)
      continue;
    // What the archive says of the length is not believed.
    std::string text;
    std::array<char, 1 << 16> piece{};
    int got = 0;
    while ((got = unzReadCurrentFile(archive.get(), piece.data(), piece.size())) > 0)
      text.append(piece.data(), static_cast<std::size_t>(got));
    unzCloseCurrentFile(archive.get());
    return got == 0 ? text : std::string();
  }
  return {};
}

double unit_named(const std::string& name, const std::filesystem::path& file) {
  static const std::map<std::string, double> units = {
      {"", 1e-3},       {"micron", 1e-6}, {"millimeter", 1e-3}, {"centimeter", 1e-2},
      {"inch", 0.0254}, {"foot", 0.3048}, {"meter", 1.0}};
  const auto found = units.find(name);
  if (found == units.end())
    throw InputError("its unit '" + name + "' is unknown", file.string(),
                     "export it again, or as STL");
  return found->second;
}

}  // namespace

ThreemfModel read_3mf_model(const std::filesystem::path& file) {
  pugi::xml_document document;
  const std::string text = entry_with_ending(file, ".model");
  const pugi::xml_node model =
      document.load_buffer(text.data(), text.size()) ? document.child("model") : pugi::xml_node();
  if (!model)
    throw InputError("cannot be read: there is no model in it", file.string(),
                     "export it again, or as STL");
  ThreemfModel out;
  out.unit = unit_named(model.attribute("unit").value(), file);
  for (const pugi::xml_node object : model.child("resources").children("object"))
    if (const std::string name = object.attribute("name").value(); !name.empty())
      out.names[object.attribute("id").value()] = name;
  return out;
}

}  // namespace dunefield
