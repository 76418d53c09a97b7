// Ranks that work together by messages. A rank is a thread of this process or an MPI process;
// no caller can tell which. Messages are copies, and reductions sum in rank order, so that the same
// number of ranks gives the same bits on either backend. Reductions and broadcasts run along a
// tree, in a logarithmic number of steps.
#pragma once

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <filesystem>
#include <functional>
#include <span>
#include <vector>

#include <dunefield/base/index.hpp>

namespace dunefield {

class Communicator {
 public:
  virtual ~Communicator() = default;
  virtual int rank() const = 0;
  virtual int size() const = 0;

  /// Copies the bytes and returns at once. Messages between two ranks arrive in the order sent.
  virtual void send_bytes(int to, std::span<const std::byte> data) = 0;
  /// Waits for the next message of `from`, whose length must be that of `data`.
  virtual void receive_bytes(int from, std::span<std::byte> data) = 0;

  template <class T>
  void send(int to, std::span<const T> data) {
    send_bytes(to, std::as_bytes(data));
  }
  template <class T>
  void receive(int from, std::span<T> data) {
    receive_bytes(from, std::as_writable_bytes(data));
  }
  /// A vector of any length, its length sent first.
  template <class T>
  void send_vector(int to, const std::vector<T>& v) {
    const std::size_t n = v.size();
    send(to, std::span(&n, 1));
    if (n) send(to, std::span(v));
  }
  template <class T>
  std::vector<T> receive_vector(int from) {
    std::size_t n = 0;
    receive(from, std::span(&n, 1));
    std::vector<T> v(n);
    if (n) receive(from, std::span(v));
    return v;
  }
  /// Every rank gets rank 0's values.
  template <class T>
  void broadcast(std::span<T> data) {
    int step = 1;
    while (step < size()) step *= 2;
    for (step /= 2; step > 0; step /= 2) {
      if (rank() % (2 * step) == step)
        receive(rank() - step, data);
      else if (rank() % (2 * step) == 0 && rank() + step < size())
        send(rank() + step, std::span<const T>(data));
    }
  }
  /// All ranks' vectors one behind the other, on rank 0; nothing elsewhere.
  template <class T>
  std::vector<T> gather(std::vector<T> mine) {
    if (rank() != 0) return send_vector(0, mine), std::vector<T>{};
    for (int r = 1; r < size(); ++r) {
      const std::vector<T> other = receive_vector<T>(r);
      mine.insert(mine.end(), other.begin(), other.end());
    }
    return mine;
  }
  /// All ranks' vectors, on every rank, in rank order.
  template <class T>
  std::vector<std::vector<T>> all_gather(const std::vector<T>& mine) {
    for (int r = 0; r < size(); ++r)
      if (r != rank()) send_vector(r, mine);
    std::vector<std::vector<T>> all(static_cast<std::size_t>(size()));
    for (int r = 0; r < size(); ++r) all[at(r)] = r == rank() ? mine : receive_vector<T>(r);
    return all;
  }
  /// Sums over ranks in rank order, in place.
  void sum(std::span<double> values) {
    reduce(values, [](double a, double b) { return a + b; });
  }
  double sum(double value) { return sum(std::span(&value, 1)), value; }
  double max(double value);
  double min(double value) { return -max(-value); }
  bool any(bool value) { return max(value ? 1.0 : 0.0) > 0; }
  /// Stretches of memory whose bytes belong together, in this order.
  using Pieces = std::span<const std::span<const std::byte>>;
  /// All ranks' pieces, in rank order, into one new file, without passing through any one rank.
  /// Collective.
  /// @return false on all ranks if any of them failed
  bool write_together(const std::filesystem::path& file, Pieces mine);

 protected:
  /// This rank's pieces to their place in a file that exists; collective. The default serves ranks
  /// that share a file system.
  virtual bool write_part(const std::filesystem::path& file, std::uint64_t offset, Pieces mine);

 private:
  void reduce(std::span<double> values, double (*combine)(double, double));
};

/// A rank on its own.
class SoloCommunicator final : public Communicator {
 public:
  int rank() const override { return 0; }
  int size() const override { return 1; }
  void send_bytes(int, std::span<const std::byte>) override {}
  void receive_bytes(int, std::span<std::byte>) override {}
};

/// Runs `work` on `ranks` threads and returns when all are done. The first exception that a rank
/// throws ends the others at their next message and is thrown again here.
void run_on_threads(int ranks, const std::function<void(Communicator&)>& work);

}  // namespace dunefield
