// SPDX-License-Identifier: Apache-2.0
#include "help.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>

#include "job.hpp"
#include "roff.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

std::string replaced(std::string text, std::string_view from, std::string_view to) {
  for (auto at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size()))
    text.replace(at, from.size(), to);
  return text;
}

std::string meaning_of(const Help::Entry& entry) {
  auto text = entry.text.meaning;
  if (!entry.choices.empty()) text += fmt::format(": {}", fmt::join(entry.choices, ", "));
  if (!entry.text.otherwise.empty()) text += fmt::format(" (default: {})", entry.text.otherwise);
  return text;
}

std::string upper(std::string text) {
  std::ranges::transform(text, text.begin(), [](unsigned char c) { return std::toupper(c); });
  return text;
}

std::string head_of(const std::string& name, const std::string& question) {
  return fmt::format(".TH {} 1 \"\" \"tamlo {}\" \"Tamlo\"\n.SH NAME\n{} \\- {}\n", upper(name),
                     version, roff(name), roff(question));
}

std::string page_of(const Help& help) {
  const std::string name = help.command().name;
  auto page = head_of("tamlo-" + name, help.command().question);
  page += fmt::format(".SH SYNOPSIS\n.B tamlo {}\n{}{}[OPTIONS]\n", roff(name), roff(help.usage),
                      help.usage.empty() ? "" : " ");
  for (const auto& group : help.groups()) {
    page += fmt::format(".SH {}\n", roff(upper(group.title)));
    for (const auto& entry : group.entries) {
      page += fmt::format(".TP\n.B {}{}\n{}\n", roff(entry.name),
                          entry.text.value.empty() ? "" : " " + roff(entry.text.value),
                          roff(meaning_of(entry)));
    }
  }
  page += ".SH EXAMPLES\n.nf\n";
  for (const auto* example : help.command().examples)
    page += fmt::format("tamlo {}\n", roff(example));
  return page + ".fi\n.SH EXIT STATUS\n" + roff(exit_statuses) + ".SH SEE ALSO\n.BR tamlo (1)\n";
}

bool is_option(const Help::Entry& entry) { return entry.name.starts_with("--"); }
bool is_of_channels(const Help::Entry& entry) { return entry.name == "--channel"; }
bool is_of_keys(const Help::Entry& entry) {
  return entry.name == "--set" || entry.name == "--solve";
}

std::vector<std::string> command_names(const std::vector<Help>& all) {
  std::vector<std::string> names;
  for (const auto& help : all) names.emplace_back(help.command().name);
  return names;
}

// The channels of the first board on the line, by their headings.
constexpr auto channels_of_board = R"sh(sed -n 's/^\[channel\.\([^].]*\)\]$/\1/p')sh";

std::string for_bash(const std::vector<Help>& all) {
  std::string options, values;
  for (const auto& help : all) {
    std::vector<std::string> names;
    for (const auto& group : help.groups()) {
      for (const auto& entry : group.entries) {
        if (!is_option(entry)) continue;
        names.push_back(entry.name);
        if (entry.choices.empty()) continue;
        values += fmt::format("    '{} {}') words='{}' ;;\n", help.command().name, entry.name,
                              fmt::join(entry.choices, " "));
      }
    }
    options +=
        fmt::format("    {}) options='{} --help' ;;\n", help.command().name, fmt::join(names, " "));
  }
  return fmt::format(R"sh(# Completion of tamlo for bash: made by tamlo --completion bash
_tamlo() {{
  local word=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}}
  local command=${{COMP_WORDS[1]}} words='' options='' board
  COMPREPLY=()
  if (( COMP_CWORD == 1 )); then
    mapfile -t COMPREPLY < <(compgen -W '{} --help --version' -- "$word")
    return
  fi
  case "$command $before" in
{}    *' --channel')
      for board in "${{COMP_WORDS[@]}}"; do
        [[ "$board" == *.toml && -r "$board" ]] && words+=" $({} "$board")"
      done ;;
    *' --set'|*' --solve')
      for board in "${{COMP_WORDS[@]}}"; do
        [[ "$board" == *.toml && -r "$board" ]] && words+=" $(tamlo --keys "$board" 2> /dev/null)"
      done ;;
  esac
  case "$command" in
{}  esac
  if [[ -n "$words" ]]; then
    mapfile -t COMPREPLY < <(compgen -W "$words" -- "$word")
  elif [[ "$word" == -* ]]; then
    mapfile -t COMPREPLY < <(compgen -W "$options" -- "$word")
  fi
}}
complete -o default -o bashdefault -F _tamlo tamlo
)sh",
                     fmt::join(command_names(all), " "), values, channels_of_board, options);
}

