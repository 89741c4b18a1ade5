// SPDX-License-Identifier: Apache-2.0
#include "feed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>
#include <optional>
#include <thread>
#include <utility>

#include "tamlo/error.hpp"
#include "tamlo/link/detail/scpi.hpp"
#include "tamlo/model/board.hpp"

namespace tamlo::link {
namespace {

using std::chrono::milliseconds;

// Asks in time, and knows when an answer is late.
class Questions {
 public:
  explicit Questions(const model::Link& link)
      : link_(link),
        every_(std::chrono::duration_cast<Clock::duration>(
            std::chrono::duration<double>(link.every))) {}

  bool asks() const { return !link_.ask.empty(); }
  /// Sends the question where its time has come; until when an answer may be waited for. What came
  /// without a question would be taken for its answer, and goes.
  Clock::time_point ask(Stream& stream, Clock::time_point until) {
    const auto now = Clock::now();
    if (waits_ && now - asked_ > patience) {
      throw LinkError(fmt::format("no answer to {} within 3 s", link_.ask));
    }
    if (!waits_ && now >= asked_ + every_) {
      surplus_ += stream.discard();
      stream.write(link_.ask + "\n");
      asked_ = now;
      waits_ = true;
    }
    return waits_ ? until : std::min(until, asked_ + every_);
  }
  void answered() { waits_ = false; }
  bool waiting() const { return waits_; }
  void add_surplus(std::size_t bytes) { surplus_ += bytes; }
  /// Bytes that came unasked before the last question; counted once.
  std::size_t surplus() { return std::exchange(surplus_, 0); }
  /// Until when the answer to a question that was asked may come; nothing is under way else.
  std::optional<Clock::time_point> awaited() const {
    return waits_ ? std::optional(asked_ + patience) : std::nullopt;
  }

 private:
  static constexpr auto patience = std::chrono::seconds(3);
  const model::Link& link_;
  Clock::duration every_;
  Clock::time_point asked_{};
  bool waits_ = false;
  std::size_t surplus_ = 0;
};

// A feed that may ask.
class AskingFeed : public Feed {
 protected:
  /// Asks where its time has come, and sets until when an answer may be waited for. What is got
  /// already, where there is none to wait for: bytes that nobody asked for, or nothing yet.
  std::optional<Got> ask(Questions& questions, Stream& stream, Clock::time_point& until) {
    if (!questions.asks()) return {};
    until = questions.ask(stream, until);
    if (const auto bytes = questions.surplus(); bytes > 0) {
      problem_ = fmt::format("{} bytes more than an answer", bytes);
      return Got::malformed;
    }
    if (questions.waiting()) return {};
    std::this_thread::sleep_until(until);
    return Got::nothing;
  }
};

class LineFeed : public AskingFeed {
 public:
  LineFeed(const model::Link& link, const model::Board& board)
      : questions_(link), stream_(open(link)) {
    // A link over which a source is set, and nothing is read.
    if (link.form != model::LineForm::number || !link.pattern.empty()) parser_.emplace(link, board);
  }

  Got next(std::vector<Value>& values, Clock::time_point until) override {
    if (const auto got = ask(questions_, *stream_, until)) return *got;
    if (!stream_->read_line(line_, until)) return Got::nothing;
    questions_.answered();
    if (!parser_) return Got::nothing;
    if (parser_->parse(line_, values)) return Got::values;
    problem_ = parser_->problem();
    return Got::malformed;
  }
  bool ended() const override { return stream_->ended(); }
  void tell(const std::string& command) override { stream_->write(command + "\n"); }

 private:
  Questions questions_;
  std::unique_ptr<Stream> stream_;
  std::optional<LineParser> parser_{};
  std::string line_{};
};

// An instrument that says who it is, answers what it is asked, and keeps a queue of errors.
class ScpiFeed : public AskingFeed {
 public:
  ScpiFeed(const model::Link& link, const model::Board& board)
      : questions_(link), stream_(open(link)) {
    if (!link.pattern.empty()) {
      slot_ = slot_of(board, link.pattern, link);
      if (slot_->holds == Holds::code) {
        throw ArgumentError(fmt::format("\"{}\" of the link {}: no instrument answers with codes",
                                        link.pattern, link.name));
      }
      like_ = unit_of(board, *slot_);
    }
    stream_->write("*CLS\n");
    identity_ = question("*IDN?");
  }

  Got next(std::vector<Value>& values, Clock::time_point until) override {
    values.clear();
    if (!slot_) {
      std::this_thread::sleep_until(std::min(until, Clock::now() + milliseconds(20)));
      return Got::nothing;
    }
    if (const auto got = ask(questions_, *stream_, until)) return *got;
    if (!stream_->read_line(line_, until)) return Got::nothing;
    questions_.answered();
    if (const auto number = parse_scpi_number(line_, like_)) {
      if (!number->value && slot_->holds == Holds::reading) {
        problem_ = "an overload, which no reading of a firmware is";
        return Got::malformed;
      }
      // What stands in the answer without a suffix, in volts and so on.
      values.push_back({.of = *slot_, .value = number->value, .place = last_place(line_)});
      return Got::values;
    }
    problem_ = fmt::format("an answer that is no number in {}: {}", like_.symbol, line_);
    if (const auto error = scpi_error(question("SYST:ERR?"))) problem_ = identity_ + ": " + *error;
    return Got::malformed;
  }
  bool ended() const override { return stream_->ended(); }

