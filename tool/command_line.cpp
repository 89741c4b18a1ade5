// SPDX-License-Identifier: Apache-2.0
#include "command_line.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>
#include <sstream>

#include "command.hpp"
#include "help.hpp"
#include "job.hpp"
#include "tamlo/commands.hpp"
#include "tamlo/io/board_file.hpp"
#include "tamlo/io/detail/path.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/math/detail/instruction_sets.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/model/detail/board_keys.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {

#define TAMLO_COMMAND(name) extern const Command name##_command;
TAMLO_COMMANDS(TAMLO_COMMAND)
#undef TAMLO_COMMAND

namespace {

// In the order of the work.
#define TAMLO_COMMAND(name) &name##_command,
const Command* const commands[] = {TAMLO_COMMANDS(TAMLO_COMMAND)};
#undef TAMLO_COMMAND

// The options of the asked command, for the library that reads them and for the help.
class AskedOptions : public Options {
 public:
  AskedOptions(CLI::App& app, const Command& command) : app_(app), help_(command) {}

  using Options::board;
  void board(BoardArguments& into, const BehindBoard& later) override {
    board_ = &into;
    behind_ = later;
    const auto& file = later.file.value;
    app_.add_option(later.board_needed ? "BOARD" : file, words_)->required()->expected(1, 1000);
    help_.usage = later.board_needed ? "BOARD [MORE.toml ...]" : "[BOARD.toml ...]";
    if (reads_file()) help_.usage += later.file_needed ? " " + file : " [" + file + "]";
    help_.usage += later.one_channel ? " [CHANNEL]" : " [CHANNEL ...]";
    group("Input");
    help_.add("BOARD",
              {"", "the board file, or - for standard input; later .toml files override its keys" +
                       std::string(later.board_needed ? "" : "; without one the file alone")});
    if (reads_file()) help_.add(file, {"", later.file.meaning});
    help_.add("CHANNEL", {"", "same as --channel CHANNEL"});
    if (later.one_channel) {
      repeated("--channel", into.channels, {"NAME", "the channel", "the only one of the board"});
    } else {
      repeated("--channel", into.channels, {"NAME", "a channel; may be repeated", "all"});
    }
  }
  void word(const char* name, std::string& into, OptionText text) override {
    app_.add_option(name, into);
    help_.usage = "[" + std::string(name) + "]";
    group("Input");
    help_.add(name, std::move(text));
  }
  void group(std::string title) override { help_.group(std::move(title)); }
  void option(const char* name, std::string& into, OptionText text) override {
    app_.add_option(name, into);
    help_.add(name, std::move(text));
  }
  void repeated(const char* name, std::vector<std::string>& into, OptionText text) override {
    app_.add_option(name, into)->expected(1)->take_all();
    help_.add(name, std::move(text));
  }
  void choice(const char* name, std::string& into, const std::vector<std::string>& names,
              OptionText text) override {
    app_.add_option(name, into)->check(one_of(name, names));
    help_.add(name, std::move(text), names);
  }
  void choices(const char* name, std::vector<std::string>& into,
               const std::vector<std::string>& texts, OptionText text) override {
    app_.add_option(name, into)->expected(1)->take_all()->check(one_of(name, texts));
    help_.add(name, std::move(text), texts);
  }
  void flag(const char* name, bool& into, OptionText text) override {
    app_.add_flag(name, into);
    help_.add(name, std::move(text));
  }
  void input(const char* name, std::string& into, OptionText text) override {
    option(name, into, std::move(text));
    inputs_.push_back([&into] { return std::vector{into}; });
  }
  void inputs(const char* name, std::vector<std::string>& into, OptionText text) override {
    repeated(name, into, std::move(text));
    inputs_.push_back([&into] { return into; });
  }
  void output(const char* name, std::string& into, OptionText text) override {
    option(name, into, std::move(text));
    outputs_.emplace_back(name, &into);
  }

  void only_with(const char* other, const std::vector<const char*>& names) override {
    for (const auto* name : names) app_.get_option(name)->needs(app_.get_option(other));
  }
  void not_with(const char* other, const std::vector<const char*>& names) override {
    for (const auto* name : names) app_.get_option(name)->excludes(app_.get_option(other));
  }

  const Help& help() const { return help_; }

