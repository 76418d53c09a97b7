#include <dunefield/campaign/adapted_sizes.hpp>

#include <dunefield/base/error.hpp>
#include <dunefield/base/file_lock.hpp>
#include <dunefield/campaign/run_store.hpp>
#include <dunefield/run/hashes.hpp>

namespace dunefield {

namespace fs = std::filesystem;

fs::path sketch_folder(const fs::path& runs) { return runs / ".sketch"; }

Record AdaptedSizes::sketch(const RunSetup& setup, int threads, const Progress& progress) const {
  const fs::path folder = sketch_folder(runs_);
  const std::string wanted = hashes_of(*setup.adaptation->sketch).flow;
  std::error_code status;
  if (fs::exists(folder, status)) {
    try {
      if (read_figures(folder).run.hashes.flow == wanted) return Record::open(folder, progress);
    } catch (const InputError&) {  // damaged: it is made again
    }
  }
  Record record = run_sketch(setup, threads, progress);
  // Two processes may make the same one; whoever comes second keeps it to itself.
  if (const FileLock lock(beside(folder, ".lock")); lock.held()) record.save(folder);
  return record;
}

std::shared_ptr<const SizeField> AdaptedSizes::of(const RunSetup& setup, int threads,
                                                  const Progress& progress) {
  const std::string origin =
      hashes_of(*setup.adaptation->sketch).flow + hashes_of(*setup.adaptation->plain).mesh;
  if (!last_ || origin != origin_)
    last_ = adapted_sizes(setup, sketch(setup, threads, progress), progress), origin_ = origin;
  return last_;
}

}  // namespace dunefield
