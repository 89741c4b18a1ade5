// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "command.hpp"
#include "tamlo/chain/chain.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/io/record_file.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/record/prediction.hpp"
#include "tamlo/report/table.hpp"
#include "tamlo/result/results.hpp"

namespace tamlo::tool {

/// The exit statuses of every command.
enum Status : int { done = 0, missed = 1, bad_input = 2, environment = 3, damaged = 4 };

/// The chains of the channels that the user named, or of all.
std::vector<chain::Chain> chains_of(const io::LoadedBoard& board, const BoardArguments& arguments);

/// Channels and quantities that the user named, or all of both.
struct Requested {
  std::vector<chain::Chain> chains{};
  std::vector<model::Quantity> quantities{};
  /// Names of the channels, and behind them of the quantities.
  std::vector<std::string> names() const;
};
Requested requested(const io::LoadedBoard& board, const BoardArguments& arguments);

/// A value of the command line in the notation, in the unit of `like` (which may lend its own
/// label). Throws io::BadInput with the option's name.
double value_of(const std::string& option, const std::string& text, const quantity::Unit& like);
using io::refuse;
/// Refuses an output whose name has another ending; one without a name is none.
void check_ending(const std::string& option, const std::string& path, std::string_view ending);
/// The element of that name; another is refused, with the names that there are.
template <class Named>
const Named& named_in(const std::vector<Named>& list, const std::string& option,
                      const std::string& name) {
  if (const auto* found = model::find(list, name)) return *found;
  std::vector<std::string> known;
  for (const auto& each : list) known.push_back(each.name);
  refuse(option, "\"" + name + "\"", io::one_of(name, known));
}
/// A whole number within bounds.
std::uint64_t whole_of(const std::string& option, const std::string& text, std::uint64_t low,
                       std::uint64_t high);
/// Returns the value of --at, inside the span.
double point_of(const std::string& text, const quantity::Range& span);
/// A time above 0.
std::chrono::steady_clock::duration time_of(const std::string& option, const std::string& text);
/// From then on SIGINT and SIGTERM end nothing, and interrupted() tells whether one came.
void catch_interrupts();
bool interrupted();
/// A change over time, in SI a second.
double slope_of(const std::string& option, const std::string& text, const quantity::Unit& unit);
/// "0..60 V". Throws io::BadInput with the option's name.
quantity::Range range_of(const std::string& option, const std::string& text,
                         const quantity::Unit& unit);
/// Refuses a picture that is neither SVG nor PNG, or of more than one channel.
void check_picture(const char* option, const std::string& path, std::size_t channels);
/// Returns the layout of the samples of `path`, by the text of --layout or the end of its name; CSV
/// for standard input and output.
io::RecordLayout layout_of(const std::string& layout, const std::string& path);
/// Returns the value of --input.
record::Input input_of(const std::string& text);
/// A probability between 0.5 and 0.9999.
double coverage_of(const std::string& text);

/// A text in quotes that a shell takes as it is, and a word that is quoted where it needs it.
std::string in_quotes(const std::string& text);
std::string shell_word(const std::string& word);

/// Standard output, complete, or io::EnvironmentError.
void print(std::string_view text);
/// Prints the same for people: as wide as their terminal, or COLUMNS, and in its letters.
void say(std::string_view text);
/// Prints one line over the one before, cut to the width of the terminal.
void say_over(std::string_view text);
/// In plain ASCII where the locale has no other letters.
std::string in_letters(std::string_view text);
/// The reports as text, with colour on a terminal.
void print(const std::vector<report::Report>& reports);
/// A result in the form that was asked for: its fields, or for people its reports; and each table
/// as a file, where --tables names a folder. `own` gives the text of a form that not every command
/// has.
void show(const result::DocumentPtr& result, const std::vector<report::Report>& reports,
          const Form& form, const std::function<std::string()>& own);
template <class Result>
void show(const Result& result, const std::vector<report::Report>& reports, const Form& form,
          const std::function<std::string()>& own = {}) {
  show(result::document_of(&result), reports, form, own);
}
/// Shows what `write` makes of a form, without tables.
void show(const std::vector<report::Report>& reports,
          const std::function<std::string(result::Format)>& write, const Form& form);
/// Makes a folder, with those that it lies in. Throws io::EnvironmentError.
void make_folder(const std::string& path);
bool colour();

}  // namespace tamlo::tool
