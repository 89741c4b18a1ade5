// SPDX-License-Identifier: Apache-2.0
#include "command_line.hpp"

#include <CLI/CLI.hpp>
#include <algorithm>
#include <set>
#include <sstream>

#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

// The positional words of a command: files that end in .toml are the board and its overrides.
void sort_words(const std::vector<std::string>& words, Arguments& a) {
  for (std::size_t i = 0; i < words.size(); ++i) {
    const auto& word = words[i];
    if (i == 0 || (word.size() > 5 && word.ends_with(".toml"))) {
      a.boards.push_back(word);
    } else if ((a.command == "compare" || a.command == "calibrate" || a.command == "record") &&
               a.readings.empty()) {
      a.readings = word;
    } else {
      a.channels.push_back(word);
    }
  }
}

// Options that several commands share, each said once. Only the asked command is given its options:
// the others would take as long to describe as all else at the start.
class Commands {
 public:
  Commands(CLI::App& app, Arguments& a, std::vector<std::string>& words, std::string asked)
      : app_(app), a_(a), words_(words), asked_(std::move(asked)) {}

  Commands& add(const std::string& name, const std::string& question) {
    auto* command = app_.add_subcommand(name, question);
    command->callback([this, name] { a_.command = name; });
    command_ = name == asked_ ? command : nullptr;
    return *this;
  }
  Commands& words(const std::string& usage, const std::string& help) {
    if (command_ == nullptr) return *this;
    command_->add_option(usage, words_, help)->required()->expected(1, 1000);
    return *this;
  }
  Commands& at(const std::string& help) { return option("--at", a_.at, help); }
  Commands& option(const std::string& name, std::vector<std::string>& into,
                   const std::string& help) {
    if (command_ == nullptr) return *this;
    command_->add_option(name, into, help)->expected(1)->take_all();
    return *this;
  }
  Commands& option(const std::string& name, std::string& into, const std::string& help) {
    if (command_ == nullptr) return *this;
    command_->add_option(name, into, help);
    return *this;
  }
  template <class Into>
  Commands& choice(const std::string& name, Into& into, const std::set<std::string>& of,
                   const std::string& help) {
    if (command_ == nullptr) return *this;
    auto* option = command_->add_option(name, into, help)->check(CLI::IsMember(of));
    if constexpr (!std::is_same_v<Into, std::string>) option->expected(1)->take_all();
    return *this;
  }
  Commands& coverage() {
    return option("--coverage", a_.coverage, "coverage probability, 0.95 by default");
  }
  Commands& format() {
    return choice("--format", a_.format, {"text", "json", "csv", "markdown"},
                  "text (default), json, csv or markdown");
  }

 private:
  CLI::App& app_;
  Arguments& a_;
  std::vector<std::string>& words_;
  std::string asked_;
  CLI::App* command_ = nullptr;  // nullptr where it is not the asked one
};

}  // namespace

