// A loop over [0, n) in contiguous blocks on all cores. The work on each index must be independent.
#pragma once

#include <algorithm>
#include <cstddef>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace dunefield {

template <class Work>
void parallel_for(std::size_t n, const Work& work, std::size_t smallest_block = 1024) {
  const std::size_t threads = std::min<std::size_t>(std::max(1u, std::thread::hardware_concurrency()), n / smallest_block + 1);
  std::mutex mutex;
  std::exception_ptr first;
  const auto block = [&](std::size_t t) {
    try {
      for (std::size_t i = n * t / threads; i < n * (t + 1) / threads; ++i) work(i);
    } catch (...) {
      std::lock_guard lock(mutex);
      if (!first) first = std::current_exception();
    }
  };
  {
    std::vector<std::jthread> team;
    for (std::size_t t = 1; t < threads; ++t) team.emplace_back(block, t);
    block(0);
  }
  if (first) std::rethrow_exception(first);
}

}  // namespace dunefield
