// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "command.hpp"

namespace tamlo::tool {

extern const char* const exit_statuses;

/// Words in lines of at most 80 characters, all behind the indent; the first line is begun.
std::string wrapped(const std::string& text, std::size_t indent);

/// The help of one command: what it is asked, its options by groups, and two examples.
class Help {
 public:
  explicit Help(const Command& command) : command_(command) {}

  struct Entry {
    std::string name;
    OptionText text;
    std::vector<std::string> choices;
  };
  struct Group {
    std::string title;
    std::vector<Entry> entries;
  };

  std::string usage{};  ///< behind the command, before the options
  void group(std::string title) { groups_.push_back({std::move(title), {}}); }
  void add(std::string name, OptionText text, const std::vector<std::string>& choices = {});
  std::string text() const;
  const Command& command() const { return command_; }
  const std::vector<Group>& groups() const { return groups_; }
  /// Returns the names of all options.
  std::vector<std::string> names() const;

 private:
  const Command& command_;
  std::vector<Group> groups_;
};

// Manual pages and completion of shells, from the same description as --help.

/// A page of section 1 for one command, or for the tool where there is none.
std::string manual_page(const std::vector<Help>& all, const Help* command);

/// Returns a completion script for commands, options, their values and the channels of a board: for
/// "bash", "zsh" or "fish"; empty for another shell.
std::string completion(const std::vector<Help>& all, std::string_view shell);

}  // namespace tamlo::tool
