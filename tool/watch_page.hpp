// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <string>

namespace tamlo::tool {

/// Page of watched values, for a browser on this machine: one address with a random token in it,
/// which hears of every change. A request that names another host, or comes from another page, is
/// refused.
class WatchPage {
 public:
  /// Port 0 takes any that is free. Throws io::EnvironmentError.
  explicit WatchPage(int port);
  ~WatchPage();
  WatchPage(const WatchPage&) = delete;
  WatchPage& operator=(const WatchPage&) = delete;

  const std::string& address() const;
  /// Both as JSON. A browser that is slow misses some; `whole` is what one that has just come gets
  /// in place of `strip`.
  void publish(const std::string& state, const std::string& strip);
  bool wants_whole() const;
  void publish_whole(const std::string& strip);

 private:
  struct Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace tamlo::tool
