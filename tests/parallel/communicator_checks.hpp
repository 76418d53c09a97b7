// What every backend must do, on any number of ranks; run on threads by the tests, on processes by
// a program of its own.
#pragma once

#include <cmath>
#include <filesystem>
#include <fstream>
#include <stdexcept>
#include <string>

#include <unistd.h>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/halo.hpp>

namespace dunefield::test {

inline void require(bool held, const char* what) {
  if (!held) throw std::runtime_error(what);
}

inline void check_reductions(Communicator& comm) {
  std::vector<double> sums;
  for (int r = 0; r < comm.size(); ++r) sums.push_back(0.1 * (r + 1));
  for (std::size_t step = 1; step < sums.size(); step *= 2)
    for (std::size_t r = 0; r + step < sums.size(); r += 2 * step) sums[r] += sums[r + step];
  require(comm.sum(0.1 * (comm.rank() + 1)) == sums[0],
          "sums of neighbours, then of neighbouring pairs, and so on");
  require(comm.max(comm.rank()) == comm.size() - 1 && comm.min(comm.rank()) == 0,
          "greatest and least");
  require(comm.any(comm.rank() == comm.size() - 1) && !comm.any(false), "any");
}

inline void check_messages(Communicator& comm) {
  // To every rank many messages of growing length, which arrive in order.
  for (int to = 0; to < comm.size(); ++to)
    for (int i = 0; i < 50 && to != comm.rank(); ++i)
      comm.send_vector(to, std::vector<int>(static_cast<std::size_t>(i * i), comm.rank()));
  for (int from = 0; from < comm.size(); ++from)
    for (int i = 0; i < 50 && from != comm.rank(); ++i)
      require(
          comm.receive_vector<int>(from) == std::vector<int>(static_cast<std::size_t>(i * i), from),
          "messages arrive in order, whole");
  std::vector<double> news(3, comm.rank() == 0 ? 7.0 : 0.0);
  comm.broadcast(std::span(news));
  require(news == std::vector<double>(3, 7.0), "broadcast");
  const auto all = comm.all_gather(std::vector<int>(static_cast<std::size_t>(comm.rank()), 5));
  for (int r = 0; r < comm.size(); ++r)
    require(all[at(r)].size() == static_cast<std::size_t>(r), "all_gather");
}

/// A ring of ranks with two own cells each; every rank holds a copy of its neighbours' nearest
/// cell.
inline void check_halo(Communicator& comm) {
  if (comm.size() < 3) return;
  const int n = comm.size(), before = (comm.rank() + n - 1) % n, after = (comm.rank() + 1) % n;
  HaloPlan plan;
  plan.neighbours = {{before, {0}, 2, 1}, {after, {1}, 3, 1}};
  Halo halo(comm, plan);
  std::vector<double> field = {10.0 * comm.rank(), 10.0 * comm.rank() + 1, -1, -1};
  for (int round = 0; round < 20; ++round) halo.refresh(field);
  require(field[2] == 10.0 * before + 1 && field[3] == 10.0 * after,
          "halo cells hold their owners' values");
}

/// One file of all ranks' pieces, in rank order; a place that is none is told on every rank.
inline void check_file(Communicator& comm) {
  std::vector<char> name = {};
  if (comm.rank() == 0) {
    const std::string text = (std::filesystem::temp_directory_path() /
                              ("dunefield-together-" + std::to_string(getpid())))
                                 .string();
    name.assign(text.begin(), text.end());
  }
  const auto names = comm.all_gather(name);
  const std::string file(names[0].begin(), names[0].end());
  // the first has none
  const auto size = [](int rank) { return static_cast<std::size_t>(1000 * rank); };
  const std::vector<char> mine(size(comm.rank()), static_cast<char>('a' + comm.rank()));
  const std::string mark = "from rank " + std::to_string(comm.rank()) + ": ";
  const std::vector<std::span<const std::byte>> pieces = {std::as_bytes(std::span(mark)),
                                                          std::as_bytes(std::span(mine))};
  require(comm.write_together(file,
                              comm.rank() == 1 ? Communicator::Pieces(pieces).subspan(1) : pieces),
          "writing together");
  if (comm.rank() == 0) {
    std::ifstream in(file, std::ios::binary);
    const std::string all((std::istreambuf_iterator<char>(in)), {});
    std::string expected;
    for (int r = 0; r < comm.size(); ++r)
      expected += (r == 1 ? "" : "from rank " + std::to_string(r) + ": ") +
                  std::string(size(r), static_cast<char>('a' + r));
    require(all == expected, "the file holds all ranks' bytes in their order");
    std::filesystem::remove(file);
  }
  require(!comm.write_together("/no-such-folder/x", pieces), "a file that cannot be made");
}

inline void check_communicator(Communicator& comm) {
  check_file(comm);
  check_reductions(comm);
  check_messages(comm);
  check_halo(comm);
}

}  // namespace dunefield::test
