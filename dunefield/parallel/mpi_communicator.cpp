#include <dunefield/parallel/mpi_communicator.hpp>

#include <algorithm>
#include <cstdlib>
#include <deque>
#include <stdexcept>

#include <mpi.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

class MpiCommunicator final : public Communicator {
 public:
  MpiCommunicator() {
    MPI_Comm_rank(MPI_COMM_WORLD, &rank_);
    MPI_Comm_size(MPI_COMM_WORLD, &size_);
  }
  int rank() const override { return rank_; }
  int size() const override { return size_; }

  // MPI counts in int: longer messages go in pieces, which arrive in order.
  void send_bytes(int to, std::span<const std::byte> data) override {
    for (; data.size() > piece; data = data.subspan(piece)) send_piece(to, data.first(piece));
    send_piece(to, data);
  }
  void receive_bytes(int from, std::span<std::byte> data) override {
    for (; data.size() > piece; data = data.subspan(piece)) receive_piece(from, data.first(piece));
    receive_piece(from, data);
  }
  ~MpiCommunicator() override {
    for (Pending& p : pending_)
      if (p.busy) MPI_Wait(&p.request, MPI_STATUS_IGNORE);
  }

 private:
  static constexpr std::size_t piece = std::size_t{1} << 30;
  struct Pending {
    std::vector<std::byte> buffer;
    MPI_Request request{};
    bool busy = false;
  };
  void send_piece(int to, std::span<const std::byte> data) {
    Pending& slot = free_slot();
    slot.buffer.assign(data.begin(), data.end());
    slot.busy = true;
    MPI_Isend(slot.buffer.data(), static_cast<int>(data.size()), MPI_BYTE, to, 0, MPI_COMM_WORLD,
              &slot.request);
  }
  void receive_piece(int from, std::span<std::byte> data) {
    MPI_Status status;
    MPI_Recv(data.data(), static_cast<int>(data.size()), MPI_BYTE, from, 0, MPI_COMM_WORLD,
             &status);
    int count = 0;
    MPI_Get_count(&status, MPI_BYTE, &count);
    if (static_cast<std::size_t>(count) != data.size())
      throw std::logic_error("a message has not the length that was expected");
  }
  Pending& free_slot() {
    for (Pending& p : pending_) {
      if (p.busy) {
        int done = 0;
        MPI_Test(&p.request, &done, MPI_STATUS_IGNORE);
        p.busy = !done;
      }
      if (!p.busy) return p;
    }
    return pending_.emplace_back();
  }

  int rank_ = 0, size_ = 1;
  std::deque<Pending> pending_;
};

}  // namespace

MpiSession::MpiSession(int* argc, char*** argv) {
  int provided = 0;
  MPI_Init_thread(argc, argv, MPI_THREAD_FUNNELED, &provided);
  if (provided < MPI_THREAD_FUNNELED)
    throw InputError("this MPI allows no threads beside its own calls", "mpiexec",
                     "use an MPI library that was built with threads");
  world_ = std::make_unique<MpiCommunicator>();
}

MpiSession::~MpiSession() {
  world_.reset();
  MPI_Finalize();
}

void MpiSession::abort(int exit_code) {
  MPI_Abort(MPI_COMM_WORLD, exit_code);
  std::abort();
}

bool MpiSession::launched() {
  for (const char* name : {"OMPI_COMM_WORLD_SIZE", "PMI_SIZE", "PMIX_RANK"})
    if (std::getenv(name)) return true;
  return false;
}

}  // namespace dunefield
