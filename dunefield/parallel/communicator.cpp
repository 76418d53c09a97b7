#include <dunefield/parallel/communicator.hpp>

#include <fstream>

#include <fcntl.h>
#include <unistd.h>

#include <dunefield/base/index.hpp>

namespace dunefield {

/// Along a binary tree: in each step a rank takes on the values of the one `step` further, so that
/// values are combined in rank order.
void Communicator::reduce(std::span<double> values, double (*combine)(double, double)) {
  std::vector<double> other(size() > 1 ? values.size() : 0);
  for (int step = 1; step < size(); step *= 2) {
    if (rank() % (2 * step) == step) {
      send(rank() - step, std::span<const double>(values));
      break;
    }
    if (rank() + step >= size()) continue;
    receive(rank() + step, std::span(other));
    for (std::size_t i = 0; i < values.size(); ++i) values[i] = combine(values[i], other[i]);
  }
  broadcast(values);
}

double Communicator::max(double value) {
  reduce(std::span(&value, 1), [](double a, double b) { return a > b ? a : b; });
  return value;
}

bool Communicator::write_together(const std::filesystem::path& file, Pieces mine) {
  bool failed = false;
  if (rank() == 0) failed = !std::ofstream(file, std::ios::binary | std::ios::trunc);
  if (any(failed)) return false;
  std::uint64_t size = 0, offset = 0;
  for (const auto& piece : mine) size += piece.size();
  const auto sizes = all_gather(std::vector<std::uint64_t>{size});
  for (int r = 0; r < rank(); ++r) offset += sizes[at(r)].at(0);
  return !any(!write_part(file, offset, mine));
}

bool Communicator::write_part(const std::filesystem::path& file, std::uint64_t offset,
                              Pieces mine) {
  const int handle = open(file.c_str(), O_WRONLY);
  if (handle < 0) return false;
  bool good = true;
  for (std::span<const std::byte> left : mine)
    while (good && !left.empty()) {
      const ssize_t written = pwrite(handle, left.data(), left.size(), static_cast<off_t>(offset));
      good = written > 0;
      if (good)
        left = left.subspan(static_cast<std::size_t>(written)),
        offset += static_cast<std::uint64_t>(written);
    }
  // Only what has reached the disk counts.
  good = good && fsync(handle) == 0;
  return close(handle) == 0 && good;
}

}  // namespace dunefield
