// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/detail/signal_path.hpp"

#include "tamlo/names.hpp"

namespace tamlo::model {

std::string_view name(Carries carries) {
  return name_in({"volts", "a resistance", "a current"}, carries);
}

Carries given_by(const Sensor& sensor) {
  return std::visit(
      [](const auto& kind) {
        if constexpr (requires { kind.given(); }) {
          return kind.given();
        } else {
          return kind.gives;
        }
      },
      sensor);
}

Carries taken_by(const Stage& part) {
  return std::visit([](const auto& kind) { return kind.takes; }, part);
}

}  // namespace tamlo::model
