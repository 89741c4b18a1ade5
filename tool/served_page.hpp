// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <string_view>

namespace tamlo::tool {

/// Page for a browser on this machine: one address with a random token in it. A request that names
/// another host, or comes from another page, is refused.
class ServedPage {
 public:
  /// Answers what the page asks, by a name and a body; called from several threads.
  using Answer = std::function<std::string(std::string_view name, std::string_view body)>;
  /// Port 0 takes any that is free. Throws io::EnvironmentError. The page is a constant of the
  /// program.
  ServedPage(int port, const char* html, Answer answer = {});
  ~ServedPage();
  ServedPage(const ServedPage&) = delete;
  ServedPage& operator=(const ServedPage&) = delete;

  const std::string& address() const;
  /// Tells the page of every change. Both as JSON. A browser that is slow misses some; `whole` is
  /// what one that has just come gets in place of `strip`.
  void publish(const std::string& state, const std::string& strip);
  bool wants_whole() const;
  void publish_whole(const std::string& strip);

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace tamlo::tool
