// The small server of a watched campaign: on this machine alone, for those who know its token.
#pragma once

#include <memory>
#include <string>

#include <dunefield/report/watch.hpp>

namespace dunefield {

class WatchServer {
 public:
  /// Serves from now on, on threads of its own. @param port 0: any that is free
  /// @throw InputError for a port that is taken
  WatchServer(Watch& watch, const std::string& title, int port);
  ~WatchServer();
  WatchServer(const WatchServer&) = delete;
  WatchServer& operator=(const WatchServer&) = delete;

  /// "http://127.0.0.1:8080/9f.../"
  const std::string& address() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
