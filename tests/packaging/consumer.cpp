// SPDX-License-Identifier: Apache-2.0
#include <cstdio>

#include "tamlo/quantity/format.hpp"
#include "tamlo/version.hpp"

int main() {
  const auto volt = tamlo::quantity::unit("V");
  std::printf("Tamlo %s: code width %s\n", tamlo::version,
              tamlo::quantity::engineering(2.5 / 4096, volt, 10).c_str());
}
