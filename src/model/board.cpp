// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/board.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/model/detail/accuracy.hpp"
#include "tamlo/model/detail/signal_path.hpp"
#include "tamlo/names.hpp"

namespace tamlo::model {

TAMLO_COPIED_HERE(Sensor);

TAMLO_COPIED_HERE(Stage);

TAMLO_COPIED_HERE(DigitalStage);

TAMLO_COPIED_HERE(Board);

std::string_view name(Convention convention) {
  return convention == Convention::full_scale ? "full scale" : "last code";
}

std::string_view name(Architecture architecture) {
  return name_in({"sar", "delta sigma", "other"}, architecture);
}

std::string_view name(Coding coding) {
  return name_in({"straight binary", "offset binary", "two's complement"}, coding);
}

std::string_view name(Operation operation) {
  return name_in({"multiply", "add", "divide", "shift_right", "clamp", "lines", "polynomial"},
                 operation);
}

std::string_view name(FirstTransition transition) {
  return transition == FirstTransition::half_code ? "0.5 LSB" : "1 LSB";
}

std::string_view name(HysteresisSide side) { return name_in({"below", "about", "above"}, side); }
double upward(HysteresisSide side, double hysteresis) {
  return side == HysteresisSide::below   ? 0.0
         : side == HysteresisSide::about ? hysteresis / 2.0
                                         : hysteresis;
}
std::string_view name(JudgedBy judged) {
  return name_in({"uncertainty", "worst case", "both"}, judged);
}
std::string_view name(Parity parity) { return name_in({"none", "even", "odd"}, parity); }

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
  return name_in({"lines", "scpi", "modbus", "frames"}, speaks);
}

std::string_view name(NumberType type) {
  return name_in({"int16", "uint16", "int24", "uint24", "int32", "uint32", "float32"}, type);
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

namespace {

// A value on the scale that the display shows: degC, not K.
double displayed(const model::MeterRange& range, double si) {
  return si - range.full_scale.unit.offset;
}

double top(const model::MeterRange& range) { return displayed(range, range.full_scale.or_zero()); }

}  // namespace

std::optional<std::size_t> range_for(const model::Meter& meter, double reading) {
  for (std::size_t i = 0; i < meter.ranges.size(); ++i) {
    if (std::abs(displayed(meter.ranges[i], reading)) <= top(meter.ranges[i])) return i;
  }
  return {};
}

double digit(const model::MeterRange& range) { return top(range) / range.digits; }

MeterUse use_of(const model::Meter& meter, double temperature) {
  MeterUse result{.seconds = meter.age};
  if (meter.temperature) {
    result.kelvin = std::max(
        {0.0, meter.temperature->low - temperature, temperature - meter.temperature->high});
  }
  return result;
}

MeterUncertainty uncertainty(const model::MeterRange& range, double reading, const MeterUse& use) {
  MeterUncertainty result;
  for (const auto& limit : range.accuracy.limits) {
    double size = limit.size;
    if (limit.basis == quantity::Basis::relative) size *= std::abs(displayed(range, reading));
    if (limit.basis == quantity::Basis::range) size *= top(range);
    if (limit.basis == quantity::Basis::digit) size *= digit(range);
    size = drifted(limit, size, use.kelvin, use.seconds);
    result.limits.push_back(standard_uncertainty(size, limit.distribution, limit.coverage_factor));
  }
  result.resolution = standard_uncertainty(digit(range) / 2.0, quantity::Distribution::uniform);
  return result;
}

double MeterUncertainty::combined() const {
  double variance = resolution * resolution;
  for (const double u : limits) variance += u * u;
  return std::sqrt(variance);
}

}  // namespace tamlo::model
