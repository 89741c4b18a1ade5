// SPDX-License-Identifier: Apache-2.0
// The board of the examples, described in C++ instead of a file.
#pragma once

#include "tamlo/model/board.hpp"
#include "tamlo/quantity/in_code.hpp"

inline tamlo::model::Board throttle_board() {
  using namespace tamlo;
  using quantity::converter_limits, quantity::volts;
  model::Board board;
  board.references.push_back({.name = "supply", .voltage = volts("3.3 V ±2 %")});
  board.converters.push_back({.name = "small",
                              .resolution = 10,
                              .reference = "supply",
                              .offset = converter_limits("±2 LSB"),
                              .gain = converter_limits("±2 LSB"),
                              .inl = converter_limits("±2 LSB")});
  model::Channel throttle{.name = "throttle", .measures = "throttle voltage"};
  throttle.span = quantity::range("0..3 V");
  throttle.converter = "small";
  throttle.target.accuracy = quantity::target_limit("V", "±1 % of span");
  board.channels.push_back(throttle);
  return board;
}
