#include <dunefield/report/guarded_server.hpp>

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <mutex>

#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

namespace dunefield {
namespace {

using Clock = std::chrono::steady_clock;
using std::chrono::seconds;

constexpr std::size_t served_at_once = 16;
constexpr int longest_queue = 64;
constexpr seconds idle_for(5);      ///< until a connection without a request is closed
constexpr seconds asking_for(10);   ///< from a request's first byte to its last
constexpr seconds answered_in(60);  ///< until the other side has taken the answer
constexpr int requests_of_one = 1000;

/// A connection whose request must be whole, and whose answer taken, by a moment.
class TimedStream final : public httplib::Stream {
 public:
  explicit TimedStream(socket_t socket) : socket_(socket) {}

  /// Whether another request begins in time; its deadline then runs.
  bool begins() {
    until_ = Clock::now() + idle_for;
    if (!ready(POLLIN)) return false;
    until_ = Clock::now() + asking_for, answering_ = false;
    return true;
  }
  bool is_readable() const override { return ready(POLLIN); }
  bool is_writable() const override { return ready(POLLOUT); }
  ssize_t read(char* to, std::size_t size) override {
    return ready(POLLIN) ? ::recv(socket_, to, size, 0) : -1;
  }
  ssize_t write(const char* from, std::size_t size) override {
    if (!answering_) until_ = Clock::now() + answered_in, answering_ = true;
    return ready(POLLOUT) ? ::send(socket_, from, size, MSG_NOSIGNAL | MSG_DONTWAIT) : -1;
  }
  // Only this machine is listened to.
  void get_remote_ip_and_port(std::string& ip, int& port) const override {
    ip = "127.0.0.1", port = 0;
  }
  void get_local_ip_and_port(std::string& ip, int& port) const override {
    ip = "127.0.0.1", port = 0;
  }
  socket_t socket() const override { return socket_; }

 private:
  bool ready(short what) const {
    const auto left =
        std::chrono::duration_cast<std::chrono::milliseconds>(until_ - Clock::now()).count();
    pollfd wanted{socket_, what, 0};
    return left > 0 && ::poll(&wanted, 1, static_cast<int>(left)) > 0;
  }

  socket_t socket_;
  Clock::time_point until_{};
  bool answering_ = false;
};

/// As many connections as fit; those who come then wait to be accepted.
class BoundedPool final : public httplib::TaskQueue {
 public:
  void enqueue(std::function<void()> work) override {
    {
      std::unique_lock lock(guard_);
      freed_.wait(lock, [&] { return in_hand_ < longest_queue; });
      ++in_hand_;
    }
    pool_.enqueue([this, work = std::move(work)] {
      work();
      const std::lock_guard lock(guard_);
      --in_hand_;
      freed_.notify_one();
    });
  }
  void shutdown() override { pool_.shutdown(); }

 private:
  httplib::ThreadPool pool_{served_at_once};
  std::mutex guard_;
  std::condition_variable freed_;
  int in_hand_ = 0;
};

}  // namespace

GuardedServer::GuardedServer() {
  new_task_queue = [] { return new BoundedPool; };
}

bool GuardedServer::process_and_close_socket(socket_t socket) {
  TimedStream stream(socket);
  bool good = true, closed = false;
  for (int left = requests_of_one;
       good && !closed && left > 0 && svr_sock_ != INVALID_SOCKET && stream.begins(); --left)
    good = process_request(stream, left == 1, closed, nullptr);
  ::shutdown(socket, SHUT_RDWR);
  ::close(socket);
  return good;
}

}  // namespace dunefield
