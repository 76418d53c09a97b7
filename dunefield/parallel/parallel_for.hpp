// A loop over [0, n) on all cores (or a budget of them), in blocks that whoever is free takes next.
// The work on each index must be independent.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

#include <dunefield/parallel/thread_budget.hpp>

namespace dunefield {

template <class Work>
void parallel_for(std::size_t n, const Work& work, std::size_t smallest_block = 1024) {
  const std::size_t threads =
      std::min(static_cast<std::size_t>(threads_allowed()), n / smallest_block + 1);
  constexpr std::size_t blocks_per_thread = 16;  // what takes long is rarely spread evenly
  const std::size_t blocks =
      threads == 1 ? 1 : std::min(threads * blocks_per_thread, n / smallest_block + 1);
  std::atomic<std::size_t> next = 0;
  std::mutex mutex;
  std::exception_ptr first;
  const auto take_blocks = [&] {
    try {
      for (std::size_t b = next++; b < blocks; b = next++)
        for (std::size_t i = n * b / blocks; i < n * (b + 1) / blocks; ++i) work(i);
    } catch (...) {
      std::lock_guard lock(mutex);
      if (!first) first = std::current_exception();
    }
  };
  {
    std::vector<std::jthread> team;
    for (std::size_t t = 1; t < threads; ++t) team.emplace_back(take_blocks);
    take_blocks();
  }
  if (first) std::rethrow_exception(first);
}

/// What `part(first, last)` gives for blocks of [0, n), joined in order by `join(T&, T)`: the same
/// on any number of cores.
template <class T, class Part, class Join>
T join_blocks(std::size_t n, T start, const Part& part, const Join& join) {
  constexpr std::size_t block = 1 << 16;
  std::vector<T> parts((n + block - 1) / block);
  parallel_for(
      parts.size(),
      [&](std::size_t b) { parts[b] = part(b * block, std::min(n, (b + 1) * block)); }, 1);
  for (const T& one : parts) join(start, one);
  return start;
}

/// Sum of `term(i)` over [0, n).
template <class Term>
double parallel_sum(std::size_t n, const Term& term) {
  return join_blocks(
      n, 0.0,
      [&](std::size_t first, std::size_t last) {
        double sum = 0;
        for (std::size_t i = first; i < last; ++i) sum += term(i);
        return sum;
      },
      [](double& sum, double more) { sum += more; });
}

}  // namespace dunefield
