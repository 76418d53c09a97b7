#include <dunefield/base/text_file.hpp>

#include <fstream>
#include <sstream>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fresh_file.hpp>

namespace dunefield {

namespace fs = std::filesystem;

std::string read_text(const fs::path& file) {
  std::error_code status;
  if (!fs::exists(file, status)) throw InputError("is missing", file.string(), "check the path");
  std::ifstream in(file, std::ios::binary);
  std::stringstream text;
  text << in.rdbuf();
  if (!in || fs::is_directory(file, status))
    throw InputError("cannot be read", file.string(), "check its rights");
  return text.str();
}

void write_text(const fs::path& file, std::string_view text) {
  FreshFile fresh(file);
  fresh.out() << text;
  fresh.place();
}

void check_writable(const fs::path& folder) {
  std::error_code status;
  fs::create_directories(folder, status);
  if (status)
    throw OutputError("the folder cannot be made (" + status.message() + ")", folder.string(),
                      "choose another with --into");
  const fs::path probe = name_beside(folder / ".writable");
  std::ofstream out(probe);
  out << "x";
  out.close();
  if (!out)
    throw OutputError("nothing can be written here", folder.string(),
                      "choose another folder with --into");
  fs::remove(probe, status);
}

}  // namespace dunefield
