// SPDX-License-Identifier: Apache-2.0
#include "page_module.hpp"

#include <httplib.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <condition_variable>
#include <cstdio>
#include <cstring>
#include <memory>
#include <mutex>
#include <random>
#include <thread>

#include "tamlo/watch_page_text.hpp"

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

}  // namespace

struct TamloPage {
  httplib::Server server{};
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

TamloPage* tamlo_page_open(int port, char* problem, std::size_t size) {
  auto page = std::make_unique<TamloPage>();
  auto& in = *page;
  in.server.set_pre_routing_handler(
      [&in](const httplib::Request& request, httplib::Response& response) {
        if (in.from_here(request)) return httplib::Server::HandlerResponse::Unhandled;
        response.status = 403;
        return httplib::Server::HandlerResponse::Handled;
      });
  const auto path = "/" + in.token + "/";
  in.server.Get(path, [](const httplib::Request&, httplib::Response& response) {
    response.set_header(
        "Content-Security-Policy",
        "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; "
        "connect-src 'self'; img-src data:; base-uri 'none'; form-action 'none'");
    response.set_header("Referrer-Policy", "no-referrer");
    response.set_header("Cache-Control", "no-store");
    response.set_content(tamlo::tool::watch_page_text, "text/html");
  });
  in.server.Get(path + "events", [&in](const httplib::Request&, httplib::Response& response) {
    in.serve_events(response);
  });
  constexpr const char* loopback = "127.0.0.1";
  const int bound = port == 0 ? in.server.bind_to_any_port(loopback)
                              : (in.server.bind_to_port(loopback, port) ? port : -1);
  if (bound <= 0) {
    std::snprintf(problem, size, "127.0.0.1:%d: %s", port, std::strerror(errno));
    return nullptr;
  }
  in.host = std::string(loopback) + ":" + std::to_string(bound);
  in.address = "http://" + in.host + path;
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