  // The words behind the command: files that end in .toml are the board and its overrides, the next
  // one is the data, all others are channels. Data that is TOML is the last of the former.
  void sort_words() {
    if (board_ == nullptr) return;
    for (std::size_t i = 0; i < words_.size(); ++i) {
      const auto& word = words_[i];
      const bool is_toml = word.size() > 5 && word.ends_with(".toml");
      if ((i == 0 && behind_.board_needed) || is_toml) {
        board_->boards.push_back(word);
      } else if (reads_file() && !file_is_toml() && board_->data.empty()) {
        board_->data = word;
      } else {
        board_->channels.push_back(word);
      }
    }
    if (file_is_toml() && board_->boards.size() > 1) {
      board_->data = board_->boards.back();
      board_->boards.pop_back();
    }
    if (reads_file() && behind_.file_needed && board_->data.empty())
      refuse("", "missing " + behind_.file.value + " after the board", behind_.file.meaning);
  }

  // Refuses an output that is one of the inputs, under whatever name, or another output.
  void check_outputs() const {
    std::vector<std::string> inputs;
    if (board_ != nullptr) {
      inputs = board_->boards;
      inputs.push_back(board_->data);
    }
    for (const auto& files : inputs_) {
      for (auto& file : files()) inputs.push_back(std::move(file));
    }
    const auto same = [](const std::string& a, const std::string& b) {
      std::error_code none;
      return a == b || std::filesystem::equivalent(io::path_of(a), io::path_of(b), none);
    };
    for (const auto& [option, path] : outputs_) {
      if (path->empty() || *path == "-") continue;
      for (const auto& input : inputs) {
        if (input.empty() || input == "-" || !same(*path, input)) continue;
        refuse(option, "\"" + *path + "\", which is read", "a file that is none of the inputs");
      }
      for (const auto& [other, name] : outputs_) {
        if (other == option || name->empty() || !same(*path, *name)) continue;
        refuse(option, "\"" + *path + "\", which " + other + " writes", "a file of its own");
      }
    }
  }

 private:
  CLI::App& app_;
  Help help_;
  BoardArguments* board_ = nullptr;
  BehindBoard behind_;
  std::vector<std::string> words_;
  std::vector<std::function<std::vector<std::string>()>> inputs_;
  std::vector<std::pair<std::string, const std::string*>> outputs_;

  bool reads_file() const { return !behind_.file.value.empty(); }
  // Then it is the last of the .toml files.
  bool file_is_toml() const { return behind_.file.value.ends_with(".toml"); }

