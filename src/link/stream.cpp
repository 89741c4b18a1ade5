// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/stream.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <boost/asio/connect.hpp>
#include <boost/asio/io_context.hpp>
#include <boost/asio/ip/tcp.hpp>
#include <boost/asio/serial_port.hpp>
#include <cerrno>
#include <cstring>
#include <thread>
#include <utility>

namespace tamlo::link {
namespace {

namespace asio = boost::asio;
using boost::system::error_code;

constexpr std::size_t longest_line = 4096;

[[noreturn]] void fail(const std::string& what, const std::string& why) {
  throw LinkError(fmt::format("{}: {}", what, why));
}

// Reads lines off an open descriptor.
class Lines : public Stream {
 public:
  explicit Lines(std::string name) : name_(std::move(name)) {}

  bool read_line(std::string& into, Clock::time_point until) override {
    for (;;) {
      const auto end = buffer_.find('\n', scanned_);
      if (end != std::string::npos || buffer_.size() >= longest_line) {
        const auto length = std::min(end, longest_line);
        into.assign(buffer_, 0, length);
        if (into.ends_with('\r')) into.pop_back();
        buffer_.erase(0, end == length ? length + 1 : length);
        scanned_ = 0;
        return true;
      }
      scanned_ = buffer_.size();
      if (ended_ || !wait(until) || !receive(until)) return last_line(into);
    }
  }
  bool read_bytes(std::string& into, Clock::time_point until) override {
    while (buffer_.empty() && !ended_ && wait(until) && receive(until)) {
    }
    into += buffer_;
    scanned_ = 0;
    return !std::exchange(buffer_, {}).empty();
  }
  bool ended() const override { return ended_ && buffer_.empty(); }
  std::size_t discard() override {
    constexpr std::size_t most = 1 << 20;  // of what comes without an end
    std::size_t count = 0;
    do {
      count += buffer_.size();
      buffer_.clear();
    } while (count < most && can_be_drained() && !ended_ && wait(Clock::now()) &&
             receive(Clock::now()) && !buffer_.empty());
    scanned_ = 0;
    return count;
  }

 protected:
  virtual int descriptor() = 0;
  /// False for files: a read of a device's may wait for what does not come.
  virtual bool can_be_drained() const { return true; }
  /// True for what is whole at its end: a regular file.
  virtual bool has_last_line() const { return false; }
  /// True for what may have more later, as a log that grows.
  virtual bool grows() const { return false; }

  void write(std::string_view bytes) override {
    while (!bytes.empty()) {
      // Who has gone is an error to tell, and no signal that ends the program. Ports send none.
      auto sent = ::send(descriptor(), bytes.data(), bytes.size(), MSG_NOSIGNAL);
      if (sent < 0 && errno == ENOTSOCK) sent = ::write(descriptor(), bytes.data(), bytes.size());
      if (sent < 0 && errno == EINTR) continue;
      if (sent < 0 && errno == EAGAIN) {
        pollfd full{.fd = descriptor(), .events = POLLOUT, .revents = 0};
        if (::poll(&full, 1, 5000) > 0) continue;
        fail(name_, "it takes nothing for 5 s");
      }
      if (sent < 0) fail(name_, std::strerror(errno));
      bytes.remove_prefix(static_cast<std::size_t>(sent));
    }
  }

 private:
  std::string name_;
  std::string buffer_{};
  std::size_t scanned_ = 0;  // so much of it has no end of a line
  bool ended_ = false;

  // What stands behind the last end of a line, once nothing comes any more.
  bool last_line(std::string& into) {
    if (!ended_ || buffer_.empty()) return false;
    into = std::exchange(buffer_, {});
    scanned_ = 0;
    return has_last_line();
  }

