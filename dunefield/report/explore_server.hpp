// The small server of the page that looks at records.
#pragma once

#include <memory>
#include <string>

#include <dunefield/report/explorer.hpp>

namespace dunefield {

class LocalServer;

/// What a page asks of an explorer: runs, vehicles, looks and charts.
void serve(LocalServer& server, const Explorer& explorer);

class ExploreServer {
 public:
  /// Serves from now on. @param explorer must outlive it. @param port 0: any that is free
  /// @throw InputError for a port that is taken
  ExploreServer(const Explorer& explorer, int port);
  ~ExploreServer();
  ExploreServer(const ExploreServer&) = delete;
  ExploreServer& operator=(const ExploreServer&) = delete;

  const std::string& address() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
