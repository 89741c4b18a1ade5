// SPDX-License-Identifier: Apache-2.0
// What instruments and boards say over SCPI, frames of bytes and Modbus, and links that fail.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <thread>

#include "link/live_bench.hpp"
#include "tamlo/error.hpp"
#include "tamlo/io/diagnostics.hpp"
#include "tamlo/link/detail/listening.hpp"
#include "tamlo/link/detail/scpi.hpp"
#include "tamlo/link/detail/stand_in.hpp"

namespace tamlo::testing {
namespace {

using link::Clock;
using link::Listening;
using std::chrono::milliseconds;

TEST(Scpi, NumbersOfAnswers) {
  struct Case {
    const char *text, *like, *says;  // in SI; "-" for none, "over" for an overload
  };
  // Worked out by hand from IEEE 488.2, 7.7, and SCPI-99, volume 1, 7.2.1.
  const Case cases[] = {
      {"1.5", "V", "1.5"},
      {"+1.500000000E+00\r", "V", "1.5"},
      {"-2.5E-3,1,2", "V", "-0.0025"},
      {"12.5 mV", "V", "0.0125"},
      {"12.5MV", "V", "0.0125"},
      {"12.5 MAV", "V", "12500000"},
      {"3.3 KOHM", "ohm", "3300"},
      {"3.3 MOHM", "ohm", "3300000"},
      {"2 mhz", "Hz", "2000000"},
      {"1.5", "mV", "1.5"},
      {"20", "degC", "293.15"},
      {"20 CEL", "degC", "293.15"},
      {"300 K", "degC", "300"},
      {"9.9E+37", "V", "over"},
      {"-9.9E37", "V", "over"},
      {"9.91E+37", "V", "-"},
      {"OVLD", "V", "-"},
      {"", "V", "-"},
      {"1.5 A", "V", "-"},
      {"1.5 furlong", "V", "-"},
      {"nan", "V", "-"},
      {"1e999", "V", "-"},
      {"1e31", "V", "-"},
      {"0,\"No error\"", "V", "-"},
      {"50 UA", "A", "5e-05"},
      {"50", "%", "0.5"},
  };
  for (const auto& [text, like, says] : cases) {
    const auto number = link::parse_scpi_number(text, quantity::unit(like));
    const auto said = !number          ? "-"
                      : !number->value ? "over"
                                       : fmt::format("{:.10g}", *number->value);
    EXPECT_EQ(said, says) << text;
  }
  EXPECT_FALSE(link::scpi_error("+0,\"No error\""));
  for (const char* entry : {"0,\"No error\"", "+0", "-113,\"Undefined header\"\r\n", "0"})
    EXPECT_TRUE(link::is_error_entry(entry)) << entry;
  for (const char* other : {"", "9.9E37", "1E306", "12.5 A", "No error", "0 V"})
    EXPECT_FALSE(link::is_error_entry(other)) << other;
  EXPECT_EQ(link::scpi_error("-113,\"Undefined header\"\r\n"), "-113,\"Undefined header\"");
}

// Everything that comes in so long, until `enough` values of one kind.
std::vector<link::Value> heard(Listening& listening, std::size_t enough) {
  std::vector<link::Value> values;
  std::vector<link::Sample> samples;
  const auto end = Clock::now() + std::chrono::seconds(5);
  bool more = true;
  while (more && values.size() < enough && Clock::now() < end) {
    samples.clear();
    more = listening.take(samples, Clock::now() + milliseconds(50));
    for (const auto& sample : samples) {
      values.insert(values.end(), sample.values.begin(), sample.values.end());
    }
  }
  return values;
}

model::Board board_with(const Folder& folder, const std::string& links) {
  return io::load_board({demo_board, folder.write("links.toml", links)});
}

TEST(Frames, AreFoundAmongOtherBytesInEitherOrder) {
  const Folder folder;
  // Two bytes of noise, a frame, a lone beginning, a frame.
  const char bytes[] =
      "\x01\x5A"
      "\xA5\x5A\x07\xAE\xFF\xFE\x00\x00\x80\x3F"
      "\xA5"
      "\xA5\x5A\x00\x10\x00\x7F\xCD\xCC\x4C\x3E";
  folder.write("frames.bin", std::string(bytes, sizeof bytes - 1));
  const auto board = board_with(folder, R"([link.f]
file = "frames.bin"
speaks = "frames"
length = 10
begins = "A5 5A"
values = [ { holds = "pack_voltage.code", at = 2 },
           { holds = "auxiliary_supply.code", at = 4, type = "int16", order = "little endian" },
           { holds = "pack_voltage.reading", at = 6, type = "float32", order = "little endian", scale = 2 } ]
)");
  Listening listening(board, {"f"});
  const auto values = heard(listening, 100);
  std::string said;
  for (const auto& value : values) said += fmt::format("{:.6g} ", *value.value);
  EXPECT_EQ(said, "1966 -257 2 16 32512 0.4 ");
  EXPECT_EQ(listening.states()[0].malformed, 2u);
  EXPECT_EQ(listening.states()[0].problem, "1 bytes that begin no frame");
}

TEST(Modbus, RegistersOfBothBanksInEveryTypeAndOrder) {
  const Folder folder;
  link::ModbusServer server(0);
  server.set_word(0, 0xFFFF07AEu);  // -63570 as int32, 0x07AE in register 1
  server.set_word(2, 0x41480000u);  // 12.5f
  server.set_word(4, 0x0000C148u);  // -12.5f, low word first
  for (const char* const bank : {"input", "holding"}) {
    const auto board = board_with(folder, fmt::format(R"([link.m]
tcp = "127.0.0.1:{}"
speaks = "modbus"
bank = "{}"
every = "10 ms"
values = [ {{ holds = "pack_voltage.code", at = 1 }},
           {{ holds = "auxiliary_supply.code", at = 0, type = "int16" }},
           {{ holds = "pack_voltage.reading", at = 2, type = "float32", scale = 2 }},
           {{ holds = "bench.shown", at = 4, type = "float32", order = "little endian" }},
           {{ holds = "coolant_flow.code", at = 0, type = "int32" }} ]
)",
                                                      server.port(), bank));
    Listening listening(board, {"m"});
    std::string said;
    for (const auto& value : heard(listening, 5)) said += fmt::format("{:.6g} ", *value.value);
    EXPECT_EQ(said.substr(0, said.find("25 ") + 3), "-1 -63570 1966 25 ") << bank;
    EXPECT_NE(said.find("-12.5"), std::string::npos) << said;
  }
}

TEST(Listening, TellsASourceAndHearsItsErrors) {
  const Folder folder;
  std::string told;
  link::ScpiServer server(0, "some,source,0,1",
                          [&](std::string_view command) -> link::ScpiServer::Reply {
                            if (!command.starts_with("VOLT ")) {
                              return link::ScpiError::undefined_header;
                            }
                            told = command;
                            return "";
                          });
  // After what it serves, so that it has ended before that goes.
  const std::jthread thread([&](const std::stop_token& stop) {
    while (!stop.stop_requested()) {
      server.serve();
      std::this_thread::sleep_for(milliseconds(1));
    }
  });
  const auto board = board_with(folder, fmt::format(R"([link.s]
tcp = "127.0.0.1:{}"
speaks = "scpi"
[source.knob]
link = "s"
sets = "VOLT {{value}}"
range = "0..60 V"
)",
                                                    server.port()));
  Listening listening(board, {"s"});
  listening.tell("s", "VOLT 12.5");
  EXPECT_EQ(told, "VOLT 12.5");
  try {
    listening.tell("s", "AMPS 12.5");
    FAIL();
  } catch (const link::LinkError& error) {
    EXPECT_STREQ(error.what(),
                 "some,source,0,1 does not take AMPS 12.5: -113,\"Undefined header\"");
  }
  EXPECT_THROW(listening.tell("t", "x"), ArgumentError);
}

