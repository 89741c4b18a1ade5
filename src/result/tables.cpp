// SPDX-License-Identifier: Apache-2.0
// A document as tables. An object is a row: its numbers and texts, and those of the objects in it
// under their path. A list of objects is a table of its own, with the first field of each object
// that it lies in before its columns; lists of numbers stand side by side, a row for each place.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>

#include "field.hpp"
#include "tamlo/quantity/detail/number.hpp"
#include "tamlo/quantity/format.hpp"
#include "tamlo/result/detail/table.hpp"

namespace tamlo::result {
namespace {

using Path = std::vector<std::size_t>;

struct Leaf {
  std::string name;
  Path path;
  const Shape* shape;
};

struct Leaves {
  std::vector<Leaf> cells, rows, lists;  // single values, lists of objects, lists of numbers
};

bool number_like(const Shape& shape) {
  return shape.form == Form::number || shape.form == Form::count;
}

void collect(const Shape& shape, const std::string& prefix, const Path& path, Leaves& into) {
  for (std::size_t i = 0; i < shape.parts.size(); ++i) {
    const auto& part = shape.parts[i];
    auto path_of_part = path;
    path_of_part.push_back(i);
    const auto name = prefix + part.name;
    if (part.form == Form::object) {
      collect(part, name + ".", path_of_part, into);
    } else if (part.form != Form::list || part.parts[0].form == Form::text) {
      into.cells.push_back({name, path_of_part, &part});
    } else {
      (part.parts[0].form == Form::object ? into.rows : into.lists)
          .push_back({name, path_of_part, &part});
    }
  }
}

// The value at a path, and the units of the object that holds it; none on the way is none.
std::pair<const Value*, const Units*> at(const Value& value, const Path& path) {
  static const Value nothing{};
  const Value* part = &value;
  const Units* units = nullptr;
  for (const auto i : path) {
    if (part->none()) return {&nothing, units};
    units = part->units.get();
    part = &part->parts()[i];
  }
  return {part, units};
}

Cell cell_of(const Value& value) {
  struct Visitor {
    Cell operator()(std::monostate) const { return {""}; }
    Cell operator()(bool truth) const { return {truth ? "true" : "false"}; }
    Cell operator()(std::int64_t of) const { return {std::to_string(of)}; }
    Cell operator()(double number) const {
      return {fmt::format("{:.6g}", number), quantity::format_number(number)};
    }
    Cell operator()(const std::string& text) const { return {text}; }
    Cell operator()(const std::vector<Value>& values) const {
      std::vector<std::string> all;
      for (const auto& part : values) all.push_back(cell_of(part).shown);
      return {fmt::format("{}", fmt::join(all, "; "))};
    }
  };
  return std::visit(Visitor{}, value.of);
}

struct Row {
  std::vector<Cell> keys;
  const Value* value;
};

class Tables {
 public:
  void add(const std::string& title, const Shape& shape, const std::vector<Row>& rows,
           const std::vector<Column>& keys) {
    Leaves leaves;
    collect(shape, "", {}, leaves);
    add_cells(title, leaves, rows, keys);
    if (rows.empty()) return;
    for (const auto& list : leaves.rows) {
      auto deeper = keys;
      if (rows.size() > 1) deeper.push_back(column(leaves.cells.front(), rows));
      std::vector<Row> inner;
      for (const auto& row : rows) {
        const auto [parts, units] = at(*row.value, list.path);
        if (parts->none()) continue;
        auto key = row.keys;
        if (rows.size() > 1) key.push_back(cell_of(*at(*row.value, leaves.cells[0].path).first));
        for (const auto& part : parts->parts()) inner.push_back({key, &part});
      }
      if (inner.empty()) continue;
      add(title + ": " + list.name, list.shape->parts[0], inner, deeper);
    }
    add_lists(title, leaves, rows);
  }

  void add_cells(const std::string& title, const Leaves& leaves, const std::vector<Row>& rows,
                 const std::vector<Column>& keys) {
    if (leaves.cells.empty()) return;
    Table table{.title = title, .columns = keys};
    for (const auto& leaf : leaves.cells) table.columns.push_back(column(leaf, rows));
    for (const auto& row : rows) {
      auto cells = row.keys;
      for (const auto& leaf : leaves.cells) {
        cells.push_back(cell_of(*at(*row.value, leaf.path).first));
      }
      table.rows.push_back(std::move(cells));
    }
    all.push_back(std::move(table));
  }

  std::vector<Table> all{};

 private:
  static Column column(const Leaf& leaf, const std::vector<Row>& rows) {
    std::string unit = leaf.shape->measure.unit;
    for (const auto& row : rows) {
      const auto* units = at(*row.value, leaf.path).second;
      if (units == nullptr) continue;
      unit = units->symbol(leaf.shape->measure);
      break;
    }
    const bool numbers =
        number_like(*leaf.shape) || (leaf.shape->form == Form::list && !leaf.shape->parts.empty() &&
                                     number_like(leaf.shape->parts[0]));
    const bool measured = numbers && !unit.empty();
    return {.heading = measured ? fmt::format("{} [{}]", leaf.name, unit) : leaf.name,
            .right = number_like(*leaf.shape)};
  }

