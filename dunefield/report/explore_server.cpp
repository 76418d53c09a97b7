#include <dunefield/report/explore_server.hpp>

#include <dunefield/report/local_server.hpp>
#include <dunefield/report/page.hpp>

namespace dunefield {
namespace {

constexpr char bytes[] = "application/octet-stream";

}  // namespace

void serve(LocalServer& server, const Explorer& explorer) {
  using Reply = LocalServer::Reply;
  server.get("runs", [&explorer](long) { return Reply{explorer.runs()}; });
  server.get("vehicles", [&explorer](long) { return Reply{explorer.vehicles(), bytes}; });
  server.post("look", [&explorer](const std::string& asked) {
    return Reply{explorer.look(asked), bytes};
  });
  server.post("chart",
              [&explorer](const std::string& asked) { return Reply{explorer.chart(asked)}; });
}

struct ExploreServer::State {
  State(const Explorer& explorer, int port)
      : server(application_page(explorer.title(), "explore"), port) {
    serve(server, explorer);
    server.start();
  }
  LocalServer server;
};

ExploreServer::ExploreServer(const Explorer& explorer, int port)
    : state_(std::make_unique<State>(explorer, port)) {}
ExploreServer::~ExploreServer() = default;
const std::string& ExploreServer::address() const { return state_->server.address(); }

}  // namespace dunefield
