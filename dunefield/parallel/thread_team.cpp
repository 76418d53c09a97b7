// Ranks as threads: one mailbox per ordered pair of ranks, buffers recycled.
#include <dunefield/parallel/communicator.hpp>

#include <atomic>
#include <condition_variable>
#include <deque>
#include <exception>
#include <memory>
#include <mutex>
#include <stdexcept>
#include <thread>

#include <dunefield/base/index.hpp>

namespace dunefield {
namespace {

/// Thrown in ranks that wait for one that has failed; never leaves run_on_threads.
struct TeamAborted {};

class Mailbox {
 public:
  void put(std::span<const std::byte> data) {
    std::vector<std::byte> buffer;
    {
      std::lock_guard lock(mutex_);
      if (!spare_.empty()) buffer = std::move(spare_.back()), spare_.pop_back();
    }
    buffer.assign(data.begin(), data.end());
    {
      std::lock_guard lock(mutex_);
      queue_.push_back(std::move(buffer));
    }
    waiting_.fetch_add(1, std::memory_order_release);
    ready_.notify_one();
  }

  void take(std::span<std::byte> data, const std::atomic<bool>& aborted, bool spin) {
    // A short spin saves the wake-up time when every rank has a core of its own.
    for (int i = 0; spin && i < 20000 && waiting_.load(std::memory_order_acquire) == 0; ++i) {
    }
    std::vector<std::byte> buffer;
    {
      std::unique_lock lock(mutex_);
      while (queue_.empty()) {
        if (aborted) throw TeamAborted();
        ready_.wait_for(lock, std::chrono::milliseconds(50));
      }
      buffer = std::move(queue_.front());
      queue_.pop_front();
    }
    waiting_.fetch_sub(1, std::memory_order_relaxed);
    if (buffer.size() != data.size())
      throw std::logic_error("message length differs from what the receiver expects");
    std::memcpy(data.data(), buffer.data(), data.size());
    std::lock_guard lock(mutex_);
    spare_.push_back(std::move(buffer));
  }

 private:
  std::mutex mutex_;
  std::condition_variable ready_;
  std::atomic<int> waiting_{0};
  std::deque<std::vector<std::byte>> queue_;
  std::vector<std::vector<std::byte>> spare_;
};

struct Team {
  explicit Team(int n)
      : size(n), boxes(static_cast<std::size_t>(n) * static_cast<std::size_t>(n)) {}
  Mailbox& box(int from, int to) { return boxes[at(from * size + to)]; }

  int size;
  std::deque<Mailbox> boxes;
  std::atomic<bool> aborted{false};
};

class ThreadCommunicator final : public Communicator {
 public:
  ThreadCommunicator(Team& team, int rank)
      : team_(team),
        rank_(rank),
        spin_(team.size <= static_cast<int>(std::thread::hardware_concurrency())) {}
  int rank() const override { return rank_; }
  int size() const override { return team_.size; }
  void send_bytes(int to, std::span<const std::byte> data) override {
    team_.box(rank_, to).put(data);
  }
  void receive_bytes(int from, std::span<std::byte> data) override {
    team_.box(from, rank_).take(data, team_.aborted, spin_);
  }

 private:
  Team& team_;
  int rank_;
  bool spin_;
};

}  // namespace

void run_on_threads(int ranks, const std::function<void(Communicator&)>& work) {
  if (ranks <= 1) {
    SoloCommunicator solo;
    work(solo);
    return;
  }
  Team team(ranks);
  std::mutex mutex;
  std::exception_ptr first;
  const auto run_rank = [&](int rank) {
    try {
      ThreadCommunicator comm(team, rank);
      work(comm);
    } catch (const TeamAborted&) {
    } catch (...) {
      std::lock_guard lock(mutex);
      if (!first) first = std::current_exception();
      team.aborted = true;
    }
  };
  {
    std::vector<std::jthread> threads;
    for (int r = 1; r < ranks; ++r) threads.emplace_back(run_rank, r);
    run_rank(0);
  }
  if (first) std::rethrow_exception(first);
}

}  // namespace dunefield
