#include <dunefield/report/local_server.hpp>

#include <random>
#include <thread>

#include <fmt/format.h>

#include <dunefield/base/error.hpp>
#include <dunefield/report/guarded_server.hpp>

namespace dunefield {
namespace {

constexpr char here[] = "127.0.0.1";
constexpr std::size_t largest_request = 64 * 1024;

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
    server.set_payload_max_length(largest_request);
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
    server.set_pre_routing_handler([this](const httplib::Request& q, httplib::Response& r) {
      r.status = refusal(q);
      if (r.status < 0) return httplib::Server::HandlerResponse::Unhandled;
      r.set_header("Connection", "close");  // a body that was not read is no next request
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
  /// A name that leads here may be anybody's, and so may a page that asks: only our own name is
  /// answered to, only our own page. Bodies in chunks have no length that could be limited.
  /// @return a status, -1: none
  int refusal(const httplib::Request& q) const {
    constexpr int forbidden = 403, length_required = 411;
    const std::string number = fmt::format(":{}", port);
    const auto is_ours = [&](const std::string& host) {
      return host == here + number || host == "localhost" + number;
    };
    if (!is_ours(q.get_header_value("Host"))) return forbidden;
    if (q.has_header("Origin")) {
      const std::string origin = q.get_header_value("Origin"), scheme = "http://";
      if (!origin.starts_with(scheme) || !is_ours(origin.substr(scheme.size()))) return forbidden;
    }
    const std::string site = q.get_header_value("Sec-Fetch-Site");
    const bool followed = q.method == "GET" && q.get_header_value("Sec-Fetch-Mode") == "navigate";
    if (!site.empty() && site != "same-origin" && site != "none" && !followed) return forbidden;
    return q.has_header("Transfer-Encoding") ? length_required : -1;
  }
  std::string below(const std::string& name) const { return "/" + token + "/" + name; }

  const std::string token, html;
  GuardedServer server;
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
