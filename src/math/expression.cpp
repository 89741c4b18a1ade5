// SPDX-License-Identifier: Apache-2.0
#include "tamlo/math/detail/expression.hpp"

#include <muParserDLL.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "tamlo/detail/shared_library.hpp"
#include "tamlo/error.hpp"

namespace tamlo::math {
namespace {

// What is used of the library, which only boards with formulas load.
struct Library {
  tamlo::detail::SharedLibrary file{"libmuparser.so.2", "reads formulas", "libmuparser2v5"};
  TAMLO_LOADED(create, mupCreate);
  TAMLO_LOADED(release, mupRelease);
  TAMLO_LOADED(define_variable, mupDefineVar);
  TAMLO_LOADED(define_function, mupDefineFun2);
  TAMLO_LOADED(set_text, mupSetExpr);
  TAMLO_LOADED(count_used, mupGetExprVarNum);
  TAMLO_LOADED(used, mupGetExprVar);
  TAMLO_LOADED(evaluate, mupEval);
  TAMLO_LOADED(failed, mupError);  // since it was asked last
  TAMLO_LOADED(wrong_token, mupGetErrorToken);
  TAMLO_LOADED(wrong_place, mupGetErrorPos);
};

const Library& library() {
  static const Library loaded{};
  return loaded;
}

// A function of a parser gets numbers alone: the size of their units stands here while it runs.
thread_local Expression::Scales scales_now;

template <char type>
double junction(double pair, double terminals) {
  return hot_junction(type, pair / scales_now.volt, terminals / scales_now.kelvin) *
         scales_now.kelvin;
}

void add_functions(muParserHandle_t parser) {
  const std::pair<const char*, double (*)(double, double)> functions[] = {
      {"junction_b", junction<'B'>}, {"junction_e", junction<'E'>}, {"junction_j", junction<'J'>},
      {"junction_k", junction<'K'>}, {"junction_n", junction<'N'>}, {"junction_r", junction<'R'>},
      {"junction_s", junction<'S'>}, {"junction_t", junction<'T'>}};
  constexpr muBool_t of_its_arguments_alone = 0;  // it depends on the scales, too
  for (const auto& [name, function] : functions)
    library().define_function(parser, name, function, of_its_arguments_alone);
}

// Nothing but values comes in: "a = 3" would give a channel another one.
void refuse_assignments(const std::string& text) {
  for (auto at = text.find('='); at != std::string::npos; at = text.find('=', at + 1)) {
    const bool compares = (at > 0 && std::string("=<>!").find(text[at - 1]) != std::string::npos) ||
                          (at + 1 < text.size() && text[at + 1] == '=');
    if (!compares) throw ArgumentError("an assignment at character " + std::to_string(at + 1));
  }
}

}  // namespace

struct Expression::Parser {
  muParserHandle_t handle = library().create(muBASETYPE_FLOAT);
  std::vector<double> values{};

  Parser() = default;
  Parser(const Parser&) = delete;
  Parser& operator=(const Parser&) = delete;
  ~Parser() { library().release(handle); }

  void refuse_errors() const {
    if (library().failed(handle) == 0) return;
    const std::string token = library().wrong_token(handle);
    if (token.empty()) throw ArgumentError("a formula that ends too early");
    throw ArgumentError("\"" + token + "\" at character " +
                        std::to_string(library().wrong_place(handle) + 1));
  }
};

Expression::Expression(const std::string& text, const std::vector<std::string>& names)
    : parser_(std::make_unique<Parser>()) {
  constexpr std::size_t longest = 1000;
  require(!text.empty() && text.size() <= longest, "an expression of 1 to 1000 characters");
  auto* const handle = parser_->handle;
  add_functions(handle);
  parser_->values.resize(names.size());
  for (std::size_t i = 0; i < names.size(); ++i) {
    library().define_variable(handle, names[i].c_str(), &parser_->values[i]);
    library().failed(handle);  // a name with other letters is none of an expression
  }
  library().set_text(handle, text.c_str());
  parser_->refuse_errors();
  const auto count = library().count_used(handle);
  parser_->refuse_errors();
  for (int i = 0; i < count; ++i) {
    const char* name = nullptr;
    double* place = nullptr;
    library().used(handle, static_cast<unsigned>(i), &name, &place);
    if (place == nullptr) throw ArgumentError("\"" + std::string(name) + "\", which is no channel");
    used_.push_back(static_cast<std::size_t>(place - parser_->values.data()));
  }
  std::ranges::sort(used_);
  refuse_assignments(text);
  library().evaluate(handle);
  parser_->refuse_errors();
}

Expression::~Expression() = default;
Expression::Expression(Expression&&) noexcept = default;
Expression& Expression::operator=(Expression&&) noexcept = default;

double Expression::operator()(std::span<const double> values, Scales scales) const {
  require(values.size() == parser_->values.size(), "one value for each name");
  std::ranges::copy(values, parser_->values.begin());
  scales_now = scales;
  const double result = library().evaluate(parser_->handle);
  return library().failed(parser_->handle) == 0 ? result : std::nan("");
}

}  // namespace tamlo::math
