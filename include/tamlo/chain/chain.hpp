// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "tamlo/chain/detail/digital.hpp"
#include "tamlo/chain/detail/integer.hpp"
#include "tamlo/chain/detail/laws.hpp"
#include "tamlo/chain/detail/register_format.hpp"
#include "tamlo/chain/detail/timing.hpp"
#include "tamlo/chain/source.hpp"
#include "tamlo/detail/copied.hpp"
#include "tamlo/error.hpp"
#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

/// Model of a channel, the one source of every figure: quantity, sensor, front end, converter,
/// code, average, firmware scaling, reading.
namespace tamlo {
namespace chain TAMLO_API {

/// One number that the chain is made of. Deviations of a unit are deviations of these.
struct Parameter {
  std::string name{};
  double nominal{};
  quantity::Unit unit{};
};

/// One stage of the chain, with its nominal law.
struct PathStage {
  std::string name{};
  Law law{};
  quantity::Unit output{};
};

/// From the quantity to the pin.
struct SignalPath {
  std::vector<PathStage> stages{};
  /// Number of leading stages evaluated with nominal parameters; all before the pin when the meter
  /// is at the pin, else 0.
  std::size_t known = 0;
  std::size_t before_pin = 0;  ///< stages
  /// The stages as the firmware has them, where it computes with another sensor; else empty.
  std::vector<PathStage> believed{};
  std::size_t parameters = 0;            ///< from that one on, none moves the voltage at the pin
  std::vector<double> time_constants{};  ///< s, of the low-passes before the pin, in mid-span
  bool time_constants_vary = false;      ///< over the span, as the resistance before them does
  std::optional<Sampling> sampling{};    ///< where the board says enough of it
};

/// Firmware's part of the chain: filter, scaling and rounding of register values.
struct Firmware {
  Digital digital{};             ///< average and filter
  double averaged = 1.0;         ///< independent conversions that the readings are worth
  double dither = 1.0;           ///< part of the noise that is there when the codes are averaged
  int settling_readings = 1;     ///< until no more than 100 ppm of what was before is left
  std::size_t rounding{};        ///< parameter that its arithmetic adds to the reading
  ArithmeticError arithmetic{};  ///< of one that scales in integers; else all zero
};

/// Sources that are asked for by what they are, as indices.
struct NamedSources {
  std::size_t quantisation{};                ///< its size depends on the noise at the point
  std::optional<std::size_t> integers{};     ///< of a firmware that scales in integers
  std::optional<std::size_t> decimals{};     ///< of a firmware that rounds its readings
  std::optional<std::size_t> calibration{};  ///< of a channel with a correction
};

/// A channel, ready to be computed with. Plain data: build() makes it phase by phase, in this
/// order, and the functions below use it.
struct Chain {
  TAMLO_COPIED_IN_ONE_SOURCE(Chain);

