// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/board.hpp"

namespace tamlo::model {

std::string_view name(Convention convention) {
  return convention == Convention::full_scale ? "full scale" : "last code";
}

std::string_view name(Architecture architecture) {
  switch (architecture) {
    case Architecture::sar:
      return "sar";
    case Architecture::delta_sigma:
      return "delta sigma";
    case Architecture::other:
      return "other";
  }
  return "";
}

std::string_view name(Coding coding) {
  switch (coding) {
    case Coding::straight_binary:
      return "straight binary";
    case Coding::offset_binary:
      return "offset binary";
    case Coding::twos_complement:
      return "two's complement";
  }
  return "";
}

std::string_view name(Operation operation) {
  switch (operation) {
    case Operation::multiply:
      return "multiply";
    case Operation::add:
      return "add";
    case Operation::divide:
      return "divide";
    case Operation::shift_right:
      return "shift_right";
    case Operation::clamp:
      return "clamp";
    case Operation::lines:
      return "lines";
    case Operation::polynomial:
      return "polynomial";
  }
  return "";
}

std::string_view name(FirstTransition transition) {
  return transition == FirstTransition::half_code ? "0.5 LSB" : "1 LSB";
}

std::string_view name(Parity parity) {
  switch (parity) {
    case Parity::none:
      return "none";
    case Parity::even:
      return "even";
    case Parity::odd:
      return "odd";
  }
  return "";
}

std::string_view name(LineForm form) {
  switch (form) {
    case LineForm::pattern:
      return "pattern";
    case LineForm::csv:
      return "csv";
    case LineForm::pairs:
      return "pairs";
    case LineForm::number:
      return "number";
  }
  return "";
}

std::string_view name(Speaks speaks) {
  switch (speaks) {
    case Speaks::lines:
      return "lines";
    case Speaks::scpi:
      return "scpi";
    case Speaks::modbus:
      return "modbus";
    case Speaks::frames:
      return "frames";
  }
  return "";
}

std::string_view name(NumberType type) {
  switch (type) {
    case NumberType::int16:
      return "int16";
    case NumberType::uint16:
      return "uint16";
    case NumberType::int24:
      return "int24";
    case NumberType::uint24:
      return "uint24";
    case NumberType::int32:
      return "int32";
    case NumberType::uint32:
      return "uint32";
    case NumberType::float32:
      return "float32";
  }
  return "";
}

std::size_t size_of(NumberType type) {
  switch (type) {
    case NumberType::int16:
    case NumberType::uint16:
      return 2;
    case NumberType::int24:
    case NumberType::uint24:
      return 3;
    default:
      return 4;
  }
}

std::string_view name(Order order) {
  return order == Order::big_endian ? "big endian" : "little endian";
}

std::string_view name(Bank bank) { return bank == Bank::input ? "input" : "holding"; }

}  // namespace tamlo::model
