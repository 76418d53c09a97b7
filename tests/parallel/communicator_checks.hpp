// What every backend must do, on any number of ranks; run on threads by the tests, on processes by a program of its own.
#pragma once

#include <cmath>
#include <stdexcept>

#include <dunefield/parallel/halo.hpp>

namespace dunefield::test {

inline void require(bool held, const char* what) {
  if (!held) throw std::runtime_error(what);
}

inline void check_reductions(Communicator& comm) {
  double expected = 0;
  for (int r = 0; r < comm.size(); ++r) expected += 0.1 * (r + 1);
  require(comm.sum(0.1 * (comm.rank() + 1)) == expected, "sums run in rank order");
  require(comm.max(comm.rank()) == comm.size() - 1 && comm.min(comm.rank()) == 0, "greatest and least");
  require(comm.any(comm.rank() == comm.size() - 1) && !comm.any(false), "any");
}

inline void check_messages(Communicator& comm) {
  // To every rank many messages of growing length, which arrive in order.
  for (int to = 0; to < comm.size(); ++to)
    for (int i = 0; i < 50 && to != comm.rank(); ++i) comm.send_vector(to, std::vector<int>(static_cast<std::size_t>(i * i), comm.rank()));
  for (int from = 0; from < comm.size(); ++from)
    for (int i = 0; i < 50 && from != comm.rank(); ++i)
      require(comm.receive_vector<int>(from) == std::vector<int>(static_cast<std::size_t>(i * i), from), "messages arrive in order, whole");
  std::vector<double> news(3, comm.rank() == 0 ? 7.0 : 0.0);
  comm.broadcast(std::span(news));
  require(news == std::vector<double>(3, 7.0), "broadcast");
  const auto all = comm.all_gather(std::vector<int>(static_cast<std::size_t>(comm.rank()), 5));
  for (int r = 0; r < comm.size(); ++r) require(all[static_cast<std::size_t>(r)].size() == static_cast<std::size_t>(r), "all_gather");
}

/// A ring of ranks with two own cells each; every rank holds a copy of its neighbours' nearest cell.
inline void check_halo(Communicator& comm) {
  if (comm.size() < 3) return;
  const int n = comm.size(), before = (comm.rank() + n - 1) % n, after = (comm.rank() + 1) % n;
  HaloPlan plan;
  plan.neighbours = {{before, {0}, 2, 1}, {after, {1}, 3, 1}};
  Halo halo(comm, plan);
  std::vector<double> field = {10.0 * comm.rank(), 10.0 * comm.rank() + 1, -1, -1};
  for (int round = 0; round < 20; ++round) halo.refresh(field);
  require(field[2] == 10.0 * before + 1 && field[3] == 10.0 * after, "halo cells hold their owners' values");
}

inline void check_communicator(Communicator& comm) {
  check_reductions(comm);
  check_messages(comm);
  check_halo(comm);
}

}  // namespace dunefield::test
