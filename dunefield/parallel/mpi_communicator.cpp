#include <dunefield/parallel/mpi_communicator.hpp>

#include <algorithm>
#include <cstdlib>
#include <deque>

#include <mpi.h>

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
  bool write_part(const std::filesystem::path& file, std::uint64_t offset, Pieces mine) override {
    MPI_File handle;
    if (MPI_File_open(MPI_COMM_WORLD, file.c_str(), MPI_MODE_WRONLY, MPI_INFO_NULL, &handle) !=
        MPI_SUCCESS)
      return false;
    std::vector<std::span<const std::byte>> parts;
    for (std::span<const std::byte> left : mine)
      for (; !left.empty(); left = left.subspan(parts.back().size()))
        parts.push_back(left.first(std::min(piece, left.size())));
    bool good = true;
    // As many rounds on each rank: the writes are collective.
    const auto rounds = static_cast<std::size_t>(max(static_cast<double>(parts.size())));
    parts.resize(rounds);
    for (const auto& part : parts) {
      good = MPI_File_write_at_all(handle, static_cast<MPI_Offset>(offset), part.data(),
                                   static_cast<int>(part.size()), MPI_BYTE,
                                   MPI_STATUS_IGNORE) == MPI_SUCCESS &&
             good;
      offset += part.size();
    }
    good = MPI_File_sync(handle) == MPI_SUCCESS && good;
    return MPI_File_close(&handle) == MPI_SUCCESS && good;
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
    MPI_Recv(data.data(), static_cast<int>(data.size()), MPI_BYTE, from, 0, MPI_COMM_WORLD,
             MPI_STATUS_IGNORE);
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
  MPI_Init(argc, argv);
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
