// SPDX-License-Identifier: Apache-2.0
// The calls of the library for Python: boards in, results as JSON out (tamlo/__init__.py makes
// objects of them), samples as arrays without a copy. The lock is released while a call works.
#include <pybind11/functional.h>
#include <pybind11/numpy.h>
#include <pybind11/pybind11.h>
#include <pybind11/stl.h>

#include <algorithm>
#include <variant>

#include "tamlo/explore/detail/explored.hpp"
#include "tamlo/io/choices_file.hpp"
#include "tamlo/io/detail/beside_meter.hpp"
#include "tamlo/io/detail/overlays.hpp"
#include "tamlo/math/detail/blocks.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/record/prediction.hpp"
#include "tamlo/simulate/sampler.hpp"
#include "tamlo/tamlo.hpp"
#include "tamlo/version.hpp"

namespace py = pybind11;

namespace tamlo::python {
namespace {

constexpr auto json = result::Format::json;
using Samples = py::array_t<double, py::array::c_style>;
/// A number in the unit of the channel, or a text with a unit of its own.
using Amount = std::variant<double, std::string>;
using Names = std::vector<std::string>;

[[noreturn]] void refuse(const char* argument, std::string found, std::string allowed) {
  throw io::BadInput({{.path = argument, .problem = std::move(found), .hint = std::move(allowed)}});
}

double in_si(const char* argument, const Amount& amount, const quantity::Unit& unit) {
  if (const auto* number = std::get_if<double>(&amount))
    return *number * unit.scale() + unit.offset;
  const auto& text = std::get<std::string>(amount);
  try {
    const auto value = quantity::parse_value(text, {.unit = unit});
    if (value.nominal && value.limits.empty()) return *value.nominal;
  } catch (const quantity::NotationError& error) {
    refuse(argument, error.problem, error.hint);
  }
  refuse(argument, "\"" + text + "\"", "a value without limits");
}

template <class E>
E named(const char* argument, const std::string& text) {
  const auto names = names_of<E>();
  const auto at = std::ranges::find(names, text);
  if (at == names.end()) refuse(argument, "\"" + text + "\"", io::one_of(text, names));
  return static_cast<E>(at - names.begin());
}

std::span<const double> span_of(const Samples& samples) {
  return {samples.data(), static_cast<std::size_t>(samples.size())};
}

// Python's own signals, such as Ctrl-C, in the midst of long work.
void take_signals() {
  const py::gil_scoped_acquire lock;
  if (PyErr_CheckSignals() != 0) throw py::error_already_set();
}

class Board {
 public:
  Board(Names paths, Names settings)
      : paths_(std::move(paths)), settings_(std::move(settings)), board_(load()) {}

  Names channels() const {
    Names names;
    for (const auto& channel : board_.channels) names.push_back(channel.name);
    return names;
  }
  Names quantities() const {
    Names names;
    for (const auto& quantity : board_.quantities) names.push_back(quantity.name);
    return names;
  }
  const std::string& title() const { return board_.title; }
  std::string unit(const std::string& name) const { return span_of_name(name).unit.symbol; }

  std::string check(const Names& names) const {
    auto check = check::examine(board_, all_of(names));
    io::locate(check, paths_);
    return result::write(check, json);
  }

  std::string settings(const Names& names) const {
    result::ChannelsSettings result;
    for (const auto* chain : chains_of(names)) {
      result.channels.push_back(budget::settings(
          *chain, {.rough_units = budget::rough_units_among(board_.channels.size())}));
    }
    return result::write(result, json);
  }

  std::string budget(const Names& names, const std::vector<Amount>& at, double coverage,
                     std::optional<std::uint64_t> trials, std::uint64_t seed, bool advice) const {
    result::Budgets result;
    for (const auto& name : all_of(names)) {
      std::vector<double> places;
      const auto& span = span_of_name(name);
      for (const auto& place : at) {
        places.push_back(in_si("at", place, span.unit));
        if (!span.holds(places.back()))
          refuse("at", "a place beyond the span", "a point of " + quantity::to_string(span));
      }
      if (const auto* quantity = model::find(board_.quantities, name)) {
        result.quantities.push_back(
            budget::evaluate(*quantity, board_.chains, {.at = places, .coverage = coverage}));
        continue;
      }
      const auto& chain = chain_named(name);
      budget::Request request{.at = std::move(places),
                              .coverage = coverage,
                              .rough_units = budget::rough_units_among(
                                  names.empty() ? board_.channels.size() : names.size())};
      if (trials) {
        request.trials = budget::TrialsRequest{.seed = seed};
        if (*trials > 0) request.trials->count = *trials;
      }
      auto& one = result.channels.emplace_back();
      one.budget = budget::evaluate(chain, request);
      if (advice) one.advice = budget::advise(board_, name, coverage);
    }
    return result::write(result, json);
  }