  void add_lists(const std::string& title, const Leaves& leaves, const std::vector<Row>& rows) {
    for (const auto& row : rows) {
      Table table{.title = title + ": by place", .columns = {{"place"}}};
      for (const auto& leaf : leaves.lists) {
        const auto* list = at(*row.value, leaf.path).first;
        if (list->none() || list->parts().empty()) continue;
        add_list(leaf, *list, column(leaf, rows), table);
      }
      if (table.columns.size() > 1) all.push_back(std::move(table));
    }
  }

  // A list of lists has a column for each place of the inner ones.
  static void add_list(const Leaf& leaf, const Value& list, const Column& heading, Table& table) {
    const bool nested = leaf.shape->parts[0].form == Form::list;
    const auto count = nested ? list.parts()[0].parts().size() : 1;
    for (std::size_t c = 0; c < count; ++c) {
      auto column = heading;
      if (nested) column.heading = fmt::format("{}[{}]", leaf.name, c);
      table.columns.push_back(std::move(column));
      const auto& parts = list.parts();
      for (std::size_t i = table.rows.size(); i < parts.size(); ++i) {
        table.rows.push_back({std::to_string(i)});
      }
      for (std::size_t i = 0; i < table.rows.size(); ++i) {
        table.rows[i].resize(table.columns.size(), Cell(""));
        if (i < parts.size()) {
          table.rows[i].back() = cell_of(nested ? parts[i].parts()[c] : parts[i]);
        }
      }
    }
  }
};

// One row of many columns, for people: what each is, and its value.
Table upright(const Table& table) {
  Table result{.title = table.title, .columns = {{"figure", false}, {"value"}}};
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    if (table.rows[0][i].shown.empty()) continue;
    result.rows.push_back({table.columns[i].heading, table.rows[0][i]});
  }
  return result;
}

std::string plain_letters(std::string_view text) {
  std::string result;
  for (const char c : text) {
    const bool forbidden = std::string_view("[]:*?/\\'.").find(c) != std::string_view::npos;
    if (c >= 0x20 && c < 0x7f) result += forbidden ? ' ' : c;
  }
  return result;
}

}  // namespace

std::string short_name(std::string_view title, std::size_t most, std::set<std::string>& taken) {
  const auto first = title.find(": "), last = title.rfind(": ");
  auto head = plain_letters(title.substr(0, first));
  auto tail =
      first == std::string_view::npos ? std::string() : plain_letters(title.substr(last + 2));
  if (tail.starts_with("worst_place ")) tail.erase(5, 6);
  tail.resize(std::min(tail.size(), most - 6));
  head.resize(std::min(head.size(), tail.empty() ? most : most - 1 - tail.size()));
  const auto name = tail.empty() ? head : head + " " + tail;
  const auto lowered = [](std::string text) {
    std::ranges::transform(text, text.begin(), [](unsigned char c) { return std::tolower(c); });
    return text;
  };
  auto unique = name.empty() ? std::string("table") : name;
  for (int n = 2; !taken.insert(lowered(unique)).second; ++n)
    unique = fmt::format("{} {}", name, n);
  return unique;
}

std::vector<Table> tables_of(const Document& document) {
  Tables tables;
  const auto& shape = document.shape;
  Leaves leaves;
  collect(shape, "", {}, leaves);
  std::erase_if(leaves.cells, [](const Leaf& leaf) { return leaf.shape->form == Form::list; });
  tables.add_cells("result", leaves, {{{}, &document.value}}, {});
  for (std::size_t i = 0; i < shape.parts.size(); ++i) {
    // Each channel has tables of its own, in its own unit.
    const auto& list = shape.parts[i];
    if (list.form != Form::list) continue;
    const auto& parts = document.value.parts()[i].parts();
    if (list.parts[0].form != Form::object) {
      Table names{.title = list.name, .columns = {{list.name, false}}};
      for (const auto& part : parts) names.rows.push_back({cell_of(part)});
      tables.all.push_back(std::move(names));
      continue;
    }
    if (list.parts[0].parts[0].name != "channel") {
      std::vector<Row> rows;
      for (const auto& part : parts) rows.push_back({{}, &part});
      tables.add(list.name, list.parts[0], rows, {});
      continue;
    }
    for (const auto& part : parts) {
      auto title = cell_of(part.parts()[0]).shown;
      if (list.name != "channels") title += ": " + list.name;
      tables.add(title, list.parts[0], {{{}, &part}}, {});
    }
  }
  return std::move(tables.all);
}

std::string tables(const Document& document, bool as_markdown) {
  std::vector<std::string> blocks;
  for (const auto& table : tables_of(document)) {
    blocks.push_back(as_markdown ? markdown(table.rows.size() == 1 ? upright(table) : table)
                                 : csv(table));
  }
  return fmt::format("{}", fmt::join(blocks, "\n"));
}

}  // namespace tamlo::result
