// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <string>
#include <vector>

// A command is one file: what it is asked, its options, and what it does.
namespace tamlo::tool {

/// Text of --help about an option: its value, its purpose, and its default.
struct OptionText {
  std::string value;
  std::string meaning;
  std::string otherwise{};
};

/// Positional arguments after the board and the files that override it.
struct BehindBoard {
  OptionText file{};         ///< a file that is read; none without a name
  bool file_needed = true;   ///< and not only where it is there
  bool board_needed = true;  ///< else a file alone will do
  bool one_channel = false;  ///< of several, one must be named
};

/// The board and what is looked at.
struct BoardArguments {
  std::vector<std::string> boards{};    ///< the board and the files that override it
  std::vector<std::string> channels{};  ///< empty: all
  std::string data{};                   ///< the readings or the record
};

/// The form of a result, and a folder for its tables.
struct Form {
  std::string name = "text";
  std::string tables{};  ///< the folder that its tables go to; none without a name
  bool operator==(const char* other) const { return name == other; }
};

/// Takes the options of a command. Values are read as text: numbers are read where their units
/// are known.
class Options {
 public:
  virtual ~Options() = default;
  /// BOARD [MORE.toml ...], with --channel.
  virtual void board(BoardArguments& into, const BehindBoard& later) = 0;
  /// One word behind the command, in place of a board.
  virtual void word(const char* name, std::string& into, OptionText text) = 0;
  /// Those that follow stand under this title.
  virtual void group(std::string title) = 0;
  virtual void option(const char* name, std::string& into, OptionText text) = 0;
  virtual void repeated(const char* name, std::vector<std::string>& into, OptionText text) = 0;
  virtual void choice(const char* name, std::string& into, const std::vector<std::string>& names,
                      OptionText text) = 0;
  virtual void choices(const char* name, std::vector<std::string>& into,
                       const std::vector<std::string>& texts, OptionText text) = 0;
  virtual void flag(const char* name, bool& into, OptionText text) = 0;
  /// A file that is read, or written: none may be both.
  virtual void input(const char* name, std::string& into, OptionText text) = 0;
  virtual void inputs(const char* name, std::vector<std::string>& into, OptionText text) = 0;
  virtual void output(const char* name, std::string& into, OptionText text) = 0;
  /// Refuses each of these without `other`, or beside it: there they would do nothing.
  virtual void only_with(const char* other, const std::vector<const char*>& names) = 0;
  virtual void not_with(const char* other, const std::vector<const char*>& names) = 0;

  void board(BoardArguments& into) { board(into, {}); }
  void coverage(std::string& into) {
    option("--coverage", into, {"P", "coverage probability", "0.95"});
  }
  /// `more` are forms beside those of all commands, and `of_more` tells what they are.
  void format(Form& into, const std::vector<std::string>& more = {},
              const std::string& of_more = {}) {
    std::vector<std::string> all{"text", "json", "csv", "markdown", "xlsx"};
    all.insert(all.end(), more.begin(), more.end());
    choice("--format", into.name, all,
           {"FORM", "of the result; xlsx: a workbook, with > FILE.xlsx" + of_more, "text"});
    option("--tables", into.tables, {"DIR", "write each table to a CSV file in DIR, too"});
  }
  /// Adds junit to the forms, for a command that judges channels.
  void format_of_verdicts(Form& into) {
    format(into, {"junit"}, "; junit: each channel as a test case");
  }
  void plot(std::string& into, std::string& kind, const std::vector<std::string>& kinds,
            const std::string& otherwise) {
    output("--plot", into, {"FILE", "draw to FILE.svg or FILE.png"});
    if (!kinds.empty()) {
      choice("--plot-kind", kind, kinds, {"KIND", "what to draw", otherwise});
      only_with("--plot", {"--plot-kind"});
    }
  }
};

struct Command {
  const char* name;
  const char* question;
  std::array<const char*, 2> examples;  ///< behind "tamlo", with the demo's files; both run
  /// Puts its options there; the function that runs it once they are read.
  std::function<int()> (*describe)(Options&);
  bool here = true;  ///< false where this build has not what it needs
};

/// Returns the `describe` function of a command with arguments of its own.
template <class Arguments>
std::function<int()> described(Options& options, void (*declare)(Options&, Arguments&),
                               int (*run)(const Arguments&)) {
  auto arguments = std::make_shared<Arguments>();
  declare(options, *arguments);
  return [arguments, run] { return run(*arguments); };
}

}  // namespace tamlo::tool