  void tell(const std::string& command) override {
    ask_no_more();
    stream_->write(command + "\n");
    const auto answer = question("SYST:ERR?");
    if (!is_error_entry(answer)) {
      throw LinkError(fmt::format("not an entry of an error queue: {}", answer));
    }
    if (const auto error = scpi_error(answer)) {
      throw CommandRefused(fmt::format("{} does not take {}: {}", identity_, command, *error));
    }
  }

 private:
  Questions questions_;
  std::unique_ptr<Stream> stream_;
  std::optional<Slot> slot_{};
  quantity::Unit like_{};
  std::string identity_{}, line_{};

  // An answer that is under way comes before what is said next, or it would be taken for its
  // answer.
  void ask_no_more() {
    const auto until = questions_.awaited();
    if (!until) return;
    if (!stream_->read_line(line_, *until)) lost("no answer before a command");
    questions_.answered();
  }

  std::string question(const std::string& text) {
    stream_->discard();
    stream_->write(text + "\n");
    std::string answer;
    if (stream_->read_line(answer, Clock::now() + std::chrono::seconds(6))) return answer;
    lost(fmt::format("no answer to {} within 6 s", text));
  }

  [[noreturn]] void lost(const std::string& without) const {
    throw LinkError(stream_->ended() ? "the other side closed it" : without);
  }
};

// Bytes, all frames of one length; where they do not begin as they should, the next that do is
// looked for.
class FrameFeed : public AskingFeed {
 public:
  FrameFeed(const model::Link& link, const model::Board& board)
      : link_(link),
        board_(board),
        questions_(link),
        slots_(slots_of(link, board)),
        stream_(open(link)) {}

  Got next(std::vector<Value>& values, Clock::time_point until) override {
    values.clear();
    if (const auto got = ask(questions_, *stream_, until)) return *got;
    for (;;) {
      const auto at = buffer_.find(link_.begins);
      const auto skipped =
          std::min(at, buffer_.size() - std::min(buffer_.size(), link_.begins.size()));
      if (skipped > 0) {
        buffer_.erase(0, skipped);
        problem_ = fmt::format("{} bytes that begin no frame", skipped);
        return Got::malformed;
      }
      if (at == 0 && buffer_.size() >= link_.length) break;
      if (!stream_->read_bytes(buffer_, until)) return Got::nothing;
    }
    questions_.answered();
    const auto* bytes = reinterpret_cast<const unsigned char*>(buffer_.data());
    auto got = Got::values;
    for (std::size_t i = 0; i < slots_.size(); ++i) {
      const auto& value = link_.values[i];
      if (put(values, board_, slots_[i], value, decode(bytes + value.at, value.type, value.order)))
        continue;
      problem_ = "a float that is no number";
      got = Got::malformed;
    }
    buffer_.erase(0, link_.length);
    if (questions_.asks()) {  // the rest was not asked for
      questions_.add_surplus(buffer_.size());
      buffer_.clear();
    }
    return got;
  }
  bool ended() const override { return stream_->ended() && buffer_.size() < link_.length; }
  void tell(const std::string& command) override { stream_->write(command); }

 private:
  const model::Link& link_;
  const model::Board& board_;
  Questions questions_;
  std::vector<Slot> slots_;
  std::unique_ptr<Stream> stream_;
  std::string buffer_{};
};

}  // namespace

double decode(const unsigned char* bytes, model::NumberType type, model::Order order) {
  const auto size = model::size_of(type);
  std::uint32_t word = 0;
  for (std::size_t i = 0; i < size; ++i) {
    word = (word << 8U) | bytes[order == model::Order::big_endian ? i : size - 1 - i];
  }
  switch (type) {
    case model::NumberType::int16:
      return static_cast<std::int16_t>(word);
    case model::NumberType::int24:
      return static_cast<std::int32_t>(word << 8U) / 256;
    case model::NumberType::int32:
      return static_cast<std::int32_t>(word);
    case model::NumberType::float32:
      return std::bit_cast<float>(word);
    default:
      return word;
  }
}

bool put(std::vector<Value>& into, const model::Board& board, const Slot& slot,
         const model::PlacedNumber& placed, double number) {
  const double si = in_si(board, slot, number * placed.scale);
  if (!may_be_measured(si)) return false;
  into.push_back({.of = slot, .value = si});
  return true;
}

std::vector<Slot> slots_of(const model::Link& link, const model::Board& board) {
  std::vector<Slot> slots;
  for (const auto& value : link.values) slots.push_back(slot_of(board, value.holds, link));
  return slots;
}

std::unique_ptr<Feed> open_feed(const model::Link& link, const model::Board& board) {
  switch (link.speaks) {
    case model::Speaks::scpi:
      return std::make_unique<ScpiFeed>(link, board);
    case model::Speaks::modbus:
      return open_modbus(link, board);
    case model::Speaks::frames:
      return std::make_unique<FrameFeed>(link, board);
    case model::Speaks::lines:
      break;
  }
  return std::make_unique<LineFeed>(link, board);
}

}  // namespace tamlo::link
