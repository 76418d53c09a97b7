// The packaged HTTP server with bounds that it has not: a deadline for each whole request, a queue
// that does not grow, no bodies in chunks. Not part of the public interface.
#pragma once

#include <httplib.h>

namespace dunefield {

class GuardedServer : public httplib::Server {
 public:
  GuardedServer();

 private:
  /// Requests of one connection, one after the other, each within its deadline.
  bool process_and_close_socket(socket_t socket) override;
};

}  // namespace dunefield
