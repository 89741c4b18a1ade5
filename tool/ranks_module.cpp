// SPDX-License-Identifier: Apache-2.0
#include "ranks_module.hpp"

#include <mpi.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <deque>
#include <stdexcept>
#include <string>
#include <thread>

// The first rank hands out numbers of blocks and works itself; the others send figures back. Nobody
// waits for anybody: what a slow or lost rank holds at the end is done again by the first.
namespace {

using Clock = std::chrono::steady_clock;

enum Tag : int { to_do = 1, figures_of = 2, problem_of = 3, leaving = 4 };
constexpr std::int64_t no_more = -1;
// Handed out ahead, so that a rank has the next while its figures wait for the first to look.
constexpr std::size_t ahead = 4;
constexpr auto poll_time = std::chrono::microseconds(200);

int own_rank = 0, rank_count = 1;
std::vector<bool> lost;

void hand_out(int rank, std::int64_t block) {
  MPI_Send(&block, 1, MPI_INT64_T, rank, to_do, MPI_COMM_WORLD);
}

// Any message that is there.
bool there_is(MPI_Status& status, int from = MPI_ANY_SOURCE) {
  int there = 0;
  MPI_Iprobe(from, MPI_ANY_TAG, MPI_COMM_WORLD, &there, &status);
  return there != 0;
}

void work_for_first(const tamlo::math::Blocks& blocks) {
  for (;;) {
    MPI_Status status;
    while (!there_is(status, 0)) std::this_thread::sleep_for(poll_time);
    std::int64_t block = no_more;
    MPI_Recv(&block, 1, MPI_INT64_T, 0, to_do, MPI_COMM_WORLD, MPI_STATUS_IGNORE);
    if (block == no_more) break;
    try {
      auto figures = blocks.work(static_cast<std::uint64_t>(block));
      figures.push_back(static_cast<double>(block));
      MPI_Send(figures.data(), static_cast<int>(figures.size()), MPI_DOUBLE, 0, figures_of,
               MPI_COMM_WORLD);
    } catch (const std::exception& problem) {
      MPI_Send(problem.what(), static_cast<int>(std::strlen(problem.what())), MPI_CHAR, 0,
               problem_of, MPI_COMM_WORLD);
    }
  }
  MPI_Send(nullptr, 0, MPI_INT64_T, 0, leaving, MPI_COMM_WORLD);
}

class First {
 public:
  explicit First(const tamlo::math::Blocks& blocks)
      : blocks_(blocks), done_(blocks.known), holds_(static_cast<std::size_t>(rank_count)) {
    done_.resize(static_cast<std::size_t>(blocks.count), false);
    open_ = static_cast<std::uint64_t>(std::ranges::count(done_, false));
  }

  bool run() {
    bool ended = false;
    for (int rank = 1; rank < rank_count; ++rank) feed(rank);
    while (open_ > 0 && !ended && problem_.empty()) {
      listen();
      if (const auto block = next(); block != no_more) {
        take(block, blocks_.work(static_cast<std::uint64_t>(block)));
      }
      const double part = 1.0 - static_cast<double>(open_) / static_cast<double>(blocks_.count);
      ended = blocks_.go_on && !blocks_.go_on(part);
    }
    dismiss();
    if (!problem_.empty()) throw std::runtime_error(problem_);
    return open_ == 0;
  }

 private:
  const tamlo::math::Blocks& blocks_;
  std::vector<bool> done_;
  std::uint64_t open_ = 0, next_ = 0;
  std::vector<std::deque<std::int64_t>> holds_;  // of each rank, what it has not answered
  std::string problem_{};

