#include <dunefield/report/kept_tries.hpp>

#include <fmt/format.h>
#include <toml++/toml.h>

#include <set>
#include <sstream>

#include <dunefield/base/error.hpp>
#include <dunefield/base/hash.hpp>

namespace dunefield {

namespace fs = std::filesystem;

void keep_copies(Try& one, const fs::path& folder) {
  const fs::path into = folder / fmt::format("kept-{}", one.number);
  for (const auto& [file, content] : one.content)
    if (hash_of_file(one.read_from.at(file)) != content)
      throw InputError("has changed since this was tried, so that it cannot be kept", file.string(),
                       "wait for the try of the new file, or put the old one back");
  std::set<fs::path> taken;
  for (const auto& [file, content] : one.content) {
    std::error_code failed;
    fs::create_directories(into, failed);
    fs::path copy = into / file.filename();
    for (int n = 2; !taken.insert(copy).second; ++n)  // of one name, from two folders
      copy = into / fmt::format("{}-{}", n, file.filename().string());
    if (!failed)
      fs::copy_file(one.read_from.at(file), copy, fs::copy_options::overwrite_existing, failed);
    if (failed)
      throw OutputError("the shape cannot be kept: " + failed.message(), copy.string(),
                        "check the folder's rights and the disk's space");
    one.copies[file] = copy;
  }
}

std::string kept_as_variants(const std::vector<std::shared_ptr<Try>>& tries) {
  toml::array variants, combinations;
  std::string remarks;
  for (const auto& t : tries) {
    if (!t->kept) continue;
    if (!t->wanted.settings.empty()) {
      toml::table settings;
      for (const Setting& s : t->wanted.settings) settings.insert(s.key, s.value);
      combinations.push_back(settings);
    }
    toml::array files;
    for (const auto& [file, copy] : t->copies) {
      if (t->content.at(file) == tries.front()->content[file]) continue;
      const std::string kept = fs::absolute(copy).string();
      if (t->of_vehicle.count(file))
        remarks += fmt::format("# kept {}: {} of [vehicle] as it was then: {}\n", t->number,
                               file.filename().string(), kept);
      else
        files.push_back(kept);
    }
    if (!files.empty())
      variants.push_back(toml::table{
          {"name", fmt::format("{}, kept {}", t->wanted.variant, t->number)}, {"add", files}});
  }
  toml::table all;
  if (!combinations.empty()) all.insert("runs", toml::table{{"combination", combinations}});
  if (!variants.empty()) all.insert("variant", variants);
  std::ostringstream out;
  if (!all.empty()) out << all << "\n";
  return out.str() + remarks;
}

}  // namespace dunefield
