// SPDX-License-Identifier: Apache-2.0
#include "served_page.hpp"

#include <array>
#include <utility>

#include "installed.hpp"
#include "page_module.hpp"
#include "tamlo/error.hpp"

namespace tamlo::tool {
struct ServedPage::Inside {
  tamlo::detail::SharedLibrary file = open_module("tamlo_page.so", "libcpp-httplib");
  TAMLO_LOADED(open, tamlo_page_open);
  TAMLO_LOADED(close, tamlo_page_close);
  TAMLO_LOADED(address_of, tamlo_page_address);
  TAMLO_LOADED(publish, tamlo_page_publish);
  TAMLO_LOADED(wants_whole, tamlo_page_wants_whole);
  TAMLO_LOADED(publish_whole, tamlo_page_publish_whole);
  TamloPage* page = nullptr;
  std::string address{};
  Answer answer{};
};

ServedPage::ServedPage(int port, const char* html, Answer answer)
    : inside_(std::make_unique<Inside>()) {
  auto& in = *inside_;
  in.answer = std::move(answer);
  std::array<char, 256> problem{};
  const TamloAsk ask = [](void* context, TamloText name, TamloText body, void* reply,
                          TamloPut put) {
    const auto text =
        static_cast<Inside*>(context)->answer({name.data, name.size}, {body.data, body.size});
    put(reply, {text.data(), text.size()});
  };
  in.page = in.open(port, html, in.answer ? ask : nullptr, &in, problem.data(), problem.size());
  if (in.page == nullptr) throw EnvironmentError(problem.data());
  in.address = in.address_of(in.page);
}

ServedPage::~ServedPage() { inside_->close(inside_->page); }

const std::string& ServedPage::address() const { return inside_->address; }

void ServedPage::publish(const std::string& state, const std::string& strip) {
  inside_->publish(inside_->page, state.c_str(), strip.c_str());
}
bool ServedPage::wants_whole() const { return inside_->wants_whole(inside_->page); }
void ServedPage::publish_whole(const std::string& strip) {
  inside_->publish_whole(inside_->page, strip.c_str());
}

}  // namespace tamlo::tool
