#include <dunefield/report/local_server.hpp>

#include <random>
#include <thread>

#include <fmt/format.h>
#include <httplib.h>

#include <dunefield/base/error.hpp>

namespace dunefield {
namespace {

constexpr char here[] = "127.0.0.1";
constexpr std::size_t largest_request = 64 * 1024;
constexpr int patience = 5;  // s, for readers that are slow or have vanished
constexpr std::size_t served_at_once = 8;

/// 128 bits that nobody guesses.
std::string random_token() {
  std::random_device source;
  std::string token;
  for (int i = 0; i < 4; ++i) token += fmt::format("{:08x}", source());
  return token;
}

/// The number after "after=", else -1: everything is newer.
long after(const httplib::Request& request) {
  const std::string text = request.get_param_value("after");
  return text.empty() ? -1 : std::strtol(text.c_str(), nullptr, 10);
}

void answer_with(httplib::Response& response, const std::function<LocalServer::Reply()>& make) {
  try {
    const LocalServer::Reply reply = make();
    if (reply.body.empty())
      response.status = 204;
    else
      response.set_content(reply.body, reply.type);
  } catch (const InputError& e) {
    response.status = 400;
    response.set_content(e.what(), "text/plain; charset=utf-8");
  }
}

}  // namespace

struct LocalServer::State {
  State(const std::string& page, int wanted) : token(random_token()), html(page) {
    server.new_task_queue = [] { return new httplib::ThreadPool(served_at_once); };
    server.set_payload_max_length(largest_request);
    server.set_read_timeout(patience), server.set_write_timeout(patience);
    server.set_keep_alive_timeout(patience);
    // Two servers on one port would take requests from each other.
    server.set_socket_options([](socket_t) {});
    port = wanted;
    if (wanted == 0)
      port = server.bind_to_any_port(here);
    else if (!server.bind_to_port(here, wanted))
      port = -1;
    if (port < 0)
      throw InputError(fmt::format("port {} is taken, or may not be used", wanted), "--port",
                       "leave it out for any that is free");
    address = fmt::format("http://{}:{}/{}/", here, port, token);
    server.set_default_headers({{"Cache-Control", "no-store"},
                                {"X-Content-Type-Options", "nosniff"},
                                {"Referrer-Policy", "no-referrer"},
                                {"Cross-Origin-Resource-Policy", "same-origin"}});
    // A name that leads here may be anybody's: only our own is answered to.
    server.set_pre_routing_handler([this](const httplib::Request& q, httplib::Response& r) {
      const std::string host = q.get_header_value("Host"), number = fmt::format(":{}", port);
      if (host == here + number || host == "localhost" + number)
        return httplib::Server::HandlerResponse::Unhandled;
      r.status = 403;
      return httplib::Server::HandlerResponse::Handled;
    });
    server.Get(below(""), [this](const httplib::Request&, httplib::Response& r) {
      r.set_content(html, "text/html; charset=utf-8");
    });
  }
  ~State() {
    server.stop();
    if (thread.joinable()) thread.join();
  }
  std::string below(const std::string& name) const { return "/" + token + "/" + name; }

  const std::string token, html;
  httplib::Server server;
  int port = 0;
  std::string address;
  std::thread thread;
};

LocalServer::LocalServer(const std::string& html, int port)
    : state_(std::make_unique<State>(html, port)) {}
LocalServer::~LocalServer() = default;
const std::string& LocalServer::address() const { return state_->address; }

void LocalServer::get(const std::string& name, std::function<Reply(long)> answer) {
  state_->server.Get(state_->below(name),
                     [answer = std::move(answer)](const httplib::Request& q, httplib::Response& r) {
                       answer_with(r, [&] { return answer(after(q)); });
                     });
}

void LocalServer::post(const std::string& name, std::function<Reply(const std::string&)> answer) {
  state_->server.Post(state_->below(name), [answer = std::move(answer)](const httplib::Request& q,
                                                                        httplib::Response& r) {
    answer_with(r, [&] { return answer(q.body); });
  });
}

void LocalServer::start() {
  state_->thread = std::thread([this] { state_->server.listen_after_bind(); });
}

}  // namespace dunefield
