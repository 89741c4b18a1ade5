// SPDX-License-Identifier: Apache-2.0
// What engineers write out of the habit of data sheets, and what becomes of it: the one meaning
// that it can have, in our notation, or a refusal that names what may be meant.
#include <gtest/gtest.h>

#include "tamlo/quantity/notation.hpp"

namespace tamlo::quantity {
namespace {

enum class Place { value, limits, noise, target, meter, range };

std::string read(Place place, std::string_view text, std::string_view symbol) {
  Expected expected{.unit = unit(symbol)};
  switch (place) {
    case Place::range:
      return to_string(parse_range(text, expected));
    case Place::limits:
    case Place::noise:
      expected.meant = place == Place::limits ? Meant::limits : Meant::noise;
      expected.bases = {Basis::absolute, Basis::relative, Basis::code};
      break;
    case Place::target:
      expected.meant = Meant::limits;
      expected.bases = {Basis::absolute, Basis::relative, Basis::span};
      break;
    case Place::meter:
      expected.meant = Meant::limits;
      expected.bases = {Basis::relative, Basis::digit, Basis::range};
      break;
    case Place::value:
      break;
  }
  return to_string(parse_value(text, expected));
}

TEST(DataSheet, EachFormHasOneMeaning) {
  using enum Place;
  const struct {
    Place place;
    const char* text;
    const char* unit;
    const char* becomes;
  } rows[] = {
      {value, "68k", "ohm", "68 kohm"},
      {noise, "18.5 bit noise-free", "V", "0.408697 ppm rms"},
      {noise, "18.5 noise free bits", "V", "0.408697 ppm rms"},
      {noise, "21 effective bits", "V", "0.476837 ppm rms"},
      {noise, "21 bits effective", "V", "0.476837 ppm rms"},
      {noise, "72 dB SNR", "V", "72 dB SNR"},
      {noise, "70.5 dB SINAD at 1 kHz", "V", "70.5 dB SNR"},
      // 20 log10(2^11.4 sqrt(3/2)): 70.396 dB.
      {noise, "11.4 bit ENOB", "V", "70.396 dB SNR"},
      {noise, "11.4 bits ENOB at 10 kHz typ", "V", "70.396 dB SNR"},
      {noise, "72 dB", "V", nullptr},
      {noise, "720 dB SNR", "V", nullptr},
      {value, "2.5 V ±10 ppm/K box -40..85 degC", "V", "2.5 V ±10 ppm/K box 125 K"},
      {value, "2.5 V ±10 ppm/C box 165 K max", "V", "2.5 V ±10 ppm/K box 165 K"},
      {value, "2.5 V ±10 ppm/K box -40 to 125 °C (typ)", "V", "2.5 V ±10 ppm/K box 165 K (typ)"},
      {value, "2.5 V ±10 ppm box 165 K", "V", nullptr},
      {value, "2.5 V ±10 ppm/K box 165 degC", "V", nullptr},
      {value, "2.5 V ±10 ppm/K box 125..-40 degC", "V", nullptr},
      {value, "68 k", "ohm", "68 kohm"},
      {value, "4k7", "ohm", "4.7 kohm"},
      {value, "2M2", "ohm", "2.2 Mohm"},
      {value, "100R", "ohm", "100 ohm"},
      {value, "4R7", "ohm", "4.7 ohm"},
      {value, "4k7 ohm", "ohm", "4.7 kohm"},
      {value, "4k7\u03a9", "ohm", "4.7 kohm"},
      {value, "10 k\u03a9", "ohm", "10 kohm"},
      {value, "330 ohms", "ohm", "330 ohm"},
      {value, "10 kohms 5 %", "ohm", "10 kohm ±5 %"},
      {value, "68k 1%", "ohm", "68 kohm ±1 %"},
      {value, "68 kohm 1 %", "ohm", "68 kohm ±1 %"},
      {value, "68 kohm 1 % 100 ppm/\u00b0C", "ohm", "68 kohm ±1 % ±100 ppm/K"},
      {value, "10k ±0.1% ±25ppm/C", "ohm", "10 kohm ±0.1 % ±25 ppm/K"},
      {value, "10k ±0.1% ±25 ppm/degC", "ohm", "10 kohm ±0.1 % ±25 ppm/K"},
      {value, "100n", "F", "100 nF"},
      {value, "100 n 10 %", "F", "100 nF ±10 %"},
      {value, "4u7", "F", "4.7 uF"},
      {value, "4\u00b57", "F", "4.7 uF"},
      {value, "8 pF typ", "F", "8 pF"},
      {value, "2.5 V 0.05 %", "V", "2.5 V ±0.05 %"},
      {value, "2.5V ±0.05%", "V", "2.5 V ±0.05 %"},
      {value, "2.5 V ±0.05 % 10 ppm/K", "V", "2.5 V ±0.05 % ±10 ppm/K"},
      {value, "2.5 V ±0.05 % max", "V", "2.5 V ±0.05 %"},
      {value, "2.5 V ±0.05 % (max)", "V", "2.5 V ±0.05 %"},
      {value, "2.5 V ±0.05 % typ", "V", "2.5 V ±0.05 % (typ)"},
      {value, "2.5 V ±0.05 % (typ)", "V", "2.5 V ±0.05 % (typ)"},
      {value, "2.5 V ±1 mV 3 sigma", "V", "2.5 V ±1 mV (k=3)"},
      {value, "2.5 V ±1 mV (3 sigma)", "V", "2.5 V ±1 mV (k=3)"},
      {value, "2.5 V ±1 mV 2\u03c3", "V", "2.5 V ±1 mV (k=2)"},
      {value, "2.5 V 1 mV", "V", nullptr},  // 1 mV of what?
      {value, "2.5 V +0.05 %", "V", nullptr},
      {value, "2.5 V ±0.05 % min", "V", nullptr},
      {value, "12", "bit", "12 bit"},
      {value, "12 bits", "bit", "12 bits"},
      {value, "12", "V", nullptr},
      {value, "1 kHz", "Sa/s", "1 kSa/s"},
      {value, "50 Hz", "Sa/s", "50 Sa/s"},
      {value, "400 ksps", "Sa/s", "400 kSa/s"},
      {value, "1 Msps", "Sa/s", "1 MSa/s"},
      {value, "860 SPS", "Sa/s", "860 Sa/s"},
      {value, "250 kS/s", "Sa/s", "250 kSa/s"},
      {value, "100 samples/s", "Sa/s", "100 Sa/s"},
      {value, "1 k", "Sa/s", "1 kSa/s"},
      {value, "1 kSa/s", "Hz", nullptr},
      {value, "5 m", "V", "5 mV"},
      {value, "5 m", "s", nullptr},  // milliseconds or minutes
      {value, "10 Vpp", "A", nullptr},
      {limits, "2 LSB", "V", "±2 LSB"},
      {limits, "±2 LSB max", "V", "±2 LSB"},
      {limits, "2 LSB max", "V", "±2 LSB"},
      {limits, "2 LSB 2 ppm/C", "V", "±2 LSB ±2 ppm/K"},
      {limits, "0.5 LSB typ", "V", "±0.5 LSB (typ)"},
      {limits, "0.1 %", "V", "±0.1 %"},
      {limits, "1 mV", "V", "±1 mV"},
      {limits, "+2 LSB", "V", nullptr},
      {noise, "0.6 LSB rms", "V", "0.6 LSB rms"},
      {noise, "0.6 LSB rms typ", "V", "0.6 LSB rms"},
      {noise, "33 uVpp", "V", "5 uV rms"},
      {noise, "33 \u00b5V p-p", "V", "5 uV rms"},
      {noise, "33 uV pp", "V", "5 uV rms"},
      {noise, "33 uV", "V", nullptr},
      {noise, "0.5 LSB", "V", nullptr},
      {noise, "33 Hz", "V", nullptr},
      {noise, "5", "V", nullptr},
      {target, "0.5 % of span", "V", "±0.5 % of span"},
      {limits, "±0.1 % of full scale", "V", "±0.1 %"},
      {limits, "20 ppm of FSR max", "V", "±20 ppm"},
      {limits, "±0.1 % of range", "V", "±0.1 %"},
      {limits, "±0.1 % of span", "V", nullptr},
      {target, "0.5% of range", "V", nullptr},
      {target, "0.5% of full scale", "V", "±0.5 % of span"},
      {target, "0.5 % of FS", "V", "±0.5 % of span"},
      {target, "0.5 % of reading", "V", "±0.5 %"},
      {target, "0.5%", "V", nullptr},
      {target, "20 mV", "V", "±20 mV"},
      {meter, "0.05 % of reading 2 digits", "V", "±0.05 % ±2 digits"},
      {meter, "0.05 % of reading 20 ppm of range", "V", "±0.05 % ±20 ppm of range"},
      {meter, "±0.05 % of FSR", "V", "±0.05 % of range"},
      {range, "10..16.8 V", "V", "10..16.8 V"},
      {range, "10 - 16.8 V", "V", "10..16.8 V"},
      {range, "10-16.8 V", "V", "10..16.8 V"},
      {range, "10 \u2013 16.8 V", "V", "10..16.8 V"},
      {range, "10 to 16.8 V", "V", "10..16.8 V"},
      {range, "10 V to 16.8 V", "V", "10..16.8 V"},
      {range, "0V..5V", "V", "0..5 V"},
      {range, "-40 to 85 \u00b0C", "degC", "-40..85 degC"},
      {range, "-40 - -10 degC", "degC", "-40..-10 degC"},
      {range, "0 to 50 C", "degC", "0..50 degC"},
      {range, "0 mV to 5 V", "V", nullptr},
      {range, "10 -16.8 V", "V", nullptr},
      {range, "10 V", "V", nullptr},
  };
  for (const auto& row : rows) {
    try {
      const auto text = read(row.place, row.text, row.unit);
      EXPECT_STREQ(text.c_str(), row.becomes == nullptr ? "refused" : row.becomes) << row.text;
      EXPECT_TRUE(row.becomes == nullptr || read(row.place, text, row.unit) == text) << text;
    } catch (const NotationError& error) {
      EXPECT_EQ(row.becomes, nullptr) << row.text << ": " << error.what();
    }
  }
}

// Two meanings: both are named.
TEST(DataSheet, WhatIsAmbiguousIsRefusedWithBothMeanings) {
  const struct {
    Place place;
    const char* text;
    const char* allowed;
  } rows[] = {
      {Place::target, "0.5%", "\"±0.5 % of span\" or \"±0.5 % of reading\": both may be meant"},
      {Place::noise, "18 bit", "\"18 bit noise-free\" or \"18 bit effective\": both may be meant"},
      {Place::noise, "0.5 LSB", "\"0.5 LSB rms\" or \"0.5 LSB pp\": both may be meant"},
  };
  for (const auto& row : rows) {
    try {
      read(row.place, row.text, "V");
      ADD_FAILURE() << row.text;
    } catch (const NotationError& error) {
      EXPECT_EQ(error.hint, row.allowed);
    }
  }
}

}  // namespace
}  // namespace tamlo::quantity
