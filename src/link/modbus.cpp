// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdint>
#include <numeric>
#include <thread>

#include "feed.hpp"
#include "modbus_library.hpp"

namespace tamlo::link {
namespace {

constexpr int longest_request = MODBUS_MAX_READ_REGISTERS;

class ModbusFeed : public Feed {
 public:
  ModbusFeed(const model::Link& link, const model::Board& board)
      : link_(link), board_(board), library_(modbus_library()), slots_(slots_of(link, board)) {
    every_ = std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(link.every));
    if (const auto* tcp = std::get_if<model::TcpPort>(&link.at)) {
      name_ = fmt::format("{}:{}", tcp->host, tcp->port);
      context_ = library_.new_tcp(tcp->host.c_str(), std::to_string(tcp->port).c_str());
    } else if (const auto* port = std::get_if<model::SerialPort>(&link.at)) {
      name_ = port->device;
      const char parity = port->parity == model::Parity::even  ? 'E'
                          : port->parity == model::Parity::odd ? 'O'
                                                               : 'N';
      context_ = library_.new_rtu(port->device.c_str(), port->baud, parity, port->data_bits,
                                  port->stop_bits);
    } else {
      throw LinkError(fmt::format("{}: Modbus needs a TCP or a serial port", link.name));
    }
    try {
      if (context_ == nullptr) fail();
      if (library_.set_station(context_, link.station) != 0) fail();
      library_.set_timeout(context_, 1, 0);
      if (library_.connect(context_) != 0) fail();
    } catch (...) {
      close();
      throw;
    }
  }
  ~ModbusFeed() override { close(); }
  ModbusFeed(const ModbusFeed&) = delete;
  ModbusFeed& operator=(const ModbusFeed&) = delete;

  Got next(std::vector<Value>& values, Clock::time_point until) override {
    values.clear();
    std::this_thread::sleep_until(std::min(until, due_));
    if (Clock::now() < due_) return Got::nothing;
    due_ = std::max(due_ + every_, Clock::now());
    // What lies side by side is read at once, so that two words are of one moment.
    auto order = std::vector<std::size_t>(slots_.size());
    std::iota(order.begin(), order.end(), 0);
    std::ranges::stable_sort(order, {}, [&](std::size_t i) { return link_.values[i].at; });
    for (std::size_t i = 0; i < order.size();) {
      const auto first = link_.values[order[i]].at;
      auto end = first;
      std::size_t later = i;
      while (later < order.size() && link_.values[order[later]].at <= end &&
             end_of(order[later]) - first <= longest_request) {
        end = std::max(end, end_of(order[later++]));
      }
      read(first, static_cast<int>(end - first));
      for (; i < later; ++i) {
        if (!take(order[i], first, values)) return Got::malformed;
      }
    }
    return Got::values;
  }

  void tell(const std::string&) override {
    throw CommandRefused(fmt::format("{}: nothing is set over Modbus", name_));
  }

 private:
  const model::Link& link_;
  const model::Board& board_;
  const ModbusLibrary& library_;
  std::vector<Slot> slots_;
  std::string name_{};
  modbus_t* context_ = nullptr;
  Clock::duration every_{};
  Clock::time_point due_ = Clock::now();
  std::array<std::uint16_t, longest_request> words_{};

  std::int64_t end_of(std::size_t i) const {
    return link_.values[i].at + static_cast<std::int64_t>(model::size_of(link_.values[i].type)) / 2;
  }
  [[noreturn]] void fail() const {
    throw LinkError(fmt::format("{}: {}", name_, library_.error(errno)));
  }
  void close() {
    if (context_ == nullptr) return;
    library_.close(context_);
    library_.free(context_);
  }
  void read(std::int64_t first, int count) {
    const auto read =
        link_.bank == model::Bank::input ? library_.read_input : library_.read_holding;
    if (read(context_, static_cast<int>(first), count, words_.data()) != count) fail();
  }

  bool take(std::size_t i, std::int64_t first, std::vector<Value>& values) {
    const auto& value = link_.values[i];
    const auto count = model::size_of(value.type) / 2;
    std::array<unsigned char, 4> bytes{};
    for (std::size_t k = 0; k < count; ++k) {
      const auto from = value.order == model::Order::big_endian ? k : count - 1 - k;
      const auto word = words_[static_cast<std::size_t>(value.at - first) + from];
      bytes[2 * k] = static_cast<unsigned char>(word >> 8U);
      bytes[2 * k + 1] = static_cast<unsigned char>(word & 0xFFU);
    }
    const double number = decode(bytes.data(), value.type, model::Order::big_endian);
    if (put(values, board_, slots_[i], value, number)) return true;
    problem_ = fmt::format("register {}: a float that is no number", value.at);
    return false;
  }
};

}  // namespace

const ModbusLibrary& modbus_library() {
  static const ModbusLibrary library{};
  return library;
}

std::unique_ptr<Feed> open_modbus(const model::Link& link, const model::Board& board) {
  return std::make_unique<ModbusFeed>(link, board);
}

}  // namespace tamlo::link
