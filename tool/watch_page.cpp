// SPDX-License-Identifier: Apache-2.0
#include "watch_page.hpp"

#include <array>

#include "module.hpp"
#include "page_module.hpp"

namespace tamlo::tool {
struct WatchPage::Inside {
  decltype(&tamlo_page_open) open;
  decltype(&tamlo_page_close) close;
  decltype(&tamlo_page_address) address_of;
  decltype(&tamlo_page_publish) publish;
  decltype(&tamlo_page_wants_whole) wants_whole;
  decltype(&tamlo_page_publish_whole) publish_whole;
  TamloPage* page = nullptr;
  std::string address{};
};

WatchPage::WatchPage(int port) : inside_(std::make_unique<Inside>()) {
  auto& in = *inside_;
  const auto module = open_module("tamlo_page.so", "libcpp-httplib");
  module.find("tamlo_page_open", in.open);
  module.find("tamlo_page_close", in.close);
  module.find("tamlo_page_address", in.address_of);
  module.find("tamlo_page_publish", in.publish);
  module.find("tamlo_page_wants_whole", in.wants_whole);
  module.find("tamlo_page_publish_whole", in.publish_whole);
  std::array<char, 256> problem{};
  in.page = in.open(port, problem.data(), problem.size());
  if (in.page == nullptr) throw EnvironmentError(problem.data());
  in.address = in.address_of(in.page);
}

WatchPage::~WatchPage() { inside_->close(inside_->page); }

const std::string& WatchPage::address() const { return inside_->address; }

void WatchPage::publish(const std::string& state, const std::string& strip) {
  inside_->publish(inside_->page, state.c_str(), strip.c_str());
}
bool WatchPage::wants_whole() const { return inside_->wants_whole(inside_->page); }
void WatchPage::publish_whole(const std::string& strip) {
  inside_->publish_whole(inside_->page, strip.c_str());
}

}  // namespace tamlo::tool
