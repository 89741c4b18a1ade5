// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "tamlo/model/frontend.hpp"
#include "tamlo/model/sensor.hpp"
#include "tamlo/quantity/value.hpp"

/// The description of a board as plain data, as the board file gives it. No behaviour: what it
/// means is in `chain`. Names of members are the keys of the file (docs/board-file.md).
namespace tamlo::model {

/// What the budget must cover. Temperatures in K, age in s.
struct Conditions {
  Range temperature{.low = 296.15, .high = 296.15, .unit = quantity::unit("degC")};
  double specified_at = 296.15;
  double age = 0.0;
  std::vector<std::string> defaults{};  ///< keys that the file leaves to their defaults
};

struct Reference {
  std::string name{};
  Value voltage{};
  std::optional<Value> noise{};
};

/// Where the first code transition lies: at half a code width (the converter rounds) or at a whole
/// one (it truncates, and reads half a code width low on average).
enum class FirstTransition : std::uint8_t { half_code, full_code };

/// What the codes are called: from 0, or from -2^(N-1) where zero volts is in the middle.
enum class Coding : std::uint8_t { straight_binary, offset_binary, twos_complement };

/// A selectable attenuation inside the converter.
struct Attenuation {
  std::string name{};
  Value ratio{};
  Range usable{};              ///< V at the pin
  std::optional<Value> inl{};  ///< in place of the converter's
};

struct Converter {
  std::string name{};
  int resolution = 0;  ///< bits
  std::string reference{};
  std::string negative_reference{};    ///< of the low end; none: the low end is 0 V
  std::optional<Range> input_range{};  ///< V, at the nominal reference; none: 0 to the reference
  Coding coding = Coding::straight_binary;
  FirstTransition first_transition = FirstTransition::half_code;
  Value offset{};  ///< relative limits are parts of the full-scale range
  Value gain{};    ///< error at full scale after the offset is removed
  Value inl{};
  Value dnl{};
  Value noise{};                       ///< input-referred, of one conversion
  Value leakage{};                     ///< A, into or out of the pin
  std::optional<Range> input_limit{};  ///< V; beyond it the part is damaged
  std::vector<Attenuation> attenuations{};
  std::vector<std::string> defaults{};
};

/// What the firmware takes a code for: full_scale divides by 2^N, last_code by 2^N - 1.
enum class Convention : std::uint8_t { full_scale, last_code };

struct Scaling {
  Convention convention = Convention::full_scale;
};

struct Target {
  std::optional<Limit> accuracy{};
};

struct Channel {
  std::string name{};
  std::string measures{};
  Range span{};  ///< its unit is the unit of the channel
  std::string converter{};
  int input = -1;  ///< -1 where the file does not say
  std::optional<Sensor> sensor{};
  std::vector<Stage> frontend{};
  std::string attenuation{};  ///< one of the converter's; none where it has none
  int average = 1;
  Scaling scaling{};
  Target target{};
  std::vector<std::string> defaults{};
};

struct MeterRange {
  Value full_scale{};
  double digits = 0.0;  ///< counts of the display at full scale
  Value accuracy{};
};

struct Meter {
  std::string name{};
  std::vector<MeterRange> ranges{};  ///< by rising full scale
};

struct Board {
  std::string title{};
  Conditions conditions;
  std::vector<Reference> references{};
  std::vector<Converter> converters{};
  std::vector<Channel> channels{};
  std::vector<Meter> meters{};
};

/// The element of that name, or nullptr.
template <class Named>
const Named* find(const std::vector<Named>& list, std::string_view name) {
  for (const auto& element : list) {
    if (element.name == name) return &element;
  }
  return nullptr;
}

std::string_view name(Convention convention);
std::string_view name(Coding coding);
std::string_view name(FirstTransition transition);

}  // namespace tamlo::model