// Nothing of what is well formed is lost, however bad the cable is: what was sent whole comes.
TEST(Listening, BadCablesCostLinesAndNothingElse) {
  struct Case {
    link::LinkFault fault;
    bool malformed, lost;
  };
  const Case cases[] = {
      {link::LinkFault::lost, false, false},    {link::LinkFault::torn, true, false},
      {link::LinkFault::doubled, false, false}, {link::LinkFault::late, false, false},
      {link::LinkFault::garbage, true, false},  {link::LinkFault::disconnect, false, true}};
  const auto watch = [](const Case& of) {
    const Folder folder;
    const LiveBench bench({.served = {.lines = 0, .meter = 0, .faults = {of.fault}}});
    const auto board = io::load_board({demo_board, bench.links(folder)});
    Listening listening(board, {"board"});
    std::vector<link::Sample> samples;
    const auto end = Clock::now() + milliseconds(1200);
    std::uint64_t good = 0;
    while (Clock::now() < end) {
      samples.clear();
      listening.take(samples, Clock::now() + milliseconds(50));
      for (const auto& sample : samples) {
        for (const auto& value : sample.values) {
          EXPECT_TRUE(std::isfinite(*value.value));
          ++good;
        }
      }
    }
    const auto state = listening.states().front();
    const auto fault = std::string(name(of.fault));
    EXPECT_GT(good, 100u) << fault;
    EXPECT_EQ(state.malformed > 0, of.malformed) << fault << " " << state.problem;
    EXPECT_EQ(state.lost > 0, of.lost) << fault;
  };
  std::vector<std::jthread> threads;
  for (const auto& of : cases) threads.emplace_back([&] { watch(of); });
}

TEST(Links, MistakesOfTheirSectionsAreFoundWhenTheFileIsRead) {
  const Folder folder;
  struct Case {
    const char *text, *says;
  };
  const Case cases[] = {
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"morse\"", "speaks"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"frames\"\nvalues = []", "length"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"frames\"\nlength = 2\nbegins = \"A5 5A\"\nvalues = []",
       "fewer than the 2"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"frames\"\nlength = 4\nbegins = \"A55A\"\nvalues = []",
       "hexadecimal"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"frames\"\nlength = 4\nvalues = [{ holds = \"v.code\", "
       "at = 3 }]",
       "bytes 3 to 4"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"modbus\"\nvalues = [{ at = 0, type = \"int24\" }]",
       "three bytes in registers"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"modbus\"\nstation = 0\nvalues = []", "station"},
      {"[link.a]\nfile = \"x\"\nspeaks = \"modbus\"\nvalues = []", "tcp or serial"},
      {"[link.b]\ntcp = \"h:1\"\n[source.a]\nlink = \"b\"\nsets = \"VOLT 1\"\nrange = \"0..1 V\"",
       "{value} in it"},
      {"[source.a]\nsets = \"VOLT {value}\"\nrange = \"1..0 V\"", "range"},
      {"[meter.bench]\nlink = \"nowhere\"", "nowhere"},
      {"[link.a]\ntcp = \"h:1\"\nspeaks = \"scpi\"", "what the number is"},
  };
  for (const auto& [text, says] : cases) {
    try {
      board_with(folder, text);
      ADD_FAILURE() << text;
    } catch (const io::BadInput& error) {
      EXPECT_NE(std::string(error.what()).find(says), std::string::npos) << text << "\n"
                                                                         << error.what();
    }
  }
}

}  // namespace
}  // namespace tamlo::testing
