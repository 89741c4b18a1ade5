// SPDX-License-Identifier: Apache-2.0
#include "watch_page.hpp"

#include <dlfcn.h>
#include <fmt/format.h>

#include <array>
#include <filesystem>

#include "page_module.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo::tool {
namespace {

template <class Function>
void load_symbol(void* library, const char* name, Function& into) {
  into = reinterpret_cast<Function>(dlsym(library, name));
  if (into == nullptr)
    throw io::EnvironmentError(fmt::format("the module of the page has no {}", name));
}

// Beside the tool where it was built, in lib/tamlo where it was installed.
void* open_module() {
  std::error_code error;
  const auto tool = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
  for (const auto& path : {tool / "tamlo_page.so", tool / ".." / TAMLO_MODULES / "tamlo_page.so"}) {
    if (!std::filesystem::exists(path, error)) continue;
    if (void* const library = dlopen(path.c_str(), RTLD_NOW)) return library;
    throw io::EnvironmentError(fmt::format("{}: {}", path.string(), dlerror()));
  }
  throw io::EnvironmentError("tamlo_page.so, which serves the page, is not beside the tool");
}

}  // namespace

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
  void* const module = open_module();
  load_symbol(module, "tamlo_page_open", in.open);
  load_symbol(module, "tamlo_page_close", in.close);
  load_symbol(module, "tamlo_page_address", in.address_of);
  load_symbol(module, "tamlo_page_publish", in.publish);
  load_symbol(module, "tamlo_page_wants_whole", in.wants_whole);
  load_symbol(module, "tamlo_page_publish_whole", in.publish_whole);
  std::array<char, 256> problem{};
  in.page = in.open(port, problem.data(), problem.size());
  if (in.page == nullptr) throw io::EnvironmentError(problem.data());
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
