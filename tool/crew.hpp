// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <memory>
#include <string>

#include "command.hpp"
#include "tamlo/math/detail/blocks.hpp"

namespace tamlo::tool {

struct CrewArguments {
  std::string threads, resume;
};
void declare_crew(Options& options, CrewArguments& arguments);

/// Tells on a terminal how far a long work is, twice a second, and is taken off it at the end.
class ProgressLine {
 public:
  ProgressLine();
  ~ProgressLine() { wipe(); }
  ProgressLine(const ProgressLine&) = delete;
  ProgressLine& operator=(const ProgressLine&) = delete;

  void tell(double part);
  void wipe();

 private:
  double begin_, next_;
  bool shown_ = false;
};

/// Does the blocks of a long work: threads of this process, or under mpirun all its processes.
/// Told on a terminal how far it is, twice a second; a signal ends it.
class Crew {
 public:
  /// `identity` is all that the figures depend on, for --resume.
  Crew(const CrewArguments& arguments, const std::string& identity);
  ~Crew();
  Crew(const Crew&) = delete;
  Crew& operator=(const Crew&) = delete;

  /// The process that has the result. The others have done their part when a work returns, and say
  /// nothing.
  bool first() const { return rank_ == 0; }
  /// Returns the driver for one work of the command; the second and later ones are kept in files
  /// FILE.1, FILE.2 ...
  math::BlockDriver driver(std::size_t work = 0) const;
  bool go_on(double part);
  /// Takes the progress off the terminal, before the result is told.
  void wipe() { progress_.wipe(); }
  /// Returns the exit status, after a word about processes that were lost, and ends the processes'
  /// connection. Call it when the result is complete; `status` is that of the result.
  int leave(int status);

 private:
  struct Ranks;
  std::unique_ptr<Ranks> ranks_{};
  int rank_ = 0;
  math::BlockDriver driver_{};
  std::string resume_{}, identity_{};
  ProgressLine progress_{};
};

}  // namespace tamlo::tool
