// SPDX-License-Identifier: Apache-2.0
#include "tamlo/link/detail/listening.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <condition_variable>
#include <future>
#include <map>
#include <mutex>
#include <optional>
#include <thread>
#include <utility>

#include "feed.hpp"
#include "tamlo/chain/detail/register_format.hpp"
#include "tamlo/error.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::link {
namespace {

using std::chrono::milliseconds;

constexpr std::size_t most_waiting = 65536;

}  // namespace

struct Listening::Inside {
  Inside(const model::Board& described, Doubt about) : board(described), doubt(std::move(about)) {}

  struct Command {
    std::string text{};
    std::promise<void> taken{};
  };
  struct Reader {
    const model::Link* link = nullptr;
    std::unique_ptr<Feed> feed{};
    LinkState state{};
    std::optional<Command> command{};
    bool ended = false;
    std::jthread thread{};
  };

  const model::Board& board;
  Doubt doubt;
  Clock::time_point begin = Clock::now();
  mutable std::mutex mutex{};  // of all below, but for the feeds
  std::condition_variable came{}, taken{};
  std::vector<Sample> waiting{};
  bool stop = false;
  std::vector<std::unique_ptr<Reader>> readers{};

  void read(std::size_t index);
  void hand_over(Sample&& sample, Reader& reader, Got got);
  void run_command(Reader& reader);
  bool reopen(Reader& reader, milliseconds& pause);
  void lose(Reader& reader, const std::string& why);
};

// What is asked for between two samples.
void Listening::Inside::run_command(Reader& reader) {
  std::optional<Command> command;
  {
    const std::lock_guard lock(mutex);
    command = std::exchange(reader.command, {});
  }
  if (!command) return;
  try {
    if (!reader.feed) throw LinkError("it is lost");
    reader.feed->tell(command->text);
    command->taken.set_value();
  } catch (const CommandRefused&) {
    command->taken.set_exception(std::current_exception());
  } catch (const LinkError& error) {
    if (reader.feed) lose(reader, error.what());
    command->taken.set_exception(std::current_exception());
  } catch (...) {
    command->taken.set_exception(std::current_exception());
  }
}

void Listening::Inside::hand_over(Sample&& sample, Reader& reader, Got got) {
  std::string problem = got == Got::malformed ? reader.feed->problem() : "";
  for (const auto& value : sample.values) {
    if (problem.empty() && doubt) problem = doubt(value);
  }
  std::unique_lock lock(mutex);
  ++reader.state.lines;
  if (!problem.empty()) {
    ++reader.state.malformed;
    reader.state.problem = std::move(problem);
    return;
  }
  taken.wait(lock, [&] { return stop || waiting.size() < most_waiting; });
  waiting.push_back(std::move(sample));
  lock.unlock();
  came.notify_one();
}

void Listening::Inside::lose(Reader& reader, const std::string& why) {
  reader.feed.reset();
  const std::lock_guard lock(mutex);
  ++reader.state.lost;
  reader.state.problem = why;
}

bool Listening::Inside::reopen(Reader& reader, milliseconds& pause) {
  {
    std::unique_lock lock(mutex);
    taken.wait_for(lock, pause, [&] { return stop; });
    if (stop) return false;
  }
  pause = std::min(2 * pause, milliseconds(5000));
  try {
    reader.feed = open_feed(*reader.link, board);
  } catch (const LinkError&) {
    return true;
  }
  return true;
}

