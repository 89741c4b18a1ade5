// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/input.hpp"

namespace tamlo::signal {

std::string_view name(Input input) {
  switch (input) {
    case Input::steady:
      return "steady";
    case Input::ramp:
      return "ramp";
    case Input::sine:
      return "sine";
    case Input::step:
      return "step";
  }
  return "";
}

}  // namespace tamlo::signal
