// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <arpa/inet.h>
#include <gtest/gtest.h>
#include <sys/socket.h>

// Ports of this machine, by the system's own calls: nothing of the library.
namespace tamlo::testing {

inline sockaddr_in loopback(int port) {
  sockaddr_in at{};
  at.sin_family = AF_INET;
  at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  at.sin_port = htons(static_cast<std::uint16_t>(port));
  return at;
}

/// Listens with that socket at a free port, and gives it.
inline int listen_with(int listener) {
  auto at = loopback(0);
  EXPECT_EQ(::bind(listener, reinterpret_cast<sockaddr*>(&at), sizeof at), 0);
  EXPECT_EQ(::listen(listener, 64), 0);
  socklen_t size = sizeof at;
  ::getsockname(listener, reinterpret_cast<sockaddr*>(&at), &size);
  return ntohs(at.sin_port);
}

/// A socket that is connected to the port.
inline int connected(int port) {
  auto at = loopback(port);
  const int client = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  EXPECT_EQ(::connect(client, reinterpret_cast<sockaddr*>(&at), sizeof at), 0);
  return client;
}

}  // namespace tamlo::testing
