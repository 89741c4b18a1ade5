// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/expression.hpp"

#include <muParser.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/error.hpp"
#include "tamlo/math/detail/thermocouple.hpp"

namespace tamlo::math {
namespace {

// A function of a parser gets numbers alone: the size of their units stands here while it runs.
thread_local Expression::Scales scales_now;

template <char type>
double junction(double pair, double terminals) {
  return hot_junction(type, pair / scales_now.volt, terminals / scales_now.kelvin) *
         scales_now.kelvin;
}

void add_functions(mu::Parser& parser) {
  const std::pair<const char*, double (*)(double, double)> functions[] = {
      {"junction_b", junction<'B'>}, {"junction_e", junction<'E'>}, {"junction_j", junction<'J'>},
      {"junction_k", junction<'K'>}, {"junction_n", junction<'N'>}, {"junction_r", junction<'R'>},
      {"junction_s", junction<'S'>}, {"junction_t", junction<'T'>}};
  for (const auto& [name, function] : functions) parser.DefineFun(name, function);
}

}  // namespace

struct Expression::Parser {
  mu::Parser parser{};
  std::vector<double> values{};
};

Expression::Expression(const std::string& text, const std::vector<std::string>& names)
    : parser_(std::make_unique<Parser>()) {
  constexpr std::size_t longest = 1000;
  require(!text.empty() && text.size() <= longest, "an expression of 1 to 1000 characters");
  auto& parser = parser_->parser;
  add_functions(parser);
  parser_->values.resize(names.size());
  try {
    for (std::size_t i = 0; i < names.size(); ++i) {
      // A name with other letters is none of an expression.
      if (names[i].find_first_not_of(parser.ValidNameChars()) == std::string::npos)
        parser.DefineVar(names[i], &parser_->values[i]);
    }
    parser.SetExpr(text);
    const auto known = parser.GetVar();
    for (const auto& [name, place] : parser.GetUsedVar()) {
      if (!known.contains(name)) throw ArgumentError("\"" + name + "\", which is no channel");
      const auto i = static_cast<std::size_t>(place - parser_->values.data());
      used_.push_back(i);
    }
    std::ranges::sort(used_);
    // Nothing but values comes in: "a = 3" would give a channel another one.
    for (std::size_t i = 0; i < text.size(); ++i) {
      const auto beside = std::string("=<>!").find(i > 0 ? text[i - 1] : ' ');
      const bool single = text[i] == '=' && beside == std::string::npos &&
                          (i + 1 == text.size() || text[i + 1] != '=');
      if (single) throw ArgumentError("an assignment at character " + std::to_string(i + 1));
    }
    parser.Eval();
  } catch (const mu::ParserError& error) {
    const auto token = error.GetToken();
    if (token.empty()) throw ArgumentError("a formula that ends too early");
    throw ArgumentError("\"" + token + "\" at character " + std::to_string(error.GetPos() + 1));
  }
}

Expression::~Expression() = default;
Expression::Expression(Expression&&) noexcept = default;
Expression& Expression::operator=(Expression&&) noexcept = default;

double Expression::operator()(std::span<const double> values, Scales scales) const {
  require(values.size() == parser_->values.size(), "one value for each name");
  std::ranges::copy(values, parser_->values.begin());
  scales_now = scales;
  try {
    return parser_->parser.Eval();
  } catch (const mu::ParserError&) {
    return std::nan("");
  }
}

}  // namespace tamlo::math
