#include <dunefield/base/file_lock.hpp>

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <dunefield/base/error.hpp>

namespace dunefield {

FileLock::FileLock(const std::filesystem::path& file)
    : file_(::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644)) {
  if (file_ < 0)
    throw OutputError("nothing can be written here", file.parent_path().string(),
                      "check the folder's rights");
  held_ = ::flock(file_, LOCK_EX | LOCK_NB) == 0;
}

FileLock::~FileLock() {
  ::close(file_);  // which gives the lock back
}

}  // namespace dunefield
