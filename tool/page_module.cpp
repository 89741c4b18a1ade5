// SPDX-License-Identifier: Apache-2.0
#include "page_module.hpp"

#include <arpa/inet.h>
#include <httplib.h>
#include <sys/socket.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <condition_variable>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <random>
#include <set>
#include <thread>
#include <utility>
#include <vector>

namespace {

std::string random_token() {
  std::random_device device;
  std::string token;
  for (int i = 0; i < 32; ++i) token.push_back("0123456789abcdef"[device() % 16U]);
  return token;
}

// One event of a stream of them; the data may have several lines.
std::string event(const char* name, const std::string& data) {
  std::string text = "event: " + std::string(name) + "\n";
  for (std::size_t at = 0; at <= data.size();) {
    const auto end = std::min(data.find('\n', at), data.size());
    text += "data: " + data.substr(at, end - at) + "\n";
    at = end + 1;
  }
  return text + "\n";
}

// Ends connections that are slow to ask, or too many, and all of them at the stop: the server
// itself waits for each byte anew.
class Connections {
 public:
  void open(int port) {
    port_ = port;
    thread_ = std::jthread([this](const std::stop_token& stop) {
      while (!stop.stop_requested()) {
        end_late();
        std::this_thread::sleep_for(std::chrono::milliseconds(100));
      }
    });
  }
  /// A request came whole from this port of the client.
  void came(int client) {
    const std::lock_guard lock(mutex_);
    asked_.insert(client);
  }
  void end_all() {
    thread_ = {};
    for (const auto& [socket, client] : all()) ::shutdown(socket, SHUT_RDWR);
  }

 private:
  using Clock = std::chrono::steady_clock;
  static constexpr std::size_t most = 32;
  static constexpr auto patience = std::chrono::seconds(5);
  int port_ = 0;
  std::mutex mutex_{};
  std::set<int> asked_{};
  std::map<int, Clock::time_point> since_{};  // by the port of the client
  std::jthread thread_{};

  // Each socket of ours that a client is connected to, with the client's port.
  std::vector<std::pair<int, int>> all() const {
    const auto port_by = [](auto ask, int socket) {
      sockaddr_in at{};
      socklen_t size = sizeof at;
      const bool known =
          ask(socket, reinterpret_cast<sockaddr*>(&at), &size) == 0 && at.sin_family == AF_INET;
      return known ? int{ntohs(at.sin_port)} : -1;
    };
    std::vector<std::pair<int, int>> result;
    std::error_code none;
    for (const auto& open : std::filesystem::directory_iterator("/proc/self/fd", none)) {
      const int socket = std::atoi(open.path().filename().c_str());
      if (port_by(::getsockname, socket) != port_) continue;
      if (const int client = port_by(::getpeername, socket); client > 0) {
        result.emplace_back(socket, client);
      }
    }
    return result;
  }

  void end_late() {
    const std::lock_guard lock(mutex_);  // no request comes between the look and the judgement
    const auto now = Clock::now();
    const auto there = all();
    std::map<int, Clock::time_point> since;
    for (const auto& [socket, client] : there) {
      const auto known = since_.find(client);
      since[client] = known != since_.end() ? known->second : now;
      const bool late = !asked_.contains(client) && now - since[client] > patience;
      if (late || since.size() > most) ::shutdown(socket, SHUT_RDWR);
    }
    since_ = std::move(since);
    std::erase_if(asked_, [&](int client) { return !since_.contains(client); });
  }
};

}  // namespace

struct TamloPage {
  httplib::Server server{};
  Connections connections{};
  std::string token = random_token(), host{}, address{};
  std::thread thread{};
  std::mutex mutex{};
  std::condition_variable changed{};
  std::string state{}, strip{}, whole{};
  std::uint64_t number = 0, whole_number = 0;
  std::atomic<int> waiting_for_whole = 0;
  bool stop = false;

  // A page of somewhere else may not ask this server, under whatever name it has found it.
  bool from_here(const httplib::Request& request) const {
    const auto origin = request.get_header_value("Origin");
    return request.get_header_value("Host") == host &&
           (origin.empty() || origin == "http://" + host);
  }

