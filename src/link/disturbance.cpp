// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/disturbance.hpp"

#include <algorithm>
#include <utility>

#include "tamlo/names.hpp"

namespace tamlo::link {

std::string_view name(LinkFault fault) {
  return name_in({"lost", "torn", "doubled", "late", "garbage", "disconnect", "hang"}, fault);
}

Disturbance::Disturbance(std::vector<LinkFault> faults, std::uint64_t seed)
    : faults_(std::move(faults)), stream_(seed, 7) {}

bool Disturbance::strikes(LinkFault fault, double part) {
  return std::ranges::find(faults_, fault) != faults_.end() && stream_.uniform() < part;
}

std::string Disturbance::of(const std::string& line) {
  constexpr double seldom = 0.02;
  auto text = line + "\n";
  if (strikes(LinkFault::lost, seldom)) return {};
  if (strikes(LinkFault::torn, seldom)) {
    text.erase(0,
               1 + static_cast<std::size_t>(stream_.uniform() * static_cast<double>(line.size())));
  }
  if (strikes(LinkFault::doubled, seldom)) text += text;
  if (strikes(LinkFault::garbage, seldom)) {
    std::string bytes;
    for (int i = 0; i < 5; ++i) bytes.push_back(static_cast<char>(stream_.uniform() * 256.0));
    text.insert(0, bytes);
  }
  if (late_.empty() && strikes(LinkFault::late, seldom)) {
    late_ = std::exchange(text, {});
  } else if (!late_.empty() && stream_.uniform() < 0.3) {
    text += std::exchange(late_, {});
  }
  return text;
}

bool Disturbance::disconnects() { return strikes(LinkFault::disconnect, 0.005); }
bool Disturbance::hangs() { return strikes(LinkFault::hang, 0.02); }

}  // namespace tamlo::link