  std::string explore(const std::string& choices_path, const Names& names, unsigned threads) const {
    auto choices = io::load_choices(choices_path);
    const io::BoardFiles files(paths_);
    io::check_choices(choices_path, choices, board_, files);
    for (const auto& name : all_of(names)) {
      const auto* quantity = model::find(board_.quantities, name);
      if (quantity == nullptr || quantity->target.accuracy || !names.empty())
        choices.space.channels.push_back(name);
    }
    const auto board_of = [&](const explore::Pick& pick) {
      auto settings = settings_;
      for (auto& each : io::settings_of(choices, pick)) settings.push_back(std::move(each));
      return files.with(settings);
    };
    const auto found =
        explore::explore(choices.space, board_of, math::by_threads(threads), [](double) {
          take_signals();
          return true;
        });
    return result::write(explore::by_names(choices.space, found), json);
  }

  // Of a file, or of arrays of one channel in its unit, with `codes` in place of readings.
  io::ReadingsFile readings(const std::variant<std::string, std::pair<Samples, Samples>>& from,
                            const Names& names, bool codes) const {
    if (const auto* path = std::get_if<std::string>(&from))
      return io::load_readings(*path, board_, {.channel = names.size() == 1 ? names.front() : ""});
    const auto& [meter, shown] = std::get<std::pair<Samples, Samples>>(from);
    if (meter.size() != shown.size() || meter.size() == 0)
      refuse("readings", "arrays of different lengths, or none", "as many of the meter as shown");
    const auto chains = chains_of(names);
    if (chains.size() != 1) refuse("channel", "arrays of no channel", io::one_of("", channels()));
    const auto& chain = *chains.front();
    const auto& unit = chain.channel.span.unit;
    io::ChannelReadings rows{.channel = chain.channel.name};
    for (py::ssize_t i = 0; i < meter.size(); ++i) {
      const double value = shown.data()[i], reference = meter.data()[i];
      if (!std::isfinite(value) || !std::isfinite(reference))
        refuse("readings", "a value that is not finite", "finite numbers");
      rows.readings.push_back(
          {.meter = in_si("meter", reference, unit),
           .reading = codes ? chain::reading(chain, value) : in_si("reading", value, unit)});
      rows.places.emplace_back();
      rows.ranges.emplace_back();
    }
    io::ReadingsFile file{.path = "readings"};
    file.channels.push_back(std::move(rows));
    return file;
  }

  std::string compare(const io::ReadingsFile& file, const Names& names, const std::string& meter,
                      double coverage) const {
    result::Comparisons result;
    std::vector<io::BesideMeter> benches;
    const auto channels = wanted(file, names);
    for (const auto& rows : channels) {
      const auto& bench = benches.emplace_back(
          io::beside_meter(board_, paths_.front(), meter, file, rows, coverage));
      result.channels.push_back({.board_unit = rows.unit,
                                 .comparison = meter::compare(bench.evidence),
                                 .diagnosis = meter::diagnose(board_, bench.evidence,
                                                              io::others_of(board_, file, rows))});
    }
    result.units = io::over_units(benches);
    return result::write(result, json);
  }

  std::pair<std::string, std::string> calibrate(const io::ReadingsFile& file, const Names& names,
                                                const std::string& meter, const std::string& model,
                                                int order, double coverage) const {
    const auto rows = wanted(file, names);
    if (rows.size() != 1) refuse("channel", "readings of several channels or units", "one of them");
    const auto bench =
        io::beside_meter(board_, paths_.front(), meter, file, rows.front(), coverage);
    if (bench.evidence.of_quantity())
      refuse("channel", "a quantity of several channels", "a channel");
    meter::CalibrationRequest request{.order = order, .coverage = coverage};
    if (model != "best") request.model = named<meter::Model>("model", model);
    const auto calibration = meter::calibrate(bench.evidence, request);
    result::Calibrations result;
    result.channels.push_back({.calibration = calibration});
    return {result::write(result, json), io::overlay_of(calibration)};
  }

