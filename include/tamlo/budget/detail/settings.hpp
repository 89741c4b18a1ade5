// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tamlo/budget/budget.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"
#include "tamlo/chain/sampled.hpp"
#include "tamlo/chain/settings.hpp"
#include "tamlo/export.hpp"

/// The effective settings of a channel, with the uncertainty of its thresholds and zones.
namespace tamlo {
namespace budget TAMLO_API {

/// Steps of a reading while the quantity moves.
struct Ramp {
  double slope = 0.0;  ///< of the quantity, a second
  double step = 0.0;   ///< of the reading
  double time_between_steps = 0.0;
};

/// A threshold of the firmware.
struct SwitchingPoint {
  chain::ThresholdFigures figures{};
  double on_asked = 0.0, off_asked = 0.0;  ///< the quantity
  double expanded = 0.0;                   ///< of a reading there
  double coverage = 0.0;
};

/// An edge between two zones: a threshold that compares readings.
struct ZoneEdge {
  std::string below{}, above{};  ///< names of the zones
  double at = 0.0;               ///< the quantity, as asked
  chain::ThresholdFigures figures{};
  double standard_uncertainty = 0.0;  ///< of a reading there
  double expanded = 0.0;
  double coverage = 0.0;
};
/// A stretch of the quantity that the firmware tells apart.
struct Zone {
  std::string name{};
  double from = 0.0, to = 0.0;  ///< the quantity
  double codes = 0.0;           ///< its width, in register values
  bool narrow = false;          ///< under four of them, or under the noise of a reading
};

/// The settings of one channel.
struct ChannelSettings {
  chain::Chain chain{};
  chain::Settings settings{};
  chain::Dynamics dynamics{};
  std::optional<SwitchingPoint> threshold{};
  std::vector<ZoneEdge> zone_edges{};
  std::vector<Zone> zones{};
  std::optional<Ramp> ramp{};
  std::optional<chain::SampledSine> sine{};
};
/// Figures that are asked for beside the settings of a channel.
struct SettingsRequest {
  std::optional<double> slope{};      ///< of the quantity a second, for the ramp
  std::optional<double> frequency{};  ///< of the sine, Hz
  /// Limit of Request, for thresholds and zones.
  std::uint64_t rough_units = Request{}.rough_units;
};
/// Returns the settings of a channel, and what its budget says of its thresholds and zones. Throws
/// as chain::settings() and chain::sampled_sine() do.
ChannelSettings settings(chain::Chain chain, const SettingsRequest& request = {});

}  // namespace budget
}  // namespace tamlo
