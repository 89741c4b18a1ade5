// SPDX-License-Identifier: Apache-2.0
// Each result with the description of its fields. All that is made of templates is made here.
#include <array>

#include "fields_budget.hpp"
#include "fields_calibrate.hpp"
#include "fields_channel.hpp"
#include "fields_convert.hpp"
#include "fields_covered.hpp"
#include "fields_explore.hpp"
#include "fields_firmware.hpp"
#include "fields_measure.hpp"
#include "fields_meter.hpp"
#include "fields_record.hpp"
#include "fields_tune.hpp"
#include "fields_watch.hpp"

namespace tamlo::result {
namespace {

template <class T>
std::string written(const char* command, const T& result, Format format) {
  const Document document{.command = command,
                          .shape = shape_of<T>("", plain, ""),
                          .value = value_of(result, plain, std::make_shared<const Units>())};
  if (format == Format::json) return json(document);
  if (format == Format::workbook) return workbook(tables_of(document));
  return tables(document, format == Format::markdown);
}

struct Command {
  const char* name;
  Shape (*shape)(const char*, const Measure&, const char*);
};
constexpr std::array<Command, 14> described{{{"check", shape_of<check::Examined>},
                                             {"channel", shape_of<ChannelsSettings>},
                                             {"convert", shape_of<Traces>},
                                             {"budget", shape_of<Budgets>},
                                             {"compare", shape_of<Comparisons>},
                                             {"calibrate", shape_of<Calibrations>},
                                             {"record", shape_of<Records>},
                                             {"firmware", shape_of<Firmwares>},
                                             {"registers", shape_of<Registers>},
                                             {"watch", shape_of<Watched>},
                                             {"measure", shape_of<meter::BenchPlan>},
                                             {"explore", shape_of<explore::Explored>},
                                             {"prove", shape_of<Covered>},
                                             {"tune", shape_of<Tuned>}}};

}  // namespace

std::string write(const check::Examined& result, Format format) {
  return written("check", result, format);
}
std::string write(const ChannelsSettings& result, Format format) {
  return written("channel", result, format);
}
std::string write(const Traces& result, Format format) {
  return written("convert", result, format);
}
std::string write(const Budgets& result, Format format) {
  return written("budget", result, format);
}
std::string write(const Comparisons& result, Format format) {
  return written("compare", result, format);
}
std::string write(const Calibrations& result, Format format) {
  return written("calibrate", result, format);
}
std::string write(const Firmwares& result, Format format) {
  return written("firmware", result, format);
}
std::string write(const Registers& result, Format format) {
  return written("registers", result, format);
}
std::string write(const Watched& result, Format format) { return written("watch", result, format); }
std::string write(const Loosened& result, Format format) {
  return written("explore", result, format);
}
std::string write(const explore::Explored& result, Format format) {
  return written("explore", result, format);
}
std::string write(const Covered& result, Format format) { return written("prove", result, format); }
std::string write(const meter::BenchPlan& result, Format format) {
  return written("measure", result, format);
}
std::string write(const Records& result, Format format) {
  return written("record", result, format);
}

std::string write(const Tuned& result, Format format) { return written("tune", result, format); }

std::vector<std::string> commands() {
  std::vector<std::string> names;
  for (const auto& command : described) names.emplace_back(command.name);
  return names;
}

std::string schema(std::string_view command) {
  for (const auto& each : described) {
    if (each.name == command) return schema(each.name, each.shape("", plain, ""));
  }
  return "";
}

}  // namespace tamlo::result
