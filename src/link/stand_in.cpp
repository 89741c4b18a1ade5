// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/stand_in.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <stdlib.h>
#include <termios.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <boost/asio/io_context.hpp>
#include <boost/asio/ip/tcp.hpp>
#include <boost/asio/write.hpp>
#include <cerrno>
#include <cstring>
#include <deque>
#include <mutex>
#include <thread>
#include <vector>

#include "modbus_library.hpp"
#include "tamlo/link/stream.hpp"

namespace tamlo::link {
namespace stand_in_asio = boost::asio;
using stand_in_asio::ip::tcp;

// A port of the loopback address, and who has come to it.
class LoopbackPort {
 public:
  explicit LoopbackPort(int port) {
    boost::system::error_code error;
    const tcp::endpoint at(stand_in_asio::ip::address_v4::loopback(),
                           static_cast<std::uint16_t>(port));
    const auto must = [&] {
      if (error) throw LinkError(fmt::format("127.0.0.1:{}: {}", port, error.message()));
    };
    acceptor_.open(at.protocol(), error);
    must();
    // Child processes do not inherit the socket.
    ::fcntl(acceptor_.native_handle(), F_SETFD, FD_CLOEXEC);
    acceptor_.set_option(tcp::acceptor::reuse_address(true), error);
    acceptor_.bind(at, error);
    must();
    acceptor_.listen(most_clients, error);
    must();
    acceptor_.non_blocking(true, error);
    must();
  }

  int port() const { return acceptor_.local_endpoint().port(); }

  /// Those who have come since, beside so many clients.
  std::vector<tcp::socket> accept(std::size_t clients) {
    std::vector<tcp::socket> come;
    for (;;) {
      boost::system::error_code error;
      tcp::socket socket(context_);
      acceptor_.accept(socket, error);
      if (error) return come;
      if (clients + come.size() >= most_clients) continue;  // closed again
      socket.non_blocking(true, error);
      socket.set_option(tcp::no_delay(true), error);
      come.push_back(std::move(socket));
    }
  }

 private:
  stand_in_asio::io_context context_{};
  tcp::acceptor acceptor_{context_};
};

namespace {

constexpr std::size_t most_errors = 16;  // that an instrument keeps

std::string_view words_of(ScpiError error) {
  switch (error) {
    case ScpiError::undefined_header:
      return "Undefined header";
    case ScpiError::out_of_range:
      return "Data out of range";
    case ScpiError::queue_overflow:
      return "Queue overflow";
  }
  return "";
}

// False where it does not take all.
bool send_all(tcp::socket& client, const std::string& bytes) {
  boost::system::error_code failed;
  stand_in_asio::write(client, stand_in_asio::buffer(bytes), failed);
  return !failed;
}

}  // namespace

struct LineServer::Inside {
  explicit Inside(int number) : port(number) {}
  LoopbackPort port;
  std::vector<tcp::socket> clients{};
};

LineServer::LineServer(int port) : inside_(std::make_unique<Inside>(port)) {}
LineServer::~LineServer() = default;
int LineServer::port() const { return inside_->port.port(); }
std::size_t LineServer::clients() const { return inside_->clients.size(); }
void LineServer::send(const std::string& line) { send_bytes(line + "\n"); }
void LineServer::disconnect() { inside_->clients.clear(); }

void LineServer::send_bytes(const std::string& bytes) {
  for (auto& client : inside_->port.accept(clients()))
    inside_->clients.push_back(std::move(client));
  std::erase_if(inside_->clients, [&](tcp::socket& client) { return !send_all(client, bytes); });
}

struct ScpiServer::Inside {
  Inside(int number, std::string who, Answer with)
      : port(number), identity(std::move(who)), answer(std::move(with)) {}

  struct Client {
    tcp::socket socket;
    std::string heard{};
  };
  LoopbackPort port;
  std::string identity;
  Answer answer;
  std::vector<Client> clients{};
  std::deque<ScpiError> errors{};

  // Of more errors than are kept, the last tells that some are missing.
  void report(ScpiError error) {
    if (errors.size() < most_errors) {
      errors.push_back(error);
    } else {
      errors.back() = ScpiError::queue_overflow;
    }
  }

  // What comes back; nothing for what has no answer.
  std::optional<std::string> reply(std::string_view line) {
    if (line == "*IDN?") return identity;
    if (line == "*OPC?") return "1";
    if (line == "*CLS" || line == "*RST") {
      errors.clear();
      return {};
    }
    if (line == "SYST:ERR?") {
      if (errors.empty()) return "0,\"No error\"";
      const auto oldest = errors.front();
      errors.pop_front();
      return fmt::format("{},\"{}\"", static_cast<int>(oldest), words_of(oldest));
    }
    const auto reply = answer(line);
    if (const auto* error = std::get_if<ScpiError>(&reply)) {
      report(*error);
    } else if (line.ends_with('?')) {
      return std::get<std::string>(reply);
    }
    return {};
  }