void Listening::Inside::read(std::size_t index) {
  auto& reader = *readers[index];
  auto pause = milliseconds(100);
  bool after_gap = false;
  for (;;) {
    {
      const std::lock_guard lock(mutex);
      if (stop) return;
    }
    run_command(reader);
    if (!reader.feed) {
      if (!reopen(reader, pause)) return;
      after_gap = true;
      continue;
    }
    try {
      Sample sample;
      const auto got = reader.feed->next(sample.values, Clock::now() + milliseconds(50));
      if (got != Got::nothing) {
        pause = milliseconds(100);
        sample.seconds = std::chrono::duration<double>(Clock::now() - begin).count();
        sample.after_gap = std::exchange(after_gap, false);
        hand_over(std::move(sample), reader, got);
      } else if (reader.feed->ended()) {
        // A file has an end; a port that ends was lost.
        if (!std::holds_alternative<model::StreamFile>(reader.link->at)) {
          throw LinkError("the other side closed it");
        }
        const std::lock_guard lock(mutex);
        reader.ended = true;
        came.notify_one();
        return;
      }
    } catch (const LinkError& error) {
      lose(reader, error.what());
    }
  }
}

Doubt doubt_codes(const model::Board& board, const std::vector<chain::Chain>& chains) {
  std::map<std::size_t, chain::RegisterFormat> formats;
  for (const auto& chain : chains) {
    const auto* channel = model::find(board.channels, chain.channel.name);
    formats[static_cast<std::size_t>(channel - board.channels.data())] = chain.report;
  }
  return [formats = std::move(formats)](const Value& value) -> std::string {
    const auto format = formats.find(value.of.index);
    if (value.of.holds != Holds::code || format == formats.end()) return {};
    if (chain::occurs(format->second, *value.value)) return {};
    return fmt::format("code {:.15g}, which the register never holds", *value.value);
  };
}

Listening::Listening(const model::Board& board, const std::vector<std::string>& links, Doubt doubt)
    : inside_(std::make_unique<Inside>(board, std::move(doubt))) {
  for (const auto& name : links) {
    auto reader = std::make_unique<Inside::Reader>();
    reader->link = model::find(board.links, name);
    require(reader->link != nullptr, "a link of the board");
    reader->state.name = name;
    reader->feed = open_feed(*reader->link, board);
    inside_->readers.push_back(std::move(reader));
  }
  for (std::size_t i = 0; i < links.size(); ++i) {
    inside_->readers[i]->thread = std::jthread([in = inside_.get(), i] { in->read(i); });
  }
}

Listening::~Listening() { stop(); }

void Listening::stop() {
  {
    const std::lock_guard lock(inside_->mutex);
    inside_->stop = true;
  }
  inside_->taken.notify_all();
  for (auto& reader : inside_->readers) {
    reader->thread = {};
    reader->ended = true;
  }
}

bool Listening::take(std::vector<Sample>& into, Clock::time_point until) {
  auto& in = *inside_;
  std::unique_lock lock(in.mutex);
  const auto all_ended = [&] {
    return std::ranges::all_of(in.readers, [](const auto& reader) { return reader->ended; });
  };
  in.came.wait_until(lock, until, [&] { return !in.waiting.empty() || all_ended(); });
  const bool more = !in.waiting.empty() || !all_ended();
  if (into.empty()) {
    into.swap(in.waiting);
  } else {
    std::ranges::move(in.waiting, std::back_inserter(into));
    in.waiting.clear();
  }
  lock.unlock();
  in.taken.notify_all();
  return more;
}

void Listening::tell(const std::string& link, const std::string& command) {
  auto& in = *inside_;
  const auto reader =
      std::ranges::find(in.readers, link, [](const auto& part) { return part->link->name; });
  require(reader != in.readers.end(), "a link that is listened to");
  std::future<void> taken;
  {
    const std::lock_guard lock(in.mutex);
    (*reader)->command = Inside::Command{.text = command};
    taken = (*reader)->command->taken.get_future();
  }
  if (taken.wait_for(std::chrono::seconds(8)) != std::future_status::ready) {
    throw LinkError("it takes nothing for 8 s");
  }
  taken.get();
}

std::vector<LinkState> Listening::states() const {
  const std::lock_guard lock(inside_->mutex);
  std::vector<LinkState> result;
  for (const auto& reader : inside_->readers) result.push_back(reader->state);
  return result;
}

double Listening::seconds() const {
  return std::chrono::duration<double>(Clock::now() - inside_->begin).count();
}

}  // namespace tamlo::link
