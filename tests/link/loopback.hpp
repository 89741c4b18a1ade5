// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <arpa/inet.h>
#include <gtest/gtest.h>
#include <sys/socket.h>
#include <unistd.h>

#include <chrono>
#include <thread>

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

/// A port that nothing listens at, for a program that is started next.
inline int free_port() {
  const int listener = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  const int port = listen_with(listener);
  ::close(listener);
  return port;
}

/// Connects the socket to the port; false where nothing listens there.
inline bool connects(int client, int port) {
  auto at = loopback(port);
  return ::connect(client, reinterpret_cast<sockaddr*>(&at), sizeof at) == 0;
}

/// Waits until a program that was started listens at the port, for 10 s.
inline void await_listener(int port) {
  bool there = false;
  for (int i = 0; i < 1000 && !there; ++i) {
    const int client = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    there = connects(client, port);
    ::close(client);
    if (!there) std::this_thread::sleep_for(std::chrono::milliseconds(10));
  }
  EXPECT_TRUE(there) << "nothing listens at port " << port;
}

/// A socket that is connected to the port.
inline int connected(int port) {
  const int client = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  EXPECT_TRUE(connects(client, port));
  return client;
}

}  // namespace tamlo::testing
