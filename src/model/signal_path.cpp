// SPDX-License-Identifier: Apache-2.0
#include "tamlo/model/detail/signal_path.hpp"

#include <algorithm>
#include <cmath>

#include "findings.hpp"
#include "tamlo/model/board.hpp"
#include "tamlo/names.hpp"

namespace tamlo::model {
namespace {

// Each checks a part.
class PathValidator {
 public:
  PathValidator(std::string path, Findings& findings) : path_(std::move(path)), f_(findings) {}

  Carries carries() const { return carries_; }

  void sensor(const Sensor& sensor) {
    at_ = path_ + ".sensor";
    std::visit([&](const auto& of) { of.check(f_, at_); }, sensor);
    carries_ = given_by(sensor);
  }
  void part(const Stage& part, std::size_t number) {
    at_ = path_ + ".frontend[" + std::to_string(number) + "]";
    std::visit([&](const auto& of) { of.check(f_, at_); }, part);
    if (carries_ != taken_by(part)) {
      f_.add("not-a-signal", at_, std::string(name(carries_)) + " at the input of this part",
             "a part that takes " + std::string(name(carries_)));
    }
    carries_ = Carries::volts;
  }

 private:
  std::string path_, at_;
  Findings& f_;
  Carries carries_ = Carries::volts;
};

}  // namespace

std::string_view name(Carries carries) {
  return name_in({"volts", "a resistance", "a current"}, carries);
}

Carries given_by(const Sensor& sensor) {
  return std::visit(
      [](const auto& of) {
        if constexpr (requires { of.given(); }) {
          return of.given();
        } else {
          return of.gives;
        }
      },
      sensor);
}

Carries taken_by(const Stage& part) {
  return std::visit([](const auto& of) { return of.takes; }, part);
}

void validate_signal_path(const Channel& channel, Findings& findings) {
  PathValidator path("channel." + channel.name, findings);
  if (channel.sensor) path.sensor(*channel.sensor);
  for (std::size_t i = 0; i < channel.frontend.size(); ++i) path.part(channel.frontend[i], i);
  if (path.carries() != Carries::volts) {
    findings.add("not-a-signal", "channel." + channel.name + ".frontend",
                 std::string(name(path.carries())) + " at the converter's pin",
                 "a part that makes volts of it: a divider, an excitation, a shunt");
  }
}

}  // namespace tamlo::model