  static CLI::Validator one_of(const std::string& name, std::vector<std::string> known) {
    return {[name, known = std::move(known)](std::string& text) -> std::string {
              if (std::ranges::find(known, text) != known.end()) return "";
              return name + ": " + sentence("\"" + text + "\"", io::one_of(text, known));
            },
            ""};
  }
};

// What is wrong, in the words of all messages.
std::string complaint(const CLI::ParseError& error, const std::string& command,
                      const std::vector<std::string>& known) {
  std::string what = error.what();
  if (what.find(": found ") != std::string::npos ||
      what.find("did you mean") != std::string::npos) {
    what = what.substr(what.rfind("--"));  // said by a choice of ours, which names its option
  } else if (dynamic_cast<const CLI::ExtrasError*>(&error) != nullptr) {
    auto word = what.substr(what.rfind(' ') + 1);
    word = word.substr(0, word.find('='));
    what = word.starts_with('-') ? "unknown option " + word : "unexpected \"" + word + "\"";
    if (const auto near = io::nearest(word, known); !near.empty()) {
      what += ": did you mean \"" + near + "\"?";
    }
  } else if (dynamic_cast<const CLI::RequiresError*>(&error) != nullptr) {
    what.replace(what.find(" requires "), 10, " does nothing without ");
  } else if (dynamic_cast<const CLI::ExcludesError*>(&error) != nullptr) {
    what.replace(what.find(" excludes "), 10, " cannot stand beside ");
  } else if (const auto missing = what.find(": 1 required"); missing != std::string::npos) {
    what = what.substr(0, missing) + " needs a value";
  }
  return "command line: " + what + "\nhelp: tamlo " + command + (command.empty() ? "" : " ") +
         "--help\n";
}

std::string general_help() {
  std::string text =
      "Error budgets for ADC channels, and checks at the bench.\n\n"
      "Usage: tamlo COMMAND BOARD [...]\n\nCommands, in the order of the work\n";
  for (const auto* command : commands) {
    if (!command->here) continue;
    text += "  " + std::string(command->name) +
            std::string(12 - std::string_view(command->name).size(), ' ') +
            wrapped(command->question, 14) + "\n";
  }
  return text +
         "\ntamlo COMMAND --help lists the options of one; --version says which this is.\n"
         "Begin with: tamlo demo, then tamlo start\n\n"
         "--manual [COMMAND]            a page for man\n"
         "--completion SHELL            for bash, zsh or fish\n"
         "--keys BOARD                  the keys that --set takes for this board\n\n" +
         exit_statuses;
}

// The help of every command.
std::vector<Help> all_help() {
  std::vector<Help> all;
  for (const auto* command : commands) {
    if (!command->here) continue;
    CLI::App app;
    AskedOptions options(app, *command);
    command->describe(options);
    all.push_back(options.help());
  }
  return all;
}

std::string version_text() {
  const auto sets = math::instruction_sets();
  std::ostringstream text;
  text << "tamlo " << version << "\nloops compiled for " << sets.compiled
       << "; in use: " << sets.in_use << "\n";
  return text.str();
}

bool is_for_programs(std::string_view wanted) {
  return wanted == "--manual" || wanted == "--completion" || wanted == "--keys";
}

// What is asked of the tool itself; nothing where it is something else.
std::string said_of_itself(const std::vector<std::string>& words) {
  if (words.size() == 1 && words[0] == "--version") return version_text();
  if (words.size() == 1 && (words[0] == "--help" || words[0] == "-h")) return general_help();
  if (words.size() == 2 && words[0] == "--completion") return completion(all_help(), words[1]);
  if (words.size() == 2 && words[0] == "--keys")
    return fmt::format("{}\n", fmt::join(model::settable_keys(io::load_board({words[1]})), "\n"));
  if (words.empty() || words.size() > 2 || words[0] != "--manual") return "";
  const auto all = all_help();
  if (words.size() == 1) return manual_page(all, nullptr);
  const auto named =
      std::ranges::find_if(all, [&](const Help& help) { return words[1] == help.command().name; });
  return named == all.end() ? "" : manual_page(all, &*named);
}

}  // namespace

CommandLine read_command_line(const std::vector<std::string>& words) {
  if (auto reply = said_of_itself(words); !reply.empty())
    return {.exit = 0, .said = std::move(reply), .for_people = !is_for_programs(words.front())};
  const auto wanted =
      std::ranges::find_if(words, [](const std::string& text) { return !text.starts_with('-'); });
  const std::string word = wanted != words.end() ? *wanted : "";
  const auto command =
      std::ranges::find_if(commands, [&](const Command* c) { return word == c->name; });
  if (command == std::end(commands)) {
    std::vector<std::string> known;
    for (const auto* each : commands) known.emplace_back(each->name);
    const auto what = word.empty() ? "no command" : "unknown command \"" + word + "\"";
    return {.exit = bad_input,
            .said = "command line: " + sentence(what, io::one_of(word, known)) +
                    "\nhelp: tamlo --help\n"};
  }
  if (!(*command)->here) {
    throw EnvironmentError(
        fmt::format("tamlo {} needs links to a bench, which this build does not have", word));
  }
  // Only the asked command's options are described: all would take as long as the rest of the
  // start.
  CLI::App app;
  app.set_help_flag("-h,--help");
  auto options = std::make_shared<AskedOptions>(app, **command);
  auto run = (*command)->describe(*options);
  try {
    auto rest = words;
    rest.erase(rest.begin() + (wanted - words.begin()));
    std::ranges::reverse(rest);
    app.parse(rest);
  } catch (const CLI::CallForHelp&) {
    return {.exit = 0, .said = options->help().text()};
  } catch (const CLI::ParseError& error) {
    return {.exit = bad_input, .said = complaint(error, word, options->help().names())};
  }
  options->sort_words();
  options->check_outputs();
  return {.run = std::move(run), .exit = {}};
}

}  // namespace tamlo::tool