  bool wait(Clock::time_point until) {
    const auto left =
        std::chrono::duration_cast<std::chrono::milliseconds>(until - Clock::now()).count();
    pollfd wanted{.fd = descriptor(), .events = POLLIN, .revents = 0};
    const int ready = ::poll(&wanted, 1, static_cast<int>(std::clamp<long>(left, 0, 60'000)));
    if (ready < 0 && errno != EINTR) fail(name_, std::strerror(errno));
    return ready > 0;
  }

  // False where nothing came before `until`: a file is always ready, at its end too.
  bool receive(Clock::time_point until) {
    std::array<char, 4096> bytes{};
    const auto got = ::read(descriptor(), bytes.data(), bytes.size());
    if (got < 0 && (errno == EINTR || errno == EAGAIN)) return true;
    if (got < 0) fail(name_, std::strerror(errno));
    if (got > 0) {
      buffer_.append(bytes.data(), static_cast<std::size_t>(got));
    } else if (!grows()) {
      ended_ = true;
    } else {
      if (Clock::now() >= until) return false;
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    return true;
  }
};

class FileStream : public Lines {
 public:
  explicit FileStream(const model::StreamFile& at) : Lines(at.path), grows_(at.follow) {
    const auto& path = at.path;
    if (path != "-") {
      descriptor_ = ::open(path.c_str(), O_RDWR | O_CLOEXEC | O_NOCTTY);
      if (descriptor_ < 0) descriptor_ = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOCTTY);
      if (descriptor_ < 0) fail(path, std::strerror(errno));
    }
  }
  ~FileStream() override {
    if (descriptor_ != STDIN_FILENO) ::close(descriptor_);
  }
  FileStream(const FileStream&) = delete;
  FileStream& operator=(const FileStream&) = delete;

 private:
  int descriptor_ = STDIN_FILENO;
  bool grows_;
  int descriptor() override { return descriptor_; }
  bool grows() const override { return grows_; }
  bool can_be_drained() const override { return false; }
  bool has_last_line() const override {
    struct stat status {};
    return ::fstat(descriptor_, &status) == 0 && S_ISREG(status.st_mode);
  }
};

// A socket or a serial port; Asio opens it, in its own way for each.
template <class Port>
class PortStream : public Lines {
 public:
  PortStream(const std::string& name, std::unique_ptr<asio::io_context> context, Port port)
      : Lines(name), context_(std::move(context)), port_(std::move(port)) {
    ::fcntl(port_.native_handle(), F_SETFD, FD_CLOEXEC);
  }

 private:
  std::unique_ptr<asio::io_context> context_;
  Port port_;
  int descriptor() override { return port_.native_handle(); }
};

std::unique_ptr<Stream> open_at(const model::TcpPort& at) {
  const auto name = fmt::format("{}:{}", at.host, at.port);
  auto context = std::make_unique<asio::io_context>();
  error_code error;
  asio::ip::tcp::resolver resolver(*context);
  const auto found = resolver.resolve(at.host, std::to_string(at.port), error);
  if (error) fail(name, error.message());
  asio::ip::tcp::socket socket(*context);
  error = asio::error::would_block;
  asio::async_connect(socket, found,
                      [&](const error_code& result, const auto&) { error = result; });
  context->run_for(std::chrono::seconds(5));
  if (error == asio::error::would_block) fail(name, "no answer within 5 s");
  if (error) fail(name, error.message());
  socket.set_option(asio::ip::tcp::no_delay(true), error);
  return std::make_unique<PortStream<asio::ip::tcp::socket>>(name, std::move(context),
                                                             std::move(socket));
}

std::unique_ptr<Stream> open_at(const model::SerialPort& at) {
  using asio::serial_port_base;
  auto context = std::make_unique<asio::io_context>();
  asio::serial_port port(*context);
  error_code error;
  port.open(at.device, error);
  const auto set = [&](auto option) {
    if (!error) port.set_option(option, error);
  };
  set(serial_port_base::baud_rate(static_cast<unsigned>(at.baud)));
  set(serial_port_base::character_size(static_cast<unsigned>(at.data_bits)));
  set(serial_port_base::parity(at.parity == model::Parity::even  ? serial_port_base::parity::even
                               : at.parity == model::Parity::odd ? serial_port_base::parity::odd
                                                                 : serial_port_base::parity::none));
  set(serial_port_base::stop_bits(at.stop_bits == 2 ? serial_port_base::stop_bits::two
                                                    : serial_port_base::stop_bits::one));
  if (error) fail(at.device, error.message());
  return std::make_unique<PortStream<asio::serial_port>>(at.device, std::move(context),
                                                         std::move(port));
}

std::unique_ptr<Stream> open_at(const model::StreamFile& at) {
  return std::make_unique<FileStream>(at);
}

}  // namespace

std::unique_ptr<Stream> open(const model::Link& link) {
  return std::visit([](const auto& at) { return open_at(at); }, link.at);
}

}  // namespace tamlo::link
