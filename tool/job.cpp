// SPDX-License-Identifier: Apache-2.0
#include "job.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <filesystem>
#include <utility>

#include "console.hpp"
#include "tamlo/io/detail/output_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/names.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/notation.hpp"
#include "tamlo/report/plot.hpp"

namespace tamlo::tool {

std::vector<chain::Chain> chains_of(const io::LoadedBoard& board, const BoardArguments& arguments) {
  std::vector<std::string> known;
  for (const auto& channel : board.channels) known.push_back(channel.name);
  std::vector<Problem> unknown;
  std::vector<chain::Chain> chains;
  for (const auto& name : arguments.channels.empty() ? known : arguments.channels) {
    const auto chain = std::ranges::find(
        board.chains, name, [](const chain::Chain& candidate) { return candidate.channel.name; });
    if (chain == board.chains.end()) {
      unknown.push_back({.file = arguments.boards.front(),
                         .line = 1,
                         .column = 1,
                         .path = "channel",
                         .problem = fmt::format("no channel \"{}\"", name),
                         .hint = io::one_of(name, known)});
    } else {
      chains.push_back(*chain);
    }
  }
  if (!unknown.empty()) throw io::BadInput(std::move(unknown));
  return chains;
}

std::vector<std::string> Requested::names() const {
  std::vector<std::string> result;
  for (const auto& chain : chains) result.push_back(chain.channel.name);
  for (const auto& quantity : quantities) result.push_back(quantity.name);
  return result;
}

Requested requested(const io::LoadedBoard& board, const BoardArguments& arguments) {
  if (arguments.channels.empty()) return {board.chains, board.quantities};
  Requested result;
  BoardArguments channels{.boards = arguments.boards};
  for (const auto& name : arguments.channels) {
    if (const auto* quantity = model::find(board.quantities, name)) {
      result.quantities.push_back(*quantity);
    } else {
      channels.channels.push_back(name);
    }
  }
  if (!channels.channels.empty()) result.chains = chains_of(board, channels);
  return result;
}

namespace {

// A text of the command line, or its error with the option's name.
template <class Read>
auto option_value(const std::string& option, const std::string& text, Read read) {
  try {
    return read();
  } catch (const quantity::NotationError& error) {
    refuse(fmt::format("{} \"{}\"", option, text),
           fmt::format("{} at column {}", error.problem, error.column), error.hint);
  }
}

}  // namespace

void check_ending(const std::string& option, const std::string& path, std::string_view ending) {
  if (path.empty() || path.ends_with(ending)) return;
  refuse(option, fmt::format("\"{}\"", path), fmt::format("a file that ends in {}", ending));
}

std::uint64_t whole_of(const std::string& option, const std::string& text, std::uint64_t low,
                       std::uint64_t high) {
  std::uint64_t value = 0;
  const char* end = text.data() + text.size();
  const auto [stop, error] = std::from_chars(text.data(), end, value);
  if (error == std::errc{} && stop == end && value >= low && value <= high) return value;
  refuse(option, fmt::format("\"{}\"", text),
         fmt::format("a whole number from {} to {}", low, high));
}

double value_of(const std::string& option, const std::string& text, const quantity::Unit& like) {
  return option_value(option, text, [&] {
    const auto value = quantity::parse_value(text, {.unit = like});
    if (value.nominal && value.limits.empty()) return *value.nominal;
    throw quantity::NotationError(1, fmt::format("\"{}\"", text), "a value without limits");
  });
}

quantity::Range range_of(const std::string& option, const std::string& text,
                         const quantity::Unit& unit) {
  return option_value(option, text, [&] { return quantity::parse_range(text, {.unit = unit}); });
}

double point_of(const std::string& text, const quantity::Range& span) {
  const double x = value_of("--at", text, span.unit);
  if (span.holds(x)) return x;
  refuse("--at", fmt::format("\"{}\"", text),
         fmt::format("a point of the span {}", quantity::to_string(span)));
}

std::chrono::steady_clock::duration time_of(const std::string& option, const std::string& text) {
  const double seconds = value_of(option, text, quantity::unit("s"));
  if (!(seconds > 0.0 && seconds < 1e9)) {
    refuse(option, fmt::format("\"{}\"", text), "a time above 0, such as \"30 s\"");
  }
  return std::chrono::duration_cast<std::chrono::steady_clock::duration>(
      std::chrono::duration<double>(seconds));
}

namespace {

volatile std::sig_atomic_t signal_came = 0;
std::chrono::steady_clock::time_point first_signal{};

// A few of them may come as one, such as from a program that tells a whole group of processes.
bool is_second(std::chrono::steady_clock::time_point now) {
  return now - first_signal > std::chrono::milliseconds(300);
}

void note_signal(int came) {
  std::signal(came, note_signal);  // where one is caught only once
  const auto now = std::chrono::steady_clock::now();
  if (signal_came != 0 && is_second(now)) std::_Exit(128 + came);  // at once
  if (signal_came == 0) first_signal = now;
  signal_came = 1;
}

}  // namespace

void catch_interrupts() {
  signal_came = 0;
  for (const int signal : {SIGINT, SIGTERM}) std::signal(signal, note_signal);
}

bool interrupted() { return signal_came != 0; }

double slope_of(const std::string& option, const std::string& text, const quantity::Unit& unit) {
  return option_value(option, text, [&] { return quantity::parse_slope(text, unit); });
}

void check_picture(const char* option, const std::string& path, std::size_t channels) {
  if (path.empty()) return;
  if (!report::image_of(path)) {
    refuse(option, fmt::format("\"{}\"", path), "a file that ends in .svg or .png");
  }
  if (channels != 1) {
    refuse(option, fmt::format("{} channels", channels), "one channel in a picture: name it");
  }
}

io::RecordLayout layout_of(const std::string& text, const std::string& path) {
  io::RecordLayout layout;
  if (text.empty()) {
    if (!io::layout_of_name(path, layout) && path != "-") {
      refuse("--layout", "no layout in the name of the file", io::record_layouts);
    }
  } else if (!io::parse_layout(text, layout)) {
    refuse("--layout", fmt::format("\"{}\"", text), io::record_layouts);
  }
  return layout;
}

record::Input input_of(const std::string& text) {
  return named<record::Input>(text).value_or(record::Input::steady);
}

double coverage_of(const std::string& text) {
  const double coverage = value_of("--coverage", text, {});
  if (coverage >= 0.5 && coverage <= 0.9999) return coverage;
  refuse("--coverage", text, "a probability from 0.5 to 0.9999, such as 0.95");
}

bool colour() { return std::getenv("NO_COLOR") == nullptr && shows_colours(); }

std::string in_quotes(const std::string& text) {
  std::string result = "'";
  for (const char c : text) result += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return result + "'";
}

std::string shell_word(const std::string& word) {
  const bool plain = std::ranges::all_of(word, [](char c) {
    return std::isalnum(static_cast<unsigned char>(c)) != 0 ||
           std::strchr("_-./:=,+%@", c) != nullptr;
  });
  return plain && !word.empty() ? word : in_quotes(word);
}

void print(std::string_view text) {
  if (std::fwrite(text.data(), 1, text.size(), stdout) != text.size() || std::fflush(stdout) != 0) {
    throw io::EnvironmentError("standard output cannot be written");
  }
}

namespace {

// Of a terminal its width, and what COLUMNS says of any reader; else 0, as wide as it is.
std::size_t text_width() {
  if (const char* const text = std::getenv("COLUMNS")) {
    const int columns = std::atoi(text);
    if (columns >= 40 && columns <= 1000) return static_cast<std::size_t>(columns);
  }
  const auto columns = terminal_width();
  return columns >= 40 ? columns : 0;
}

// As the locale is chosen (POSIX, 8.2): the first of these that is set.
bool only_ascii() {
  for (const char* name : {"LC_ALL", "LC_CTYPE", "LANG"}) {
    const char* const set = std::getenv(name);
    if (set == nullptr || *set == '\0') continue;
    std::string locale(set);
    std::ranges::transform(locale, locale.begin(), [](unsigned char c) { return std::tolower(c); });
    return locale.find("utf-8") == std::string::npos && locale.find("utf8") == std::string::npos;
  }
  return !shows_unicode();
}

}  // namespace

std::string in_letters(std::string_view text) {
  return only_ascii() ? report::ascii(text) : std::string(text);
}

void say(std::string_view text) { print(in_letters(report::fitted(text, text_width()))); }

void say_over(std::string_view text) {
  auto line = in_letters(text);
  const auto width = text_width();
  while (width > 0 && quantity::characters(line) >= width) {
    while ((static_cast<unsigned char>(line.back()) & 0xC0) == 0x80) line.pop_back();
    line.pop_back();
  }
  print("\r\x1b[K" + line);
}

namespace {

// What is said in words, before or behind the tables.
std::string words(const std::vector<report::Report>& reports,
                  std::vector<report::Line> report::Report::*lines) {
  std::string text;
  for (const auto& report : reports) text += report::markdown(report.*lines);
  return text;
}

}  // namespace

void print(const std::vector<report::Report>& reports) {
  std::string text;
  for (const auto& report : report::legends_last(reports)) {
    if (!text.empty()) text += "\n";
    text += render(only_ascii() ? report::ascii(report) : report, colour(), text_width());
  }
  print(text);
}

void show(const std::vector<report::Report>& reports,
          const std::function<std::string(result::Format)>& write, const Form& form) {
  if (form == "json") return print(write(result::Format::json));
  if (form == "csv") return print(write(result::Format::csv));
  if (form == "xlsx") {
    if (is_terminal(stdout))
      refuse("--format", "a workbook on a terminal", "tamlo ... --format xlsx > FILE.xlsx");
    return print(write(result::Format::workbook));
  }
  if (form == "text") return print(reports);
  print(words(reports, &report::Report::verdict) + write(result::Format::markdown) + "\n" +
        words(reports, &report::Report::remarks) +
        words(report::legends_last(reports), &report::Report::legend));
}

void make_folder(const std::string& path) {
  std::error_code error, ignored;
  std::filesystem::create_directories(io::path_of(path), error);
  if (!std::filesystem::is_directory(io::path_of(path), ignored)) {
    throw io::EnvironmentError(
        fmt::format("{}: {}", path, error ? error.message() : "it is not a folder"));
  }
}

namespace {

// Each table of a result as a file, where --tables names a folder.
void write_tables(const result::DocumentPtr& result, const Form& form) {
  if (form.tables.empty()) return;
  make_folder(form.tables);
  io::OutputFiles files({});
  for (const auto& [name, text] : result::table_files(result)) {
    const auto path = io::name_beside(form.tables + "/", name);
    files.add(path, "");
    files.write(path, text);
  }
  files.finish();
}

}  // namespace

void show(const result::DocumentPtr& result, const std::vector<report::Report>& reports,
          const Form& form, const std::function<std::string()>& own) {
  write_tables(result, form);
  if (form == "junit" || form == "sarif") return print(own());
  show(
      reports, [&](result::Format in) { return result::write(result, in); }, form);
}

}  // namespace tamlo::tool