  std::int64_t unassigned() {
    while (next_ < blocks_.count && done_[static_cast<std::size_t>(next_)]) ++next_;
    return next_ < blocks_.count ? static_cast<std::int64_t>(next_++) : no_more;
  }
  // For the first itself: where all are handed out, one that somebody has held longest.
  std::int64_t next() {
    if (const auto block = unassigned(); block != no_more) return block;
    for (const auto& held : holds_) {
      for (const auto block : held) {
        if (!done_[static_cast<std::size_t>(block)]) return block;
      }
    }
    return no_more;
  }
  void feed(int rank) {
    auto& held = holds_[static_cast<std::size_t>(rank)];
    while (!lost[static_cast<std::size_t>(rank)] && held.size() < ahead) {
      const auto block = unassigned();
      if (block == no_more) return;
      hand_out(rank, block);
      held.push_back(block);
    }
  }
  void take(std::int64_t block, const std::vector<double>& figures) {
    if (done_[static_cast<std::size_t>(block)]) return;
    done_[static_cast<std::size_t>(block)] = true;
    --open_;
    blocks_.take(static_cast<std::uint64_t>(block), figures);
  }
  // What has come; the rank of a farewell, else 0.
  int receive(const MPI_Status& status) {
    int count = 0;
    if (status.MPI_TAG == figures_of) {
      MPI_Get_count(&status, MPI_DOUBLE, &count);
      std::vector<double> figures(static_cast<std::size_t>(count));
      MPI_Recv(figures.data(), count, MPI_DOUBLE, status.MPI_SOURCE, figures_of, MPI_COMM_WORLD,
               MPI_STATUS_IGNORE);
      const auto block = static_cast<std::int64_t>(figures.back());
      figures.pop_back();
      std::erase(holds_[static_cast<std::size_t>(status.MPI_SOURCE)], block);
      take(block, figures);
      return 0;
    }
    MPI_Get_count(&status, MPI_CHAR, &count);
    std::string text(static_cast<std::size_t>(count), ' ');
    MPI_Recv(text.data(), count, MPI_CHAR, status.MPI_SOURCE, status.MPI_TAG, MPI_COMM_WORLD,
             MPI_STATUS_IGNORE);
    if (status.MPI_TAG == leaving) return status.MPI_SOURCE;
    problem_ = text;
    return 0;
  }
  void listen() {
    for (MPI_Status status; there_is(status);) {
      receive(status);
      feed(status.MPI_SOURCE);
    }
  }
  // All ranks are told to leave. One that does not answer, while it has no more than the blocks
  // that it holds to do, is lost.
  void dismiss() {
    std::vector<bool> left(static_cast<std::size_t>(rank_count), false);
    left[0] = true;
    for (int rank = 1; rank < rank_count; ++rank) {
      if (lost[static_cast<std::size_t>(rank)]) {
        left[static_cast<std::size_t>(rank)] = true;
      } else {
        hand_out(rank, no_more);
      }
    }
    constexpr auto patience = std::chrono::seconds(5);
    auto until = Clock::now() + patience;
    while (std::ranges::count(left, false) > 0 && Clock::now() < until) {
      MPI_Status status;
      if (!there_is(status)) {
        std::this_thread::sleep_for(poll_time);
        continue;
      }
      until = Clock::now() + patience;
      if (const int rank = receive(status); rank > 0) left[static_cast<std::size_t>(rank)] = true;
    }
    for (std::size_t rank = 1; rank < left.size(); ++rank) lost[rank] = lost[rank] || !left[rank];
  }
};

}  // namespace

void tamlo_ranks_begin(int* rank, int* count) {
  MPI_Init(nullptr, nullptr);
  // A rank that is gone is found by its silence, and no reason to end.
  MPI_Comm_set_errhandler(MPI_COMM_WORLD, MPI_ERRORS_RETURN);
  MPI_Comm_rank(MPI_COMM_WORLD, &own_rank);
  MPI_Comm_size(MPI_COMM_WORLD, &rank_count);
  lost.assign(static_cast<std::size_t>(rank_count), false);
  *rank = own_rank;
  *count = rank_count;
}

bool tamlo_ranks_run(const tamlo::math::Blocks& blocks) {
  if (own_rank == 0) return First(blocks).run();
  work_for_first(blocks);
  return true;
}

std::size_t tamlo_ranks_lost(char* sentence, std::size_t size) {
  std::string which;
  for (std::size_t rank = 1; rank < lost.size(); ++rank) {
    if (lost[rank]) which += (which.empty() ? "" : ", ") + std::to_string(rank);
  }
  std::snprintf(sentence, size, "rank %s did not answer: what it held was done by others",
                which.c_str());
  return static_cast<std::size_t>(std::ranges::count(lost, true));
}

void tamlo_ranks_end(int status) {
  // To say goodbye to all would wait for the lost ones: then everybody just leaves.
  std::int64_t silently = std::ranges::count(lost, true) > 0 ? 1 : 0;
  if (own_rank == 0) {
    for (int rank = 1; rank < rank_count; ++rank) {
      if (!lost[static_cast<std::size_t>(rank)]) hand_out(rank, silently);
    }
  } else {
    MPI_Recv(&silently, 1, MPI_INT64_T, 0, to_do, MPI_COMM_WORLD, MPI_STATUS_IGNORE);
  }
  if (silently == 0) {
    MPI_Finalize();
    return;
  }
  std::fflush(nullptr);
  std::_Exit(status);
}
