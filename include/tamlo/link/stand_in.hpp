// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>

#include "tamlo/export.hpp"

/// A TCP port on the loopback address that prints lines to whoever comes, as a board would.
namespace tamlo {
namespace link TAMLO_API {

class LineServer {
 public:
  /// Port 0 takes any that is free. Throws LinkError with the system's words.
  explicit LineServer(int port);
  ~LineServer();
  LineServer(const LineServer&) = delete;
  LineServer& operator=(const LineServer&) = delete;

  int port() const;
  /// Takes in who has come, and sends the line to all; one who does not take it, or has gone, is
  /// left. The line without its end.
  void send(const std::string& line);
  std::size_t clients() const;

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace link
}  // namespace tamlo
