// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/detail/copied.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/converter.hpp"
#include "tamlo/model/digital.hpp"
#include "tamlo/model/frontend.hpp"
#include "tamlo/model/link.hpp"
#include "tamlo/model/scaling.hpp"
#include "tamlo/model/sensor.hpp"
#include "tamlo/quantity/value.hpp"

/// The description of a board as plain data, as the board file gives it. No behaviour: what it
/// means is in `chain`. Names of members are the keys of the file (docs/board-file.md).
namespace tamlo {
namespace model TAMLO_API {

/// Operating conditions that the budget covers. Temperatures in K, age in s.
struct Conditions {
  Range temperature{.low = 296.15, .high = 296.15, .unit = quantity::unit("degC")};
  double specified_at = 296.15;
  double age = 0.0;
  std::optional<Value> mains{};         ///< Hz
  double observation = 3600.0;          ///< s, over which 1/f noise is watched
  std::vector<std::string> defaults{};  ///< keys that the file leaves to their defaults
};

/// A reference voltage.
struct Reference {
  std::string name{};
  Value voltage{};
  std::optional<Value> noise{};
  std::optional<double> output_resistance{};  ///< V/A
  double load_change = 0.0;                   ///< A, half of what the load varies by
};

/// Figure that is held against an accuracy.
enum class JudgedBy : std::uint8_t {
  uncertainty,  ///< |bias| and the expanded uncertainty
  worst_case,   ///< the error with every limit at its end
  both,         ///< the larger of the two
};
std::string_view name(JudgedBy judged);

/// Tells whether the figure takes a worst case.
constexpr bool takes_worst_case(JudgedBy judged) { return judged != JudgedBy::uncertainty; }

/// Requirements of a channel.
struct Target {
  std::optional<Limit> accuracy{};
  JudgedBy by = JudgedBy::uncertainty;
  std::optional<double> noise_free{};  ///< bit
  std::optional<double> latency{};     ///< s
};

/// A sine that gets in: its amplitude as it would be at the pin without the low-pass.
struct Interference {
  Value frequency{};       ///< Hz; with limits the one of them that is rejected least
  double amplitude = 0.0;  ///< V, half of peak to peak
};

/// Side of an edge that a hysteresis lies on: below it, as of what switches on at it upward; above
/// it, as of what switches on at it downward; or half on either side.
enum class HysteresisSide : std::uint8_t { below, about, above };
std::string_view name(HysteresisSide side);

/// A switching point: on at `at`, off again at `at` - hysteresis. SI of the quantity.
struct Threshold {
  double at = 0.0;
  double hysteresis = 0.0;
  HysteresisSide side = HysteresisSide::below;
  int debounce = 1;                          ///< readings in a row that must say it
  std::optional<double> false_trip_every{};  ///< s, mean time between those that are allowed
};

/// Stretches of the quantity that the firmware tells apart. SI of the quantity.
struct Zones {
  std::vector<double> edges{};       ///< rising; each parts two zones
  std::vector<std::string> names{};  ///< one more than edges
  double hysteresis = 0.0;  ///< a zone is left so far below the edge that it was entered at
  HysteresisSide side = HysteresisSide::below;
  int debounce = 1;  ///< readings in a row that must say it
};

/// Returns how far above its edge something switches upward: 0, half the hysteresis, or all of it.
double upward(HysteresisSide side, double hysteresis);

/// Two sources of a channel's budget, by their names there, that go together.
struct SourceCorrelation {
  std::string first{}, second{};
  double coefficient = 0.0;
};

/// An adjustment that is made on each unit: what its reading is off at one place is subtracted
/// everywhere, or the line through what it is off at two.
struct Adjustment {
  std::vector<double> at{};             ///< SI of the quantity; one or two places, rising
  std::string with{};                   ///< meter beside which it is made; ideal where empty
  std::optional<double> temperature{};  ///< K, at which it is made; none: where the limits hold
  std::optional<double> age{};          ///< s, since it was made; none: the age of the board
};

/// One channel, from the quantity to the reading.
struct Channel {
  std::string name{};
  std::string measures{};
  Range span{};  ///< its unit is the unit of the channel
  std::string converter{};
  int input = -1;  ///< -1 where the file does not say
  std::optional<Sensor> sensor{};
  std::vector<Stage> frontend{};
  std::string attenuation{};         ///< one of the converter's; none where it has none
  std::optional<double> sampling{};  ///< cycles of the converter's clock
  std::optional<double> rate{};      ///< conversions a second
  Length average{};                  ///< conversions to a reading, before the filter
  std::vector<DigitalStage> filter{};
  std::vector<Interference> interference{};
  Value dither{};                   ///< V, noise that is injected at the pin on purpose
  std::optional<double> fastest{};  ///< Hz: a sine over the whole span that must be followed
  std::optional<Threshold> threshold{};
  std::optional<Zones> zones{};
  std::vector<SourceCorrelation> correlations{};
  std::string loaded_by{};  ///< a meter that is connected to the converter's pin; none where empty
  std::string adjusted_with{};  ///< a meter that zero or ends are adjusted to; ideal where empty
  Scaling scaling{};
  std::optional<Correction> correction{};
  std::optional<Adjustment> adjustment{};
  Target target{};
  std::vector<std::string> defaults{};
};

/// A quantity that the firmware computes from the readings of several channels.
struct Quantity {
  std::string name{};
  std::string expression{};  ///< of channel names: "pack_voltage * pack_current"
  Range span{};              ///< its unit is the unit of the quantity
  Value error{};             ///< limits of its own, such as those of a sensor between the channels
  Target target{};           ///< its accuracy alone counts
};

/// A range of a meter, and its accuracy there.
struct MeterRange {
  Value full_scale{};
  double digits = 0.0;  ///< counts of the display at full scale
  Value accuracy{};
};

/// Point that a meter is connected to.
enum class Touches : std::uint8_t {
  quantity,  ///< what the channel measures
  pin,       ///< the converter's pin: the meter shows volts there
};

/// A reference meter.
struct Meter {
  std::string name{};
  std::vector<MeterRange> ranges{};  ///< by rising full scale
  Touches touches = Touches::quantity;
  std::optional<Value> input_resistance{};
  std::optional<Range> temperature{};  ///< in which its accuracy holds; K
  double age = 0.0;                    ///< s, since its accuracy was true
  std::string link{};                  ///< it is read over; none: by eye
};

/// Section that takes keys from the file of a part, and those keys.
struct UsedPart {
  std::string section{};  ///< "converter.main"
  std::string file{};
  std::vector<std::string> keys{};
  std::vector<std::string> overridden{};  ///< keys that the board has itself
};

/// The description of a board as plain data; model::validate says whether it is sound.
struct Board {
  TAMLO_COPIED_IN_ONE_SOURCE(Board);

