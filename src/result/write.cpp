// SPDX-License-Identifier: Apache-2.0
// Each result with the description of its fields. All that is made of templates is made here.
#include <algorithm>
#include <array>
#include <cctype>
#include <set>

#include "fields_bench.hpp"
#include "fields_budget.hpp"
#include "fields_channel.hpp"
#include "fields_design.hpp"
#include "fields_firmware.hpp"
#include "fields_meter.hpp"
#include "fields_record.hpp"

namespace tamlo::result {
namespace {

struct Described {
  const char* command;
  Shape (*shape)(const char*, const Measure&, const char*);
};

template <class... Results>
constexpr std::array<Described, sizeof...(Results)> all_of(const std::variant<const Results*...>&) {
  return {{{Fields<Results>::command, shape_of<Results>}...}};
}
constexpr auto described = all_of(AnyResult());

}  // namespace

DocumentPtr document_of(const AnyResult& any) {
  return std::visit(
      []<class Result>(const Result* result) {
        return std::make_shared<const Document>(
            Document{.command = Fields<Result>::command,
                     .shape = shape_of<Result>("", plain, ""),
                     .value = value_of(*result, plain, std::make_shared<const Units>())});
      },
      any);
}

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
  for (const auto& [command, shape] : described) {
    if (names.empty() || names.back() != command) names.emplace_back(command);
  }
  return names;
}

std::string schema(std::string_view command) {
  for (const auto& each : described) {
    if (each.command == command) return schema(each.command, each.shape("", plain, ""));
  }
  return "";
}

}  // namespace tamlo::result
