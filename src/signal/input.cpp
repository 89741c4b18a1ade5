// SPDX-License-Identifier: Apache-2.0
#include "tamlo/signal/detail/input.hpp"

#include "tamlo/names.hpp"

namespace tamlo::signal {

std::string_view name(Input input) { return name_in({"steady", "ramp", "sine", "step"}, input); }

}  // namespace tamlo::signal
