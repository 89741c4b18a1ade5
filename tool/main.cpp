// SPDX-License-Identifier: Apache-2.0
#include <fmt/format.h>

#include <cstdio>
#include <exception>
#include <map>
#include <string>

#include "command_line.hpp"
#include "job.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/report/plot.hpp"

namespace {

using namespace tamlo;

int run(const tool::Arguments& arguments) {
  static const std::map<std::string, int (*)(const tool::Arguments&)> commands{
      {"check", tool::run_check},     {"channel", tool::run_channel},
      {"convert", tool::run_convert}, {"budget", tool::run_budget},
      {"compare", tool::run_compare}, {"calibrate", tool::run_calibrate},
      {"record", tool::run_record},   {"simulate", tool::run_simulate},
      {"demo", tool::run_demo}};
  tool::check_outputs(arguments);
  return commands.at(arguments.command)(arguments);
}

int complain(int status, const char* what) {
  fmt::print(stderr, "{}\n", what);
  return status;
}

}  // namespace

int main(int argc, char** argv) {
  try {
    const auto line = tool::read_command_line(argc, argv);
    return line.exit ? *line.exit : run(line.arguments);
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
