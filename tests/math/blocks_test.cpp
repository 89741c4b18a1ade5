// SPDX-License-Identifier: Apache-2.0
// Work in numbered blocks: each once, whatever the number of threads; what ends it; what is kept.
#include "tamlo/math/detail/blocks.hpp"

#include <gtest/gtest.h>

#include <atomic>
#include <filesystem>
#include <fstream>

#include "tamlo/error.hpp"
#include "tamlo/io/detail/log.hpp"
#include "tamlo/io/diagnostics.hpp"

namespace tamlo {
namespace {

// Squares of the numbers of blocks, and how often each was worked at and taken.
struct Squares {
  std::vector<double> taken = std::vector<double>(50, -1.0);
  std::atomic<int> worked = 0;
  int took = 0;
  math::Blocks blocks{.count = 50,
                      .work =
                          [this](std::uint64_t block) {
                            ++worked;
                            const auto x = static_cast<double>(block);
                            return std::vector{x * x / 3.0, -x};
                          },
                      .take =
                          [this](std::uint64_t block, const std::vector<double>& figures) {
                            taken.at(block) = figures.at(0);
                            ++took;
                          }};
  void expect_all() const {
    for (std::size_t i = 0; i < taken.size(); ++i) {
      const auto x = static_cast<double>(i);
      EXPECT_EQ(taken[i], x * x / 3.0);
    }
  }
};

TEST(Blocks, AreDoneOnceByAnyNumberOfThreads) {
  for (const unsigned threads : {0U, 1U, 2U, 7U}) {
    Squares squares;
    EXPECT_TRUE(math::by_threads(threads)(squares.blocks));
    EXPECT_EQ(squares.took, 50);
    EXPECT_EQ(squares.worked, 50);
    squares.expect_all();
  }
  Squares none;
  none.blocks.count = 0;
  EXPECT_TRUE(math::by_threads(2)(none.blocks));
}

TEST(Blocks, EndWhereTheyAreToldToAndThrowWhatWasThrown) {
  Squares squares;
  squares.blocks.go_on = [](double part) { return part < 0.2; };
  EXPECT_FALSE(math::by_threads(1)(squares.blocks));
  EXPECT_EQ(squares.took, 10);
  for (const unsigned threads : {1U, 3U}) {
    Squares thrown;
    thrown.blocks.work = [](std::uint64_t block) -> std::vector<double> {
      if (block == 20) throw DataError("block 20");
      return {0.0};
    };
    EXPECT_THROW(math::by_threads(threads)(thrown.blocks), DataError);
  }
}

TEST(Blocks, AreKeptInAFileAndNotDoneAgain) {
  const auto path = (std::filesystem::temp_directory_path() /
                     ("tamlo_kept_" + std::to_string(::getpid()) + ".csv"))
                        .string();
  std::filesystem::remove(path);
  {
    Squares ended;
    ended.blocks.go_on = [](double part) { return part < 0.5; };
    EXPECT_FALSE(io::kept_in(path, "work", math::by_threads(1))(ended.blocks));
  }
  // Killed within a row.
  std::filesystem::resize_file(path, std::filesystem::file_size(path) - 3);
  Squares rest;
  EXPECT_TRUE(io::kept_in(path, "work", math::by_threads(2))(rest.blocks));
  EXPECT_EQ(rest.worked, 50 - 24);
  EXPECT_EQ(rest.took, 50);
  rest.expect_all();
  Squares again;
  EXPECT_TRUE(io::kept_in(path, "work", math::by_threads(2))(again.blocks));
  EXPECT_EQ(again.worked, 0);
  again.expect_all();
  // Of another work, and damaged: nothing is taken from it, and it stays.
  const auto size = std::filesystem::file_size(path);
  EXPECT_THROW(io::kept_in(path, "other", math::by_threads(1))(again.blocks), io::EnvironmentError);
  EXPECT_EQ(std::filesystem::file_size(path), size);
  const auto checked = [](const std::string& row) { return row + "," + io::identity_of(row); };
  for (const auto& row : {checked("51,1,2"), checked("x"), checked("3,1,,2"), checked("3,1 2"),
                          checked("-1,3"), std::string("3,9"), std::string("3"),
                          std::string("3,nan"), "4" + checked("3,9").substr(1)}) {
    std::ofstream(path) << "block,figures,check of work\n" << row << "\n";
    EXPECT_THROW(io::kept_in(path, "work", math::by_threads(1))(again.blocks), io::BadInput) << row;
  }
  std::filesystem::remove(path);
  EXPECT_EQ(io::identity_of(""), "cbf29ce484222325");   // the offset basis of the hash
  EXPECT_EQ(io::identity_of("a"), "af63dc4c8601ec8c");  // a published test value
}

}  // namespace
}  // namespace tamlo
