// SPDX-License-Identifier: Apache-2.0
// Each result with the description of its fields. All that is made of templates is made here.
#include <algorithm>
#include <array>
#include <cctype>
#include <set>

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
DocumentPtr document_as(const char* command, const T& result) {
  return std::make_shared<const Document>(
      Document{.command = command,
               .shape = shape_of<T>("", plain, ""),
               .value = value_of(result, plain, std::make_shared<const Units>())});
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

DocumentPtr document_of(const check::Examined& result) { return document_as("check", result); }
DocumentPtr document_of(const ChannelsSettings& result) { return document_as("channel", result); }
DocumentPtr document_of(const Traces& result) { return document_as("convert", result); }
DocumentPtr document_of(const Budgets& result) { return document_as("budget", result); }
DocumentPtr document_of(const Comparisons& result) { return document_as("compare", result); }
DocumentPtr document_of(const Calibrations& result) { return document_as("calibrate", result); }
DocumentPtr document_of(const Firmwares& result) { return document_as("firmware", result); }
DocumentPtr document_of(const Registers& result) { return document_as("registers", result); }
DocumentPtr document_of(const Watched& result) { return document_as("watch", result); }
DocumentPtr document_of(const Loosened& result) { return document_as("explore", result); }
DocumentPtr document_of(const explore::Explored& result) { return document_as("explore", result); }
DocumentPtr document_of(const Covered& result) { return document_as("prove", result); }
DocumentPtr document_of(const meter::BenchPlan& result) { return document_as("measure", result); }
DocumentPtr document_of(const Records& result) { return document_as("record", result); }
DocumentPtr document_of(const Tuned& result) { return document_as("tune", result); }

std::string write(const DocumentPtr& result, Format format) {
  if (format == Format::json) return json(*result);
  if (format == Format::workbook) return workbook(tables_of(*result));
  return tables(*result, format == Format::markdown);
}

std::vector<TableFile> table_files(const DocumentPtr& result) {
  std::vector<TableFile> files;
  std::set<std::string> names, written;
  for (auto& table : tables_of(*result)) {
    auto name = short_name(table.title, 100, names);
    std::ranges::replace_if(
        name, [](unsigned char c) { return std::isalnum(c) == 0; }, '_');
    while (!written.insert(name).second) name += '_';
    table.title.clear();
    files.push_back({name + ".csv", csv(table)});
  }
  return files;
}

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
