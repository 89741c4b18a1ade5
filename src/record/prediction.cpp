// SPDX-License-Identifier: Apache-2.0
#include "tamlo/record/prediction.hpp"

#include <algorithm>
#include <cmath>

#include "tamlo/chain/chain.hpp"
#include "tamlo/chain/dynamics.hpp"

namespace tamlo::record {
namespace {

// The chain with what of its noise a record can show: interference is no noise, and of what rises
// towards low frequencies, with the same power in every octave, a record is too short to show all.
chain::Chain noise_observed(chain::Chain chain, double duration) {
  for (auto& source : chain.sources) {
    if (source.kind() == chain::Kind::interference) source.standard_uncertainty = 0.0;
    const auto* noise = source.noise();
    if (noise == nullptr || !(noise->corner > 0.0) || !(noise->band_ratio > 1.0)) continue;
    if (!(duration > 0.0)) continue;
    const double observed = duration / chain.conditions.observation * noise->band_ratio;
    const double part = std::log(std::max(1.0, observed)) / std::log(noise->band_ratio);
    source.standard_uncertainty *= std::sqrt(std::min(1.0, part));
  }
  return chain;
}

double inl_standard(const chain::Chain& chain) {
  double squares = 0.0;
  for (const auto& source : chain.sources) {
    if (source.parameter == chain.conversion.inl)
      squares += source.standard_uncertainty * source.standard_uncertainty;
  }
  return std::sqrt(squares);
}

}  // namespace

std::string_view name(Shows shows) { return shows == Shows::codes ? "codes" : "readings"; }

double Prediction::with_steps() const { return std::sqrt(noise * noise + step * step / 12.0); }

Prediction predict(const chain::Chain& chain, Shows shows, double x, double rate,
                   std::uint64_t samples) {
  const auto observed =
      noise_observed(chain, rate > 0.0 ? static_cast<double>(samples) / rate : 0.0);
  const bool readings = shows == Shows::readings;
  const auto& report = chain.report;
  Prediction result;
  if (readings) {
    result.noise = chain::reading_noise(observed, x);
  } else {
    // What is reported may be coarser than the codes.
    result = {.noise = chain::noise_in_codes(observed, x) * report.gain,
              .step = report.width * report.gain,
              .inl = inl_standard(chain) * report.gain,
              .resolution = chain.converter.resolution,
              .per_code = report.gain};
  }
  auto p = chain.nominal;
  for (const auto& source : chain.sources) {
    if (source.kind() != chain::Kind::interference || !(rate > 0.0)) continue;
    const double amplitude =
        readings ? chain::effect(chain, x, source, source.limit * source.filter_gain(), p)
                 : chain::code_effect(chain, x, source, source.limit, p) * report.gain;
    result.waves.push_back(
        {.frequency = chain::folded(source.interference()->frequency, rate) / rate,
         .amplitude = std::abs(amplitude)});
  }
  return result;
}

double quantity_of(const chain::Chain& chain, Shows shows, double mean) {
  if (shows == Shows::readings) return mean;
  return chain::quantity_at(chain, (mean - chain.report.offset) / chain.report.gain);
}

int conversions_of(const chain::Chain& chain, Shows shows) {
  return shows == Shows::codes ? 1 : chain::decimation(chain.firmware.digital);
}

double rate_of(const chain::Chain& chain, Shows shows) {
  return chain.firmware.digital.rate / conversions_of(chain, shows);
}

namespace {

signal::Capture::Options options_for(Input input) {
  signal::Capture::Options options;
  if (input == Input::sine) options.segment = std::size_t{1} << 16;
  return options;
}

}  // namespace

signal::Capture::Options capture_options(const chain::Chain& chain, Shows shows, Input input) {
  auto options = options_for(input);
  if (shows == Shows::codes) {
    if (chain::reports_shifted(chain.report)) options.bin_width = chain.report.gain;
    return options;
  }
  const auto& span = chain.channel.span;
  const double noise = chain::reading_noise(chain, span.middle());
  options.bin_width = std::max(noise / 64.0, span.width() / 0x1p23);
  return options;
}

signal::Capture::Options capture_options(Shows shows, Input input, std::span<const double> first) {
  auto options = options_for(input);
  if (shows == Shows::codes || first.empty()) return options;
  double squares = 0.0;
  for (std::size_t i = 1; i < first.size(); ++i)
    squares += (first[i] - first[i - 1]) * (first[i] - first[i - 1]);
  const auto [low, high] = std::ranges::minmax(first);
  const double noise = std::sqrt(squares / (2.0 * static_cast<double>(first.size())));
  const double range = high > low ? high - low : std::max(std::abs(high), 1e-12);
  options.bin_width = std::max(noise / 64.0, range / 0x1p23);
  return options;
}

}  // namespace tamlo::record
