// The one family of exceptions: what failed, where, and what to do about it.
#pragma once

#include <stdexcept>
#include <string>

namespace dunefield {

/// Base of everything the library throws. `what()` is one line that ends with the advice.
class Error : public std::runtime_error {
 public:
  /// @param what  what failed, naming the value that did
  /// @param where file, line, key, part or place
  /// @param advice what the user can do
  Error(const std::string& what, const std::string& where, const std::string& advice)
      : std::runtime_error((where.empty() ? "" : where + ": ") + what +
                           (advice.empty() ? "" : "; " + advice)) {}
};

/// Something the user gave cannot be used: a file, a key, a value.
class InputError : public Error {
 public:
  using Error::Error;
};

/// The mesher could not make a sound mesh.
class MeshError : public Error {
 public:
  using Error::Error;
};

/// The flow could not be computed.
class FlowError : public Error {
 public:
  using Error::Error;
};

/// A file could not be written.
class OutputError : public Error {
 public:
  using Error::Error;
};

/// The user asked to stop before there was anything worth keeping.
class Cancelled : public Error {
 public:
  Cancelled() : Error("stopped on request", "", "") {}
};

}  // namespace dunefield
