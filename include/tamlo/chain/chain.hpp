// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/chain/laws.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/model/board.hpp"

/// What a channel does, in one place: quantity -> sensor -> front end -> converter -> code ->
/// average -> firmware scaling -> reading. Every figure of every command comes from here.
namespace tamlo::chain {

/// One number that the chain is made of. Deviations of a unit are deviations of these.
struct Parameter {
  std::string name{};
  double nominal{};
  quantity::Unit unit{};
};

struct Stage {
  std::string name{};
  Law law{};
  quantity::Unit output{};
};

/// A channel, ready to be computed with. Plain data: build() makes it, the functions below use it.
struct Chain {
  model::Channel channel{};
  model::Converter converter{};
  model::Conditions conditions{};
  std::vector<Parameter> parameters{};
  std::vector<double> nominal{};  ///< the nominals of `parameters`: what the firmware believes
  std::vector<Stage> stages{};    ///< from the quantity to the pin
  ConverterLaw conversion{};
  std::vector<Source> sources{};
  std::size_t quantisation_source{};  ///< the one whose size depends on the noise at the point
};

/// A description that holds no such channel, or a channel that cannot be computed.
class ChainError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// The chain of one channel of the board. Throws ChainError if the board has no channel of that
/// name, or the channel names a converter, or that a reference, which the board does not have.
Chain build(const model::Board& board, std::string_view channel);

Ends input_range(const Chain& chain);         ///< nominal ends of the converter's range at the pin
double full_scale_range(const Chain& chain);  ///< V, at the pin
double code_width(const Chain& chain);        ///< V, at the pin
/// The codes as the converter reports them: from 0, or from -2^(N-1) in two's complement.
std::int64_t first_code(const Chain& chain);
std::int64_t last_code(const Chain& chain);
/// Code width in the unit of the quantity at `x`.
double code_width_at(const Chain& chain, double x);

/// Volts at the converter's pin for the quantity `x`, in a world of parameters `p`.
double voltage(const Chain& chain, double x, Parameters p);
/// The same with the resistance that the pin sees.
Signal signal(const Chain& chain, double x, Parameters p);
/// Code of unlimited resolution (not clipped), before averaging.
double code(const Chain& chain, double x, Parameters p);

/// What the converter reports for a code of unlimited resolution.
struct Conversion {
  std::int64_t code{};
  bool clipped{};  ///< the input lies outside the codes
};
Conversion convert(const Chain& chain, double unlimited);

/// The firmware's half, which knows the nominals only: volts, then the quantity. Codes may be
/// fractions: an average is.
double firmware_volts(const Chain& chain, double code);
double reading(const Chain& chain, double code);

/// Reading of the quantity `x` with unlimited resolution: y = f(x; p).
double read(const Chain& chain, double x, Parameters p);
/// Error of indication with all deviations zero and unlimited resolution: what the firmware's
/// arithmetic and a converter that truncates do to the reading.
double bias(const Chain& chain, double x);

/// The quantity that, nominally, gives a code of unlimited resolution.
double quantity_at(const Chain& chain, double unlimited);
/// The quantity that, nominally, puts so many volts at the pin.
double quantity_at_voltage(const Chain& chain, double volts);

/// Standard deviation of the noise of one conversion at `x`, in code widths, from all noise
/// sources.
double noise_in_codes(const Chain& chain, double x);

/// What `accuracy` allows at `x`, SI: a part of the span or of the reading, LSB, or absolute.
double allowed_at(const Chain& chain, const quantity::Limit& accuracy, double x);

/// Lowest and highest value of `figure` (voltage or code) at `x` with every source that is fixed in
/// a unit at the worst end of its limit; a normal one at three standard deviations.
struct Extremes {
  double low{};
  double high{};
};
Extremes worst_case(const Chain& chain, double x,
                    double (*figure)(const Chain&, double, Parameters));

}  // namespace tamlo::chain