  std::string record(const Samples& samples, const std::string& name, const std::string& input,
                     double rate, bool readings, const std::optional<Amount>& low,
                     const std::optional<Amount>& high, double coverage) const {
    const auto values = span_of(samples);
    const py::gil_scoped_release unlocked;
    const auto& chain = chain_named(name);
    const auto& unit = chain.channel.span.unit;
    const auto shows = readings ? record::Shows::readings : record::Shows::codes;
    record::Feed feed{.input = named<record::Input>("input", input)};
    if (low) feed.low = in_si("low", *low, unit);
    if (high) feed.high = in_si("high", *high, unit);
    signal::Capture capture(record::capture_options(chain, shows, feed.input));
    constexpr std::size_t block = 1 << 16;
    for (std::size_t from = 0; from < values.size(); from += block) {
      const auto part = values.subspan(from, std::min(block, values.size() - from));
      if (readings) {
        std::vector<double> si(part.size());
        quantity::to_si(part, unit, si);
        capture.add(si);
      } else {
        const auto odd =
            std::ranges::find_if(part, [&](double x) { return !chain::occurs(chain.report, x); });
        if (odd != part.end())
          refuse("samples", std::to_string(*odd) + ", which is no code of it", "codes that occur");
        capture.add(part);
      }
      take_signals();
    }
    result::Records result;
    result.channels.push_back(
        {.verdict = record::judge(chain, shows, feed, capture, rate, coverage), .unit = unit});
    return result::write(result, json);
  }

  py::array_t<double> simulate(const std::string& name, const std::string& input,
                               const std::optional<Amount>& low, const std::optional<Amount>& high,
                               std::uint64_t samples, std::uint64_t number, std::uint64_t seed,
                               double frequency, double rate, bool readings) const {
    const auto& chain = chain_named(name);
    const auto& span = chain.channel.span;
    simulate::Sampler::Settings settings{
        .stimulus = {.input = named<signal::Input>("input", input),
                     .from = span.low,
                     .to = span.high},
        .shows = readings ? record::Shows::readings : record::Shows::codes,
        .rate = rate > 0.0 ? rate : chain.firmware.digital.rate};
    auto& stimulus = settings.stimulus;
    if (stimulus.input == signal::Input::steady) stimulus.from = span.middle();
    if (stimulus.input == signal::Input::step) stimulus.to = span.middle();
    if (low) stimulus.from = in_si("low", *low, span.unit);
    if (high) stimulus.to = in_si("high", *high, span.unit);
    if (!(settings.rate > 0.0))
      refuse("rate", "no rate, neither here nor in the board", "samples a second");
    settings.samples = samples;
    settings.seed = seed;
    settings.number = number;
    if (stimulus.input == signal::Input::sine) {
      const double shown = simulate::shown_rate(chain, settings);
      if (!(frequency > 0.0 && frequency < shown / 2.0))
        refuse("frequency", std::to_string(frequency),
               "above 0 and below half the rate of samples");
      stimulus.frequency = simulate::coherent(frequency, shown, samples);
    }
    py::array_t<double> result(static_cast<py::ssize_t>(samples));
    double* to = result.mutable_data();
    const py::gil_scoped_release unlocked;
    simulate::Sampler sampler(
        chain, chain, number == 0 ? simulate::nominal(chain) : simulate::draw(chain, seed, number),
        settings);
    for (auto part = sampler.next(8192); !part.empty(); part = sampler.next(8192)) {
      if (readings) quantity::from_si(part, span.unit, part);
      to = std::copy(part.begin(), part.end(), to);
      take_signals();
    }
    return result;
  }

  // The result, and the text of each file by its name.
  std::pair<std::string, std::map<std::string, std::string>> firmware(const Names& names) const {
    result::Firmwares result;
    std::map<std::string, std::string> files;
    for (const auto* chain : chains_of(names)) {
      const auto& one = result.channels.emplace_back(
          firmware::plan_with_budget(board_, *chain, firmware::PlanRequest{}));
      const auto code =
          firmware::c_code(one.plan, {.measures = chain->channel.measures,
                                      .made_by = std::string("Tamlo ") + version,
                                      .description = io::hash_of(board_.files, settings_)});
      files[one.plan.identifier + ".h"] = code.header;
      files[one.plan.identifier + ".c"] = code.source;
    }
    return {result::write(result, json), files};
  }