  std::string title{};
  std::vector<std::string> part_folders{};
  std::vector<UsedPart> parts{};
  Conditions conditions;
  std::vector<Reference> references{};
  std::vector<Converter> converters{};
  std::vector<Channel> channels{};
  std::vector<Quantity> quantities{};
  std::vector<Meter> meters{};
  std::vector<Link> links{};
  std::vector<SourceInstrument> sources{};
};

/// The element of that name, or nullptr.
template <class Named>
const Named* find(const std::vector<Named>& list, std::string_view name) {
  for (const auto& element : list) {
    if (element.name == name) return &element;
  }
  return nullptr;
}

/// The span of the channel or the quantity of that name, or nullptr.
const Range* span_named(const Board& board, std::string_view name);

/// Names of the channels that the formula of a quantity uses, in the order of the board; none where
/// it cannot be read.
std::vector<std::string> channels_of(const Board& board, const Quantity& quantity);

/// Values that a formula has within the spans of its channels, SI: at five places of each and its
/// zero, of more than five channels at their ends alone.
struct Reach {
  double low = 0.0, high = 0.0;
  bool everywhere = true;         ///< it has a finite value at all of them
  std::vector<double> without{};  ///< the first place without one, of each of channels_of()
};
/// Returns the reach of a sound quantity.
Reach reach_of(const Board& board, const Quantity& quantity);

}  // namespace model
}  // namespace tamlo