CommandLine read_command_line(int argc, const char* const* argv) {
  CommandLine result;
  Arguments& a = result.arguments;
  std::vector<std::string> words;
  CLI::App app("How wrong can the reading of an analog channel be, and does it do what was said?\n",
               "tamlo");
  app.set_version_flag("--version", std::string("tamlo ") + version);
  app.require_subcommand(1);
  app.footer(
      "Exit status: 0 done; 1 done, and a target or limit is missed; 2 bad input or usage;\n"
      "3 the environment failed; 4 done, but a record was damaged. Begin with: tamlo demo");

  const std::string board = "the board file; later .toml files override its keys; then ";
  const std::string some = "the channels (all without one)";
  const auto* const word = std::find_if(
      argv + 1, argv + argc, [](std::string_view text) { return !text.starts_with('-'); });
  Commands commands(app, a, words, word < argv + argc ? *word : "");
  commands.add("demo", "walk the whole job on the shipped board and readings");
  commands.add("check", "is this description sound, and what needs attention?")
      .words("BOARD", board + some)
      .format();
  commands.add("channel", "what are the effective settings: code width, range used, defaults?")
      .words("BOARD", board + some)
      .option("--plot", a.plot, "draw what average and filter do to FILE.svg or FILE.png")
      .option("--ramp", a.ramp,
              "a slow ramp, such as \"2 V/s\": how often does the reading change?")
      .option("--staircase", a.staircase, "draw that ramp to FILE.svg or FILE.png")
      .option("--other-resolution", a.beside, "the resolution to draw beside it, such as \"8 bit\"")
      .format();
  commands.add("convert", "what does a value become at every step of the chain, and back?")
      .words("BOARD", board + "the channel")
      .at("a value of the quantity, such as --at \"48 V\"; may be repeated; - reads standard input")
      .option(
          "--code", a.code,
          "a code to go back from (2048, 0x800, 0b1000); may be repeated; - reads standard input")
      .option("--pin", a.pin,
              "a voltage at the converter's pin; may be repeated; - reads standard input")
      .option("--step", a.step, "one step alone, such as code or reading, as a column")
      .format();
  commands.add("budget", "how wrong can the reading be, and what dominates?")
      .words("BOARD", board + some)
      .at("a point of the span; may be repeated (zero, middle and full scale without one)")
      .coverage()
      .option("--trials", a.trials,
              "Monte Carlo beside it: a number of trials, or auto for two digits")
      .option("--seed", a.seed, "of the trials, 1 by default")
      .option("--threads", a.threads, "for the trials; changes no digit")
      .option("--what-if", a.what_if,
              "a file that changes keys: both budgets side by side; may be repeated")
      .option("--set", a.set, "the same for one key: --set channel.x.average=64; may be repeated")
      .choice("--over", a.over, {"temperature", "age"},
              "the worst place as this changes; may be repeated")
      .option("--plot", a.plot, "draw to FILE.svg or FILE.png")
      .choice("--plot-kind", a.picture, {"contributions", "span", "temperature", "age", "trials"},
              "what to draw: contributions (default), span, temperature, age, trials")
      .format();
  commands.add("compare", "does the channel agree with the meter?")
      .words("BOARD", board + "the readings file (CSV)")
      .option("--channel", a.channels, "a channel of the readings (all without one)")
      .option("--meter", a.meter, "the meter of the board that was used")
      .option("--meter-accuracy", a.meter_accuracy,
              "of a meter that the board does not describe, such as \"±0.5 % ±2 digits\"")
      .option("--since", a.since, "an earlier readings file of the same units: what has changed?")
      .option("--elapsed", a.apart, "the time between, such as \"1 year\", where rows have none")
      .option("--plot", a.plot, "draw to FILE.svg or FILE.png")
      .choice("--plot-kind", a.picture, {"differences", "normalised", "units"},
              "what to draw: differences (default), normalised errors, units")
      .coverage()
      .format();
  commands.add("calibrate", "what correction, how good is it, what remains?")
      .words("BOARD", board + "the readings file (CSV)")
      .option("--channel", a.channels, "the channel, where the file has several")
      .option("--meter", a.meter, "the meter of the board that was used")
      .option("--meter-accuracy", a.meter_accuracy,
              "of a meter that the board does not describe, such as \"±0.5 % ±2 digits\"")
      .choice("--model", a.model,
              {"best", "offset", "gain", "two-point", "line", "weighted-line", "both-axes",
               "polynomial", "piecewise"},
              "best (default: the one that predicts rows best), offset, gain, two-point, line, "
              "weighted-line, both-axes, polynomial, piecewise")
      .option("--order", a.order, "of a polynomial, 2 by default")
      .option("--held-out", a.held_out, "a second readings file to try the correction on")
      .option("--write", a.write, "write the correction to FILE.toml, for the other commands")
      .option("--plot", a.plot, "draw to FILE.svg or FILE.png")
      .choice("--plot-kind", a.picture, {"before-after", "residuals"},
              "what to draw: before-after (default), residuals")
      .coverage()
      .format();
  const std::string low_end = "the low end of a ramp or sine, or where a step begins";
  const std::string high_end = "the high end of it";
  const std::string layouts = "csv, wav, or raw: int16, uint24 big, float32 ... (by the name)";
  commands.add("record", "what do captured samples say about noise, linearity, stability?")
      .words("BOARD", board + "the record (CSV, WAV or raw numbers; - reads standard input)")
      .option("--channel", a.channels,
              "the channel; may be repeated (those of the heading without one)")
      .option("--column", a.columns, "the column of each, where it is called otherwise")
      .choice("--input", a.input, {"steady", "ramp", "sine", "step"},
              "what the channel was fed with: steady (default), ramp, sine, step")
      .option("--layout", a.layout, layouts)
      .choice("--data", a.shows, {"codes", "readings"}, "what was captured (by the heading)")
      .option("--rate", a.rate, "of the samples, such as \"1 kSa/s\" (by the file or the board)")
      .option("--low", a.low, low_end)
      .option("--high", a.high, high_end)
      .option("--step-at", a.step_at, "the sample at which the step came")
      .option("--inl-uncertainty", a.wanted,
              "uncertainty of INL that is asked for, 0.1 LSB by default")
      .choice("--window", a.window, {"rectangular", "hann", "blackman-harris", "flat-top"},
              "of the spectrum, blackman-harris by default")
      .option("--averages", a.averages,
              "also show the stability of averages of so many samples; may be repeated")
      .option("--scale", a.scale, "of a chart, such as \"0..60 V\" (by what is seen)")
      .option("--write", a.write, "write what was measured to FILE.toml, for the other commands")
      .option("--plot", a.plot, "draw to FILE.svg or FILE.png")
      .choice("--plot-kind", a.picture,
              {"histogram", "spectrum", "stability", "linearity", "step", "chart"},
              "what to draw: histogram, spectrum, stability, linearity, step, chart")
      .coverage()
      .format();
  commands.add("simulate", "what would a real unit show?")
      .words("BOARD", board + "the channels")
      .at("a position of the knob: readings beside the meter; may be repeated")
      .option("--meter", a.meter, "the meter of the board that is used")
      .choice("--input", a.input, {"steady", "ramp", "sine", "step"},
              "a record instead: steady, ramp, sine, step")
      .option("--low", a.low, low_end + ", or the steady value")
      .option("--high", a.high, high_end)
      .option("--frequency", a.frequency,
              "of the sine, such as \"50 Hz\"; the coherent one nearest to it")
      .option("--samples", a.samples, "of the record, 10000 by default")
      .option("--rate", a.rate, "of the conversions, such as \"1 kSa/s\" (by the board)")
      .choice("--data", a.shows, {"codes", "readings"},
              "what is captured: codes (default), readings")
      .option("--unit", a.unit,
              "number of the unit, 1 by default; 0 has no deviations; 11..22: several")
      .option("--seed", a.seed, "of all that is drawn, 1 by default")
      .option("--run", a.run, "another run of the same unit: new noise")
      .option("--deviate", a.deviate,
              "add to a parameter: --deviate \"divider top=-1.2 %\"; may be repeated")
      .option("--firmware", a.firmware, "a file that changes what the firmware believes")
      .option("--inl", a.inl, "bend the steps by so much, such as \"2 LSB\"")
      .choice("--bend", a.bend, {"bow", "s-curve", "bit-weights"},
              "how: bow (default), s-curve, bit-weights")
      .option("--missing", a.missing, "a code that never comes; may be repeated")
      .option("--jitter", a.jitter, "of the moment of sampling, such as \"5 ns\"")
      .option("--drift", a.drift, "of the input, such as \"0.1 V/s\"")
      .option("--hum", a.hum, "a sine on top, such as \"0.2 V at 50 Hz\"")
      .option("--layout", a.layout, layouts)
      .option("--write", a.write, "write to FILE; without one to standard output");
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& stop) {  // asking for help is one
    std::ostringstream said;
    result.exit = app.exit(stop, said, said) == 0 ? 0 : 2;
    result.said = said.str();
  }
  sort_words(words, a);
  return result;
}

}  // namespace tamlo::tool
