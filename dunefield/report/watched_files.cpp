#include <dunefield/report/watched_files.hpp>

#include <fmt/format.h>

namespace dunefield {

namespace fs = std::filesystem;

std::vector<fs::path*> surface_files(Campaign& c) {
  std::vector<fs::path*> files;
  for (fs::path& f : c.surfaces) files.push_back(&f);
  for (Campaign::Variant& v : c.variants) {
    for (fs::path& f : v.add) files.push_back(&f);
    for (Change& change : v.changes)
      if (!change.file.empty()) files.push_back(&change.file);
    if (!v.mesh.empty()) files.push_back(&v.mesh);
  }
  return files;
}

std::string stamp_of(const fs::path& file) {
  std::error_code gone;
  const auto time = fs::last_write_time(file, gone);
  const auto size = gone ? 0 : fs::file_size(file, gone);
  return gone ? "" : fmt::format("{} {}", time.time_since_epoch().count(), size);
}

void WatchedFiles::watch(const std::vector<fs::path>& files) {
  for (const fs::path& f : files) {
    const std::string stamp = stamp_of(f);
    files_.try_emplace(f, Stamps{stamp, stamp});
  }
}

std::vector<fs::path> WatchedFiles::changed() {
  std::vector<fs::path> out;
  for (auto& [file, stamps] : files_) {
    const std::string now = stamp_of(file);
    // A file that is replaced is gone for a moment.
    const bool at_rest = now == stamps.seen && !now.empty();
    stamps.seen = now;
    if (!at_rest || now == stamps.settled) continue;
    stamps.settled = now;
    out.push_back(file);
  }
  return out;
}

}  // namespace dunefield
