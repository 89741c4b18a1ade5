// SPDX-License-Identifier: Apache-2.0
#include "tamlo/quantity/format.hpp"

#include <gtest/gtest.h>

namespace tamlo::quantity {
namespace {

TEST(Format, EngineeringPicksThePrefix) {
  struct Case {
    double si;
    const char* unit;
    int digits;
    const char* text;
  };
  for (const auto& [si, symbol, digits, text] :
       {Case{2.5 / 4096, "V", 10, "610.3515625 uV"}, Case{2.5, "V", 10, "2.5 V"},
        Case{240e3, "ohm", 4, "240 kohm"}, Case{1000, "V", 4, "1 kV"},
        Case{999.9, "V", 4, "999.9 V"}, Case{-0.0021, "V", 3, "-2.1 mV"}, Case{0, "mV", 3, "0 mV"},
        Case{1e-3, "V", 3, "1 mV"}, Case{296.15, "degC", 4, "23 degC"}, Case{0.25, "%", 3, "25 %"},
        Case{8e-12, "F", 3, "8 pF"}}) {
    EXPECT_EQ(engineering(si, unit(symbol), digits), text);
  }
  EXPECT_EQ(engineering(12.0, label_unit("l/min"), 3), "12 l/min");
}

TEST(Format, SignificantDigitsStay) {
  EXPECT_EQ(significant(0.1, unit("V"), 3), "0.100");
  EXPECT_EQ(significant(0.0321, unit("mV"), 3), "32.1");
  EXPECT_EQ(significant(1234.5, unit("V"), 2), "1234");
  EXPECT_EQ(significant(0.0, unit("V"), 3), "0");
  EXPECT_EQ(significant(1e-9, unit("V"), 3), "1.00e-09");
}

}  // namespace
}  // namespace tamlo::quantity
