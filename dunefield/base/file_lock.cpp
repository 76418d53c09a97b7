#include <dunefield/base/file_lock.hpp>

#include <array>
#include <cerrno>
#include <ctime>

#include <fcntl.h>
#include <fmt/chrono.h>
#include <sys/file.h>
#include <unistd.h>

#include <dunefield/base/error.hpp>
#include <dunefield/base/valid_text.hpp>

namespace dunefield {
namespace {

constexpr std::size_t longest_holder = 200;

std::string this_process() {
  std::array<char, 100> host{};
  ::gethostname(host.data(), host.size() - 1);
  return fmt::format("process {} on {} since {:%Y-%m-%d %H:%M}", ::getpid(), host.data(),
                     fmt::localtime(std::time(nullptr)));
}

}  // namespace

FileLock::FileLock(const std::filesystem::path& file)
    : file_(::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0644)) {
  if (file_ < 0)
    throw OutputError("nothing can be written here", file.parent_path().string(),
                      "check the folder's rights");
  held_ = ::flock(file_, LOCK_EX | LOCK_NB) == 0;
  const int why = errno;
  if (held_) {
    const std::string us = this_process();
    // Who holds it is for people alone: a disk that is full must not cost the lock.
    if (::ftruncate(file_, 0) == 0 && ::pwrite(file_, us.data(), us.size(), 0) < 0) errno = 0;
    return;
  }
  if (why != EWOULDBLOCK) {
    ::close(file_);
    throw OutputError(
        fmt::format("files cannot be locked here ({})", std::generic_category().message(why)),
        file.string(), "use a folder on a file system that keeps locks (flock)");
  }
  std::array<char, longest_holder> text{};
  const ssize_t size = ::pread(file_, text.data(), text.size(), 0);
  if (size > 0) holder_ = valid_text({text.data(), static_cast<std::size_t>(size)});
}

FileLock::~FileLock() {
  ::close(file_);  // which gives the lock back
}

}  // namespace dunefield