std::string for_zsh(const std::vector<Help>& all) {
  std::string commands, cases;
  for (const auto& help : all) {
    commands += fmt::format(
        "    {}\n", in_quotes(fmt::format("{}:{}", help.command().name, help.command().question)));
    cases += fmt::format("      {})\n        _arguments \\\n", help.command().name);
    for (const auto& group : help.groups()) {
      for (const auto& entry : group.entries) {
        if (!is_option(entry)) continue;
        auto about = replaced(replaced(entry.text.meaning, "[", "("), "]", ")");
        auto spec = fmt::format("*{}[{}]", entry.name, replaced(about, ":", "\\:"));
        if (is_of_channels(entry)) {
          spec += ":channel:_tamlo_channels";
        } else if (is_of_keys(entry)) {
          spec += ":key:_tamlo_keys";
        } else if (!entry.choices.empty()) {
          spec += fmt::format(":value:({})", fmt::join(entry.choices, " "));
        } else if (!entry.text.value.empty()) {
          spec += ":value:_files";
        }
        cases += "          " + in_quotes(spec) + " \\\n";
      }
    }
    cases += "          '*:file:_files' ;;\n";
  }
  return fmt::format(R"sh(#compdef tamlo
# Completion of tamlo for zsh: made by tamlo --completion zsh
_tamlo_channels() {{
  local board
  for board in $words; do
    [[ $board == *.toml && -r $board ]] && compadd -- $({} $board)
  done
}}
_tamlo_keys() {{
  local board
  for board in $words; do
    [[ $board == *.toml && -r $board ]] && compadd -S '' -- $(tamlo --keys $board 2> /dev/null)
  done
}}
_tamlo() {{
  local -a commands=(
{}  )
  _arguments -C '1:command:->command' '*::argument:->argument'
  case $state in
    command) _describe command commands ;;
    argument) case $words[1] in
{}    esac ;;
  esac
}}
_tamlo "$@"
)sh",
                     channels_of_board, commands, cases);
}

std::string for_fish(const std::vector<Help>& all) {
  auto text = fmt::format(
      "# Completion of tamlo for fish: made by tamlo --completion fish\n"
      "function __tamlo_channels\n"
      "  for board in (commandline -opc | string match '*.toml')\n"
      "    test -r $board; and {} $board\n"
      "  end\n"
      "end\n"
      "function __tamlo_keys\n"
      "  for board in (commandline -opc | string match '*.toml')\n"
      "    test -r $board; and tamlo --keys $board 2> /dev/null\n"
      "  end\n"
      "end\n",
      channels_of_board);
  const auto none =
      fmt::format("not __fish_seen_subcommand_from {}", fmt::join(command_names(all), " "));
  for (const auto& help : all) {
    text += fmt::format("complete -c tamlo -n {} -f -a {} -d {}\n", in_quotes(none),
                        help.command().name, in_quotes(help.command().question));
  }
  for (const auto& help : all) {
    const auto seen = fmt::format("__fish_seen_subcommand_from {}", help.command().name);
    for (const auto& group : help.groups()) {
      for (const auto& entry : group.entries) {
        if (!is_option(entry)) continue;
        text += fmt::format("complete -c tamlo -n {} -l {}", in_quotes(seen), entry.name.substr(2));
        if (is_of_channels(entry)) {
          text += " -xa '(__tamlo_channels)'";
        } else if (is_of_keys(entry)) {
          text += " -xa '(__tamlo_keys)'";
        } else if (!entry.choices.empty()) {
          text +=
              fmt::format(" -xa {}", in_quotes(fmt::format("{}", fmt::join(entry.choices, " "))));
        } else if (!entry.text.value.empty()) {
          text += " -r";
        }
        text += fmt::format(" -d {}\n", in_quotes(entry.text.meaning));
      }
    }
  }
  return text;
}

}  // namespace

std::string manual_page(const std::vector<Help>& all, const Help* command) {
  if (command != nullptr) return page_of(*command);
  auto page = head_of("tamlo", "error budgets for ADC channels, and checks at the bench");
  page += ".SH SYNOPSIS\n.B tamlo\nCOMMAND BOARD [...]\n.SH COMMANDS\nIn the order of the work.\n";
  for (const auto& help : all) {
    page += fmt::format(".TP\n.BR tamlo\\-{} (1)\n{}\n", roff(help.command().name),
                        roff(help.command().question));
  }
  return page + ".SH EXIT STATUS\n" + roff(exit_statuses);
}

std::string completion(const std::vector<Help>& all, std::string_view shell) {
  if (shell == "bash") return for_bash(all);
  if (shell == "zsh") return for_zsh(all);
  return shell == "fish" ? for_fish(all) : "";
}

}  // namespace tamlo::tool