  void serve_events(httplib::Response& response) {
    ++waiting_for_whole;
    auto seen = std::make_shared<std::uint64_t>(0);
    response.set_header("Cache-Control", "no-store");
    response.set_chunked_content_provider(
        "text/event-stream", [this, seen](std::size_t, httplib::DataSink& sink) {
          std::string text;
          {
            std::unique_lock lock(mutex);
            const bool first = *seen == 0;
            changed.wait_for(lock, std::chrono::seconds(2), [&] {
              return stop || (number > *seen && (!first || whole_number > 0));
            });
            if (stop) return false;
            if (number > *seen)
              text = event("state", state) + event("strip", first ? whole : strip);
            *seen = number;
          }
          if (text.empty()) text = ": still here\n\n";
          return sink.write(text.data(), text.size());
        });
  }
};

TamloPage* tamlo_page_open(int port, const char* html, TamloAsk ask, void* context, char* problem,
                           std::size_t size) {
  auto page = std::make_unique<TamloPage>();
  auto& in = *page;
  in.server.set_pre_routing_handler(
      [&in](const httplib::Request& request, httplib::Response& response) {
        in.connections.came(request.remote_port);
        if (in.from_here(request)) return httplib::Server::HandlerResponse::Unhandled;
        response.status = 403;
        return httplib::Server::HandlerResponse::Handled;
      });
  in.server.set_keep_alive_max_count(1);
  in.server.set_payload_max_length(ask != nullptr ? std::size_t{1} << 20 : 4096);
  const auto path = "/" + in.token + "/";
  in.server.Get(path, [html](const httplib::Request&, httplib::Response& response) {
    response.set_header(
        "Content-Security-Policy",
        "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; "
        "connect-src 'self'; img-src data:; base-uri 'none'; form-action 'none'");
    response.set_header("Referrer-Policy", "no-referrer");
    response.set_header("Cache-Control", "no-store");
    response.set_content(html, "text/html");
  });
  in.server.Get(path + "events", [&in](const httplib::Request&, httplib::Response& response) {
    in.serve_events(response);
  });
  if (ask != nullptr) {
    in.server.Post(path + "([a-z]{1,16})", [ask, context](const httplib::Request& request,
                                                          httplib::Response& response) {
      const auto name = request.matches[1].str();
      response.set_header("Cache-Control", "no-store");
      ask(context, {name.data(), name.size()}, {request.body.data(), request.body.size()},
          &response, [](void* reply, TamloText text) {
            // Of a type that the server does not know: what it knows it packs, for up to a second.
            static_cast<httplib::Response*>(reply)->set_content(text.data, text.size,
                                                                "application/vnd.tamlo+json");
          });
    });
  }
  constexpr const char* loopback = "127.0.0.1";
  const int bound = port == 0 ? in.server.bind_to_any_port(loopback)
                              : (in.server.bind_to_port(loopback, port) ? port : -1);
  if (bound <= 0) {
    std::snprintf(problem, size, "127.0.0.1:%d: %s", port, std::strerror(errno));
    return nullptr;
  }
  in.host = std::string(loopback) + ":" + std::to_string(bound);
  in.address = "http://" + in.host + path;
  in.connections.open(bound);
  in.thread = std::thread([&in] { in.server.listen_after_bind(); });
  while (!in.server.is_running()) std::this_thread::yield();
  return page.release();
}

void tamlo_page_close(TamloPage* page) {
  {
    const std::lock_guard lock(page->mutex);
    page->stop = true;
  }
  page->changed.notify_all();
  page->server.stop();
  page->connections.end_all();
  page->thread.join();
  delete page;
}

const char* tamlo_page_address(const TamloPage* page) { return page->address.c_str(); }

void tamlo_page_publish(TamloPage* page, const char* state, const char* strip) {
  {
    const std::lock_guard lock(page->mutex);
    page->state = state;
    page->strip = strip;
    ++page->number;
  }
  page->changed.notify_all();
}

bool tamlo_page_wants_whole(const TamloPage* page) { return page->waiting_for_whole > 0; }

void tamlo_page_publish_whole(TamloPage* page, const char* strip) {
  const std::lock_guard lock(page->mutex);
  page->waiting_for_whole = 0;
  page->whole = strip;
  ++page->whole_number;
}
