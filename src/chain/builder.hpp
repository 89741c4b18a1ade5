// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/chain/chain.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/quantity/notation.hpp"

namespace tamlo::chain {

/// Puts a chain together: one parameter for each number that a part is made of, one source for each
/// limit on it, one stage for each part that the signal passes.
class Builder {
 public:
  Builder(const model::Board& board, const model::Channel& channel,
          const model::Converter& converter);

  Chain finish();
  /// Volts that the span puts on the pin, nominally.
  quantity::Range pin_range();

  // What the parts ask of it (parts/).
  Chain& chain() { return chain_; }
  /// "divider", and "divider 2" for the second of a channel.
  std::string unique(const std::string& name);
  std::size_t parameter(std::string name, double nominal, std::string_view unit);
  void source(const std::string& called, std::size_t parameter, const std::string& stage,
              const model::Limit& limit, const Scale& scale, Nature nature);
  /// A part with a nominal in SI, such as a resistor, and a source for each of its limits.
  std::size_t part(const std::string& name, const std::string& stage, const model::Value& value,
                   std::string_view unit);
  /// A deviation with nominal 0, and a source for each limit.
  std::size_t deviation(const std::string& name, const std::string& stage,
                        const model::Value& value, std::string_view unit, const Scale& scale,
                        const Nature& nature = Tolerance{});
  /// The voltage of a reference: one parameter, however many parts it feeds.
  std::size_t reference(const std::string& name);
  void stage(const std::string& name, Law law, std::string_view output);

  /// The amplifier of the last stage, whose noise may be a density.
  void amplifies(const model::Amplifier& amplifier) {
    densities_.push_back({chain_.path.stages.size() - 1, amplifier});
  }

 private:
  const model::Board& board_;
  Chain chain_;
  std::map<std::string, int> used_;
  struct Density {
    std::size_t stage;
    model::Amplifier amplifier;
  };
  std::vector<Density> densities_;  // of amplifiers, whose bandwidth is known once all parts are
  std::map<std::string, std::size_t> references_;  // parameter of the voltage, by name

  // The phases, in their order; each fills one part of the chain.
  void add_timing();
  void add_signal_path();
  void add_converter();
  void add_register_format();
  /// Its rounding, and what average and filter leave of the noise.
  void add_firmware();
  /// Correlations, what a calibration leaves, the meter that adjusts.
  void add_relations();
  void check_response() const;

  // Of the signal path.
  void add_parts();
  /// Adds the parts as the firmware has them, where it computes with another sensor.
  void add_believed_parts();
  void add_load();
  /// Adds what happens at the pin: what comes in, leakage, the sampling capacitor.
  void add_pin();
  /// Adds noise of so many volts rms at the pin.
  void add_pin_noise(PinDisturbance& added, const std::string& name,
                     const std::string& specification, double rms);
  void add_thermal_noise(PinDisturbance& added);
  /// Noise of amplifiers that is given as a density.
  void add_densities();
  // Of the firmware.
  void add_rounding();
  /// Sets what average and filter leave of each source that is new at every reading.
  void set_filter_gains();
  void set_truncation();
  // Of the relations.
  void set_correlations();
  /// A calibration takes the tolerances away, and leaves its own uncertainty.
  void set_correction();
  void set_adjustment();

  void set_nominals();
  /// A source that no limit of the file stands for.
  void computed(Source source);
};

}  // namespace tamlo::chain