 private:
  Names paths_, settings_;
  io::LoadedBoard board_;

  io::LoadedBoard load() const {
    if (paths_.empty()) refuse("files", "no file of a board", "one or more");
    return io::load_board(paths_, settings_);
  }
  const quantity::Range& span_of_name(const std::string& name) const {
    return *model::span_named(board_, all_of({name}).front());
  }
  // Those that were asked for; all of the board without any.
  Names all_of(const Names& names) const {
    auto known = channels();
    for (auto& quantity : quantities()) known.push_back(std::move(quantity));
    for (const auto& name : names) {
      if (std::ranges::find(known, name) == known.end())
        refuse("channel", "\"" + name + "\"", io::one_of(name, known));
    }
    return names.empty() ? known : names;
  }
  const chain::Chain& chain_named(const std::string& name) const {
    const auto at = std::ranges::find(board_.chains, name,
                                      [](const chain::Chain& chain) { return chain.channel.name; });
    if (at == board_.chains.end())
      refuse("channel", "\"" + name + "\"", io::one_of(name, channels()));
    return *at;
  }
  std::vector<const chain::Chain*> chains_of(const Names& names) const {
    std::vector<const chain::Chain*> result;
    for (const auto& name : names.empty() ? channels() : names)
      result.push_back(&chain_named(name));
    return result;
  }
  static std::vector<io::ChannelReadings> wanted(const io::ReadingsFile& file, const Names& names) {
    std::vector<io::ChannelReadings> result;
    for (const auto& rows : file.channels) {
      if (names.empty() || std::ranges::find(names, rows.channel) != names.end())
        result.push_back(rows);
    }
    if (result.empty()) refuse("channel", "no readings of it", "a channel that the readings have");
    return result;
  }
};

py::list as_list(const std::vector<Problem>& problems) {
  py::list list;
  for (const auto& each : problems) {
    py::dict one;
    one["file"] = each.file;
    one["line"] = each.line;
    one["column"] = each.column;
    one["key"] = each.path;
    one["problem"] = each.problem;
    one["hint"] = each.hint;
    list.append(one);
  }
  return list;
}

}  // namespace

PYBIND11_MODULE(_tamlo, module) {
  module.attr("version") = version;
  static const py::exception<Error> error(module, "Error");
  const auto raise = [](const char* text, const py::list& problems) {
    py::object one = py::reinterpret_borrow<py::object>(error)(text);
    one.attr("problems") = problems;
    PyErr_SetObject(error.ptr(), one.ptr());
  };
  static const auto raised = raise;
  py::register_exception_translator([](std::exception_ptr thrown) {
    try {
      if (thrown) std::rethrow_exception(thrown);
    } catch (const io::BadInput& bad) {
      raised(bad.what(), as_list(bad.problems));
    } catch (const model::InvalidBoard& bad) {
      raised(bad.what(), as_list(bad.problems));
    } catch (const Error& other) {
      raised(other.what(), py::list());
    }
  });
  using Unlocked = py::call_guard<py::gil_scoped_release>;
  py::class_<io::ReadingsFile>(module, "Readings");
  py::class_<Board>(module, "Board")
      .def(py::init<Names, Names>(), Unlocked())
      .def_property_readonly("channels", &Board::channels)
      .def_property_readonly("quantities", &Board::quantities)
      .def_property_readonly("title", &Board::title)
      .def("unit", &Board::unit)
      .def("check", &Board::check, Unlocked())
      .def("settings", &Board::settings, Unlocked())
      .def("budget", &Board::budget, Unlocked())
      .def("explore", &Board::explore, Unlocked())
      .def("readings", &Board::readings)
      .def("compare", &Board::compare, Unlocked())
      .def("calibrate", &Board::calibrate, Unlocked())
      .def("record", &Board::record)
      .def("simulate", &Board::simulate)
      .def("firmware", &Board::firmware, Unlocked());
}

}  // namespace tamlo::python
