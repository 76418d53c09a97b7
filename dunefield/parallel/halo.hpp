// Copies of the cells that a rank's own cells touch on other ranks, and their refreshment.
#pragma once

#include <span>
#include <vector>

#include <dunefield/base/index.hpp>
#include <dunefield/parallel/communicator.hpp>

namespace dunefield {

/// Which of a rank's own cells its neighbours hold copies of, and where their cells land here.
struct HaloPlan {
  struct Neighbour {
    int rank = 0;
    std::vector<int> send;   ///< own cells, in the order the neighbour stores them
    int first_received = 0;  ///< local number of the first halo cell; they are contiguous
    int received = 0;
  };
  std::vector<Neighbour> neighbours;
};

/// Brings halo values up to date. One per rank; the buffers are kept.
class Halo {
 public:
  Halo(Communicator& comm, HaloPlan plan) : comm_(&comm), plan_(std::move(plan)) {}

  template <class T>
  void refresh(std::vector<T>& field) {
    if (plan_.neighbours.empty()) return;
    for (const auto& n : plan_.neighbours) {
      buffer_.resize(n.send.size() * sizeof(T));
      T* out = reinterpret_cast<T*>(buffer_.data());
      for (std::size_t i = 0; i < n.send.size(); ++i) out[i] = field[at(n.send[i])];
      comm_->send_bytes(n.rank, buffer_);
    }
    for (const auto& n : plan_.neighbours)
      comm_->receive(n.rank, std::span(field).subspan(static_cast<std::size_t>(n.first_received),
                                                      static_cast<std::size_t>(n.received)));
  }
  Communicator& comm() const { return *comm_; }
  const HaloPlan& plan() const { return plan_; }

 private:
  Communicator* comm_;
  HaloPlan plan_;
  std::vector<std::byte> buffer_;
};

}  // namespace dunefield
