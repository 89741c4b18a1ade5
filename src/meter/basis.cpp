// SPDX-License-Identifier: Apache-2.0
#include "basis.hpp"

#include "chain/correction.hpp"
#include "tamlo/names.hpp"

namespace tamlo::meter {

std::string_view name(Model model) {
  return name_in({"offset", "gain", "two-point", "line", "weighted-line", "both-axes", "polynomial",
                  "piecewise"},
                 model);
}

std::size_t Basis::size() const {
  return model == Model::piecewise ? nodes.size() : needs(model, order);
}

std::vector<double> Basis::at(double reading) const {
  std::vector<double> result(size(), 0.0);
  const double z = (reading - centre) / half_width;
  switch (model) {
    case Model::gain:
      result[0] = z;  // from the zero of the unit: `centre` is there
      return result;
    case Model::piecewise:
      return chain::hats(nodes, reading);
    default:
      result[0] = 1.0;
      for (std::size_t j = 1; j < result.size(); ++j) result[j] = result[j - 1] * z;
      return result;
  }
}

Basis basis_of(Model model, int order, double low, double high, double zero) {
  Basis result{.model = model, .order = model == Model::polynomial ? order : 1};
  if (model == Model::gain) {
    result.centre = zero;
  } else if (high > low) {
    result.centre = (low + high) / 2.0;
    result.half_width = (high - low) / 2.0;
  } else {
    result.centre = low;
  }
  return result;
}

std::vector<std::vector<double>> columns_of(const Basis& basis,
                                            const std::vector<double>& readings) {
  std::vector<std::vector<double>> result(basis.size());
  for (auto& column : result) column.reserve(readings.size());
  for (const double reading : readings) {
    const auto row = basis.at(reading);
    for (std::size_t j = 0; j < row.size(); ++j) result[j].push_back(row[j]);
  }
  return result;
}

std::size_t needs(Model model, int order) {
  switch (model) {
    case Model::offset:
    case Model::gain:
      return 1;
    case Model::polynomial:
      return static_cast<std::size_t>(order) + 1;
    default:
      return 2;
  }
}

}  // namespace tamlo::meter
