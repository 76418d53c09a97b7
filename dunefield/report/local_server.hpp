// A page of this machine: served to this machine alone, for those who know its token.
#pragma once

#include <functional>
#include <memory>
#include <string>

namespace dunefield {

class LocalServer {
 public:
  struct Reply {
    std::string body;  ///< empty: nothing new (204)
    std::string type = "application/json";
  };
  /// @param html the page itself. @param port 0: any that is free
  /// @throw InputError for a port that is taken
  LocalServer(const std::string& html, int port);
  ~LocalServer();
  LocalServer(const LocalServer&) = delete;
  LocalServer& operator=(const LocalServer&) = delete;

  /// What is answered below the page's address, from several threads at once; an InputError becomes
  /// a refusal with its text. All before `start`.
  /// @param answer is given the number behind "after=", else -1
  void get(const std::string& name, std::function<Reply(long after)> answer);
  /// @param answer is given the body, 64 KB at most
  void post(const std::string& name, std::function<Reply(const std::string& body)> answer);
  /// Serves from now on, on threads of its own.
  void start();

  /// "http://127.0.0.1:8080/9f.../"
  const std::string& address() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace dunefield
