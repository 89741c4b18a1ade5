// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <exception>
#include <string>
#include <string_view>

#include "command_line.hpp"
#include "console.hpp"
#include "job.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/report/plot.hpp"

namespace {

using namespace tamlo;

// Line by line, so that nothing in it steers a terminal. Where nobody can read it, the status says
// it.
int complain(int status, std::string_view what) {
  std::string text;
  for (std::size_t at = 0; at < what.size();) {
    const auto end = std::min(what.find('\n', at), what.size());
    text += tool::in_letters(quantity::printable(what.substr(at, end - at))) + "\n";
    at = end + 1;
  }
  std::fwrite(text.data(), 1, text.size(), stderr);
  return status;
}

}  // namespace

int main(int argc, char** argv) {
  const auto words = tool::begin_console(argc, argv);
  try {
    const auto line = tool::read_command_line(words);
    if (!line.exit) return line.run();
    if (*line.exit != tool::done) return complain(*line.exit, line.said);
    if (line.for_people) {
      tool::say(line.said);
    } else {
      tool::print(line.said);
    }
    return tool::done;
  } catch (const io::EnvironmentError& error) {
    return complain(tool::environment, error.what());
  } catch (const report::PlotError& error) {
    return complain(tool::environment, error.what());
  } catch (const Error& error) {  // what the user wrote, or data that cannot be judged so
    return complain(tool::bad_input, error.what());
  } catch (const std::exception& error) {
    return complain(tool::environment, error.what());
  }
}
