// SPDX-License-Identifier: Apache-2.0
#include "crew.hpp"

#include <fmt/format.h>

#include <array>
#include <chrono>
#include <cstdlib>

#include "console.hpp"
#include "installed.hpp"
#include "job.hpp"
#include "ranks_module.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/version.hpp"

namespace tamlo::tool {
namespace {

double seconds_now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

// mpirun says so in the environment.
bool under_mpirun() { return std::getenv("OMPI_COMM_WORLD_SIZE") != nullptr; }

}  // namespace

void declare_crew(Options& options, CrewArguments& a) {
  options.group("A long work");
  options.option("--threads", a.threads,
                 {"NUMBER", "number of them; results do not change", "2; under mpirun 1 each"});
  options.output("--resume", a.resume, {"FILE", "save progress to FILE and resume from it"});
}

struct Crew::Ranks {
  tamlo::detail::SharedLibrary file = open_module("tamlo_ranks.so", "libopenmpi3");
  TAMLO_LOADED(begin, tamlo_ranks_begin);
  TAMLO_LOADED(run, tamlo_ranks_run);
  TAMLO_LOADED(lost, tamlo_ranks_lost);
  TAMLO_LOADED(end, tamlo_ranks_end);
};

Crew::Crew(const CrewArguments& arguments, const std::string& identity) {
  if (under_mpirun()) {
    if (!arguments.threads.empty())
      refuse("--threads", "threads beside mpirun", "more processes: mpirun -n");
    ranks_ = std::make_unique<Ranks>();
    int count = 1;
    ranks_->begin(&rank_, &count);
    if (!first()) fall_silent();  // what it would say is said by the first
    driver_ = [run = ranks_->run](const math::Blocks& blocks) { return run(blocks); };
  } else {
    driver_ = math::by_threads(
        arguments.threads.empty()
            ? 2U
            : static_cast<unsigned>(whole_of("--threads", arguments.threads, 1, 256)));
  }
  catch_interrupts();
  if (first()) resume_ = arguments.resume;
  identity_ = version + identity;
}

math::BlockDriver Crew::driver(std::size_t work) const {
  if (resume_.empty()) return driver_;
  return io::kept_in(work == 0 ? resume_ : fmt::format("{}.{}", resume_, work),
                     io::identity_of(fmt::format("{} work {}", identity_, work)), driver_);
}

Crew::~Crew() = default;

ProgressLine::ProgressLine() : begin_(seconds_now()), next_(begin_ + 0.5) {}

void ProgressLine::wipe() {
  if (shown_) fmt::print(stderr, "\r\x1b[K");
  shown_ = false;
}

void ProgressLine::tell(double part) {
  const double now = seconds_now();
  if (!is_terminal(stderr) || now < next_) return;
  next_ = now + 0.5;
  const double gone = now - begin_;
  fmt::print(stderr, "\r\x1b[K{:.0f} %, {:.2g} % a second, about {:.0f} s left", 100.0 * part,
             100.0 * part / gone, part > 0.0 ? gone * (1.0 - part) / part : 0.0);
  shown_ = true;
}

bool Crew::go_on(double part) {
  if (first()) progress_.tell(part);
  return !interrupted();
}

int Crew::leave(int status) {
  wipe();
  if (!ranks_) return status;
  std::array<char, 4096> sentence{};
  if (ranks_->lost(sentence.data(), sentence.size()) > 0)
    fmt::print(stderr, "{}\n", sentence.data());
  ranks_->end(status);
  return status;
}

}  // namespace tamlo::tool