  // False once it has gone.
  bool serve(Client& client) {
    std::array<char, 1024> bytes{};
    boost::system::error_code error;
    const auto got = client.socket.read_some(stand_in_asio::buffer(bytes), error);
    if (error == stand_in_asio::error::would_block) return true;
    if (error) return false;
    client.heard.append(bytes.data(), got);
    for (auto end = client.heard.find('\n'); end != std::string::npos;
         end = client.heard.find('\n')) {
      auto line = client.heard.substr(0, end);
      client.heard.erase(0, end + 1);
      if (line.ends_with('\r')) line.pop_back();
      const auto words = line.empty() ? std::nullopt : reply(line);
      if (words && !send_all(client.socket, *words + "\n")) return false;
    }
    return client.heard.size() < 65536;
  }
};

ScpiServer::ScpiServer(int port, std::string identity, Answer answer)
    : inside_(std::make_unique<Inside>(port, std::move(identity), std::move(answer))) {}
ScpiServer::~ScpiServer() = default;
int ScpiServer::port() const { return inside_->port.port(); }

void ScpiServer::serve() {
  auto& in = *inside_;
  for (auto& client : in.port.accept(in.clients.size()))
    in.clients.push_back({.socket = std::move(client)});
  std::erase_if(in.clients, [&](Inside::Client& client) { return !in.serve(client); });
}

struct ModbusServer::Inside {
  explicit Inside(int number) : port(number), library(modbus_library()) {
    context = library.new_tcp("127.0.0.1", "502");  // an address that is never listened on
    mapping = library.new_mapping(0, 0, registers, registers);
    if (context == nullptr || mapping == nullptr) throw LinkError("no memory for Modbus");
  }
  ~Inside() {
    thread = {};
    library.free_mapping(mapping);
    library.free(context);
  }
  Inside(const Inside&) = delete;
  Inside& operator=(const Inside&) = delete;

  LoopbackPort port;
  const ModbusLibrary& library;
  modbus_t* context = nullptr;
  modbus_mapping_t* mapping = nullptr;
  std::mutex mutex{};
  std::vector<tcp::socket> clients{};
  std::jthread thread{};

  void serve(const std::stop_token& stop) {
    while (!stop.stop_requested()) {
      for (auto& client : port.accept(clients.size())) clients.push_back(std::move(client));
      std::vector<pollfd> wanted;
      for (auto& client : clients) {
        wanted.push_back({.fd = client.native_handle(), .events = POLLIN, .revents = 0});
      }
      ::poll(wanted.data(), wanted.size(), 5);
      std::size_t i = 0;
      std::erase_if(clients, [&](const tcp::socket&) {
        const auto& polled = wanted[i++];
        return polled.revents != 0 && !reply(polled.fd);
      });
    }
  }

  bool reply(int socket) {
    std::array<std::uint8_t, MODBUS_TCP_MAX_ADU_LENGTH> request{};
    library.set_socket(context, socket);
    const int length = library.receive(context, request.data());
    if (length < 0) return false;
    const std::lock_guard lock(mutex);
    return length == 0 || library.reply(context, request.data(), length, mapping) >= 0;
  }
};

ModbusServer::ModbusServer(int port) : inside_(std::make_unique<Inside>(port)) {
  inside_->thread =
      std::jthread([in = inside_.get()](const std::stop_token& stop) { in->serve(stop); });
}
ModbusServer::~ModbusServer() = default;
int ModbusServer::port() const { return inside_->port.port(); }

void ModbusServer::set_word(int first, std::uint32_t word) {
  if (first < 0 || first + 1 >= registers) return;
  const std::lock_guard lock(inside_->mutex);
  for (auto* bank : {inside_->mapping->tab_registers, inside_->mapping->tab_input_registers}) {
    bank[first] = static_cast<std::uint16_t>(word >> 16U);
    bank[first + 1] = static_cast<std::uint16_t>(word & 0xFFFFU);
  }
}

TerminalPort::TerminalPort() {
  const auto must = [](bool done) {
    if (!done) throw LinkError(fmt::format("a pseudo terminal: {}", std::strerror(errno)));
  };
  descriptor_ = ::posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC);
  must(descriptor_ >= 0);
  must(::grantpt(descriptor_) == 0 && ::unlockpt(descriptor_) == 0);
  const char* const name = ::ptsname(descriptor_);
  must(name != nullptr);
  path_ = name;
  termios raw{};
  must(::tcgetattr(descriptor_, &raw) == 0);
  ::cfmakeraw(&raw);
  must(::tcsetattr(descriptor_, TCSANOW, &raw) == 0);
  ::fcntl(descriptor_, F_SETFL, O_NONBLOCK);
}

TerminalPort::~TerminalPort() {
  if (descriptor_ >= 0) ::close(descriptor_);
}

void TerminalPort::send_bytes(const std::string& bytes) {
  // Until somebody opens it, the bytes pile up in the kernel up to its bound, and are then dropped.
  [[maybe_unused]] const auto sent = ::write(descriptor_, bytes.data(), bytes.size());
}

}  // namespace tamlo::link
