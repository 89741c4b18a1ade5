// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/stand_in.hpp"

#include <fcntl.h>
#include <fmt/format.h>

#include <boost/asio/io_context.hpp>
#include <boost/asio/ip/tcp.hpp>
#include <boost/asio/write.hpp>
#include <vector>

#include "tamlo/link/stream.hpp"

namespace tamlo::link {

namespace asio = boost::asio;
using asio::ip::tcp;

struct LineServer::Inside {
  asio::io_context context{};
  tcp::acceptor acceptor{context};
  std::vector<tcp::socket> clients{};
};

LineServer::LineServer(int port) : inside_(std::make_unique<Inside>()) {
  boost::system::error_code error;
  auto& acceptor = inside_->acceptor;
  const tcp::endpoint at(asio::ip::address_v4::loopback(), static_cast<std::uint16_t>(port));
  const auto must = [&] {
    if (error) throw LinkError(fmt::format("127.0.0.1:{}: {}", port, error.message()));
  };
  acceptor.open(at.protocol(), error);
  must();
  ::fcntl(acceptor.native_handle(), F_SETFD, FD_CLOEXEC);  // no program that is started holds it
  acceptor.set_option(tcp::acceptor::reuse_address(true), error);
  acceptor.bind(at, error);
  must();
  acceptor.listen(4, error);
  must();
  acceptor.non_blocking(true, error);
  must();
}

LineServer::~LineServer() = default;

int LineServer::port() const { return inside_->acceptor.local_endpoint().port(); }

std::size_t LineServer::clients() const { return inside_->clients.size(); }

void LineServer::send(const std::string& line) {
  boost::system::error_code error;
  for (;;) {
    tcp::socket socket(inside_->context);
    inside_->acceptor.accept(socket, error);
    if (error) break;
    socket.non_blocking(true, error);
    inside_->clients.push_back(std::move(socket));
  }
  const auto text = line + "\n";
  std::erase_if(inside_->clients, [&](tcp::socket& client) {
    boost::system::error_code failed;
    asio::write(client, asio::buffer(text), failed);
    return static_cast<bool>(failed);
  });
}

}  // namespace tamlo::link