  model::Channel channel{};
  model::Converter converter{};
  model::Conditions conditions{};
  std::vector<Parameter> parameters{};
  std::vector<double> nominal{};  ///< the nominals of `parameters`: what the firmware believes
  Timing timing{};
  SignalPath path{};
  ConverterLaw conversion{};
  RegisterFormat report{};
  Firmware firmware{};
  std::vector<Source> sources{};
  std::vector<Correlation> correlations{};
  NamedSources named{};
  /// Holds, of a channel with a correction, what a unit of deviation of each source did to it where
  /// it was calibrated, in the functions of the correction; nothing of what it did not see.
  std::vector<std::vector<double>> followed{};
  std::optional<model::Meter> adjusted_with{};  ///< what the zero or both ends are adjusted to
};

/// A description that holds no such channel, or a channel that cannot be computed.
class ChainError : public Error {
 public:
  using Error::Error;
};

/// Returns the chain of one channel of a sound board: quantity, sensor, front end, converter, code,
/// average, firmware arithmetic and reading, with every source of error. Everything in it is in SI
/// units. Throws ChainError if the board has no channel of that name, or the channel names a
/// converter, or that a reference, which is missing, and model::InvalidBoard for a description that
/// is not sound (model/validate.hpp).
///
///     const auto chain = tamlo::chain::build(board, "pack_voltage");
Chain build(const model::Board& board, std::string_view channel);

/// Returns the chain as seen by a meter at the pin, which observes the effect of all parts before
/// it.
Chain referred_to_pin(Chain chain);

math::Interval input_range(
    const Chain& chain);                      ///< nominal ends of the converter's range at the pin
double full_scale_range(const Chain& chain);  ///< V, at the pin
double code_width(const Chain& chain);        ///< V, at the pin
/// The codes as the converter reports them: from 0, or from -2^(N-1) in two's complement.
std::int64_t first_code(const Chain& chain);
std::int64_t last_code(const Chain& chain);
/// Code width in the unit of the quantity at `x`.
double code_width_at(const Chain& chain, double x);
/// Returns the step from one reading to the next at `x`, nominally: the code width, made coarser by
/// the reporting and by the firmware's integers and decimals. 0 where the reading never changes.
double step_at(const Chain& chain, double x);
/// The stretch of the quantity about `x` over which a reading stays the same; infinite where it
/// stays so to an end of the codes, or for a clamp.
double plateau_width_at(const Chain& chain, double x);

/// Volts at the converter's pin for the quantity `x`, with the parameters `p`.
double voltage(const Chain& chain, double x, Parameters p);
/// Returns the voltage at the pin with its source resistance.
Signal signal(const Chain& chain, double x, Parameters p);
/// Returns how far the output of a stage of the signal path moves while the quantity goes through
/// its span, nominally.
double swing_of_stage(const Chain& chain, std::size_t stage);
/// Code of unlimited resolution (not clipped), before averaging.
double code(const Chain& chain, double x, Parameters p);
/// Returns the code of unlimited resolution of so many volts at the pin.
double code_of_volts(const Chain& chain, double volts, Parameters p);

/// Code of unlimited resolution for a resistive sensor of so many ohms in place of the quantity: 0
/// of one that is shorted, 1e12 of one that is open. None where the sensor is of another kind.
std::optional<double> code_of_resistance(const Chain& chain, double ohms);

/// Returns the codes of unlimited resolution between which the outputs of all amplifiers let a
/// signal through, nominally; infinite where none has an end.
math::Interval codes_of_amplifiers(const Chain& chain);
/// True where the output of an amplifier is at its end for the quantity `x`, nominally.
bool saturates(const Chain& chain, double x);

/// Code of a conversion, and whether it was clipped.
struct Conversion {
  std::int64_t code{};
  bool clipped{};  ///< the input lies outside the codes
};
Conversion convert(const Chain& chain, double unquantised);
/// Returns the register value for an unquantised code, in the converter's format.
std::int64_t register_value(const Chain& chain, double unquantised);

/// True where the firmware makes a whole number of an average, so that averaging gives no values
/// between the codes.
bool whole_means(const Chain& chain);

/// The firmware's half, which knows the nominals only: from what is reported to volts, then to the
/// quantity. What is reported may be a fraction: an average is.
double firmware_volts(const Chain& chain, double reported);
/// The straight line of that: low + (reported - first) * per_count volts.
struct CountLine {
  double low, first, per_count;
};
CountLine count_line(const Chain& chain);
/// The reading that the firmware shows, with its correction, its integers and decimals where it has
/// them; without the tare, which takes a second reading.
double reading(const Chain& chain, double reported);
/// Returns reading(); where the law of a sensor has none, at an end of the codes, that of its
/// smooth limit.
double reading_or_end(const Chain& chain, double reported);
/// Returns the reading without any rounding or overflow.
double exact_reading(const Chain& chain, double reported);
/// Returns the reading without rounding or overflow; beyond the ends of the codes, where a law may
/// have no reading, that of the end.
double smooth_reading(const Chain& chain, double reported);

/// Returns the chain of the unit that a correction was made for: each tolerance with what the
/// correction does not follow of it, and the uncertainty of the calibration. Without the positions
/// of the calibration all tolerances are taken as followed, and its uncertainty as one constant.
Chain with_correction(Chain chain, const model::Correction& correction);
/// Returns the functions at a reading whose sum, each times its coefficient (of nodes: its
/// corrected value), is the correction: powers of z, or hats over the nodes.
std::vector<double> correction_functions(const model::Correction& correction, double reading);
/// Returns the standard uncertainty of the calibration at `x`, SI: meter and fit; 0 without one.
double calibration_uncertainty_at(const Chain& chain, double x);
/// Returns for each source what a correction takes away at `x` of a unit of its deviation, SI; 0
/// without a correction.
std::vector<double> followed_at(const Chain& chain, double x);
/// A reading with a calibration's correction; nodes go on as their outermost pieces beyond them.
double corrected(const model::Correction& correction, double reading);
/// Returns the reading with the channel's own correction; unchanged without one, or where the
/// integers hold it already.
double after_correction(const Chain& chain, double reading);

/// Returns the reading of the quantity `x`, both in SI, with unlimited resolution, for the
/// parameters `p` (the nominals, moved as wanted). Nothing is clipped. A channel with a correction
/// reads as the unit that it was made for: right where its parameters are nominal. `p` has one
/// value for each parameter of the chain; this is not checked. Throws ArgumentError for a quantity
/// beyond ±1e150.
double read(const Chain& chain, double x, Parameters p);
/// Returns the reading before the tare is subtracted. A tare does not remove what is new at every
/// reading.
double read_untared(const Chain& chain, double x, Parameters p);
/// Error of indication with all deviations zero and unlimited resolution: what the firmware's
/// arithmetic and a converter that truncates do to the reading.
double bias(const Chain& chain, double x);

/// The quantity that, nominally, gives an unquantised code.
double quantity_at(const Chain& chain, double unquantised);
/// The quantity that, nominally, puts so many volts at the pin.
double quantity_at_voltage(const Chain& chain, double volts);
/// The stages through which the firmware computes back: those of the signal path, or with the
/// sensor that it takes this one for.
const std::vector<PathStage>& known_stages(const Chain& chain);

/// Standard deviation of the noise of one conversion at `x`, in code widths, from all noise
/// sources; interference is not noise.
double noise_in_codes(const Chain& chain, double x);
/// Returns the standard deviation of a reading in SI: noise, interference and quantisation after
/// average and filter.
double reading_noise(const Chain& chain, double x);
/// Standard uncertainties of the sources in a reading at `x`, in the units of their parameters:
/// noise after average and filter, quantisation by the exact rule for the noise there.
std::vector<double> standards_at(const Chain& chain, double x);
/// Returns the standard uncertainties of standards_at(), for a `noise` of one conversion that is
/// known already.
std::vector<double> standards_at(const Chain& chain, double x, double noise);
/// Returns the time constants of the low-passes before the pin in s, for the resistance that they
/// are fed from at `x`.
std::vector<double> time_constants_at(const Chain& chain, double x);
/// Returns the amplitude of a source of interference behind the low-passes at `x`, in the unit of
/// its parameter; its `limit` is that of mid-span.
double interference_limit_at(const Chain& chain, const Source& source, double x);
/// Returns the part of a source's standard deviation that average and filter let through at `x`.
double filter_gain_at(const Chain& chain, const Source& source, double x);
/// Returns the part of a sine of that frequency that passes a delta sigma converter's own filter; 1
/// of other converters.
double converter_magnitude(const Chain& chain, double frequency);
/// Returns the gain of the low-passes before the pin, and of a delta sigma converter's own filter,
/// for a sine of that frequency.
double analog_magnitude(const Chain& chain, double frequency);
/// One value of the quantity with what nominal parameters make of it. Many sources are moved there
/// one by one, and what acts behind the pin needs no way through the parts before it again.
struct Place {
  double x{};
  double volts{};    ///< at the pin
  double removed{};  ///< what a channel's correction takes away there
};
Place place(const Chain& chain, double x);
/// read_untared() at that place, where no parameter differs from its nominal but `moved`.
double read_moved(const Chain& chain, const Place& at, Parameters p, std::size_t moved);

/// [f(x; +size) - f(x; -size)] / 2 of the reading, for a parameter moved by `size` either way
/// (JCGM 100, 5.1.3 note 2). `p` are the nominals, and are so again afterwards.
double effect(const Chain& chain, double x, const Source& source, double size,
              std::vector<double>& p);
/// Returns effect() of all sources at once, each moved by its own size.
std::vector<double> effects(const Chain& chain, double x, const std::vector<double>& sizes);

/// Returns the part of effects() that stems from the tare's own reading; empty without a tare.
std::vector<double> tare_effects(const Chain& chain, const std::vector<double>& sizes);

/// Spread of single conversions at `x`, in codes.
struct ConversionSpread {
  double noise = 0.0;       ///< standard deviation
  double amplitudes = 0.0;  ///< of all interference together
};
ConversionSpread conversion_spread(const Chain& chain, double x);

/// Returns the effect of one source on the unquantised code; as effect() for a reading.
double code_effect(const Chain& chain, double x, const Source& source, double size,
                   std::vector<double>& p);

/// Returns the error in SI that `accuracy` allows at `x`: a part of the span or of the reading,
/// LSB, or absolute.
double allowed_at(const Chain& chain, const quantity::Limit& accuracy, double x);

/// Lowest and highest value of `figure` (voltage or code) at `x` in single conversions: every
/// source with a limit at the worst end of it, interference included, and to either side the
/// coverage factor of 95 % times the root sum of squares of those without one, as in a budget.
math::Interval worst_case(const Chain& chain, double x,
                          double (*figure)(const Chain&, double, Parameters));

}  // namespace chain
}  // namespace tamlo
