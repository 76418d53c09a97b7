#include <dunefield/report/watch_server.hpp>

#include <dunefield/report/explore_server.hpp>
#include <dunefield/report/local_server.hpp>
#include <dunefield/report/page.hpp>

namespace dunefield {
struct WatchServer::State {
  State(Watch& watch, const std::string& title, int port)
      : server(application_page(title, "live"), port) {
    using Reply = LocalServer::Reply;
    server.get("state", [&watch](long after) { return Reply{watch.state(after)}; });
    serve(server, watch.explorer());
    server.post("ask", [&watch](const std::string& body) {
      watch.ask(body);
      return Reply{};
    });
    server.start();
  }
  LocalServer server;
};

WatchServer::WatchServer(Watch& watch, const std::string& title, int port)
    : state_(std::make_unique<State>(watch, title, port)) {}
WatchServer::~WatchServer() = default;
const std::string& WatchServer::address() const { return state_->server.address(); }

}  // namespace dunefield
