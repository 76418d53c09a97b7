#include <dunefield/base/fresh_file.hpp>

#include <atomic>
#include <cerrno>

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/fault.hpp>

namespace dunefield {
namespace {

namespace fs = std::filesystem;

std::error_code last_error() { return {errno, std::generic_category()}; }

/// The folder that holds a file named without one is the present one.
fs::path folder_of(const fs::path& file) {
  return file.has_parent_path() ? file.parent_path() : fs::path(".");
}

}  // namespace

fs::path name_beside(const fs::path& file) {
  static std::atomic<unsigned> number{0};
  return file.string() + fmt::format(".{}-{}{}", ::getpid(), number++, being_written);
}

FreshFile::FreshFile(fs::path file) : file_(std::move(file)) {
  std::error_code status;
  if (fs::is_symlink(file_, status)) file_ = fs::weakly_canonical(file_, status);
  const bool special = fs::exists(file_, status) && !fs::is_regular_file(file_, status) &&
                       !fs::is_directory(file_, status);
  fresh_ = special ? file_ : name_beside(file_);
  placed_ = special;
  out_.open(fresh_, std::ios::binary);
  if (!out_)
    throw OutputError("cannot be written", file_.string(), "check the folder and its permissions");
}

FreshFile::~FreshFile() {
  std::error_code ignored;
  if (!placed_) fs::remove(fresh_, ignored);
}

void FreshFile::place() {
  if (out_.is_open()) out_.close();
  if (placed_ && out_) return;
  std::error_code status =
      !out_ || fault_here() ? std::make_error_code(std::errc::io_error) : synced(fresh_);
  if (!status) status = put_in_place(fresh_, file_);
  if (status)
    throw OutputError("could not be written to its end", file_.string(), "check the free space");
  placed_ = true;
}

std::error_code synced(const fs::path& path) {
  if (fault_here()) return std::make_error_code(std::errc::io_error);
  const int handle = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  if (handle < 0) return last_error();
  std::error_code status;
  if (::fsync(handle) != 0 && errno != EINVAL && errno != EROFS) status = last_error();
  ::close(handle);
  return status;
}

std::error_code put_in_place(const fs::path& fresh, const fs::path& place) {
  if (fault_here()) return std::make_error_code(std::errc::io_error);
  std::error_code status;
  fs::rename(fresh, place, status);
  return status ? status : synced(folder_of(place));
}

std::error_code exchanged(const fs::path& fresh, const fs::path& place) {
  if (fault_here()) return std::make_error_code(std::errc::io_error);
#ifdef RENAME_EXCHANGE
  if (::renameat2(AT_FDCWD, fresh.c_str(), AT_FDCWD, place.c_str(), RENAME_EXCHANGE) == 0)
    return synced(folder_of(place));
  if (errno != EINVAL && errno != ENOSYS) return last_error();
#endif
  const fs::path between = name_beside(place);
  std::error_code status;
  fs::rename(place, between, status);
  if (!status) fs::rename(fresh, place, status);
  if (!status) fs::rename(between, fresh, status);
  return status ? status : synced(folder_of(place));
}

}  // namespace dunefield
