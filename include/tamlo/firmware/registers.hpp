// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "tamlo/export.hpp"
#include "tamlo/model/board.hpp"

/// The words that configure a converter: settings of a board to words, and words that were read
/// back to settings. Both ways are inverse to each other wherever the map can express a setting.
namespace tamlo {
namespace firmware TAMLO_API {

/// (setting * times + plus) / (setting * per + over), which must be a whole number.
struct Formula {
  std::int64_t times = 1, plus = 0, per = 0, over = 1;

  /// Returns the number for a setting.
  double of(double setting) const;
  /// The setting for a number; infinite for one that no setting has.
  double back(double number) const;
};
/// "(cycles - 2) / 2", "16000 / rate - 1": whole numbers up to 1e9, one name that stands for the
/// setting, + - * / and brackets. Throws ArgumentError for anything else, and for what is not one
/// straight line of the name over another.
Formula parse_formula(std::string_view text);

/// So many ones, up to 64.
constexpr std::uint64_t low_bits(int count) {
  return count >= 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << count) - 1;
}

/// Some bits of a register, and what they mean: a constant, or a setting of the board.
struct RegisterField {
  std::string name{};
  int low = 0, high = 0;                 ///< bits, from 0
  std::optional<std::uint64_t> value{};  ///< always this
  std::string of{};                      ///< else the setting, by its key: "channel.input"
  std::vector<std::pair<std::string, std::uint64_t>> when{};  ///< its values, where they have codes
  std::optional<Formula> formula{};
  std::optional<int> input{};  ///< of the channel at this input of the converter, of several
  std::optional<std::uint64_t> otherwise{};  ///< where the board has no such setting
  bool clears_itself = false;                ///< reads 0 once it has acted

  /// Returns the number of bits of the field.
  int bits() const { return high - low + 1; }
  /// The largest number that fits.
  std::uint64_t largest() const { return low_bits(bits()); }
};

/// A register of the map: its address and its fields.
struct Register {
  std::string name{};
  std::uint64_t address = 0;
  int words = 1;                       ///< at consecutive addresses
  bool high_first = true;              ///< the first address has the high bits
  std::uint64_t reset = 0;             ///< bits that no field has keep this
  bool as_found = false;               ///< or else what the device has in them
  std::vector<std::uint64_t> first{};  ///< words that go to its address before its own
  std::vector<RegisterField> fields{};
};

/// Registers of a device, with fields and the settings that they hold. The file reader guarantees
/// that fields lie inside their register and do not overlap, and that values fit
/// (io/register_map.hpp).
struct RegisterMap {
  std::string converter{};
  int word_bits = 8;
  std::vector<Register> registers{};
};

/// A setting of a channel or of its converter, under the key of the board file.
struct Setting {
  std::string key{};
  std::string value{};  ///< a number without its unit, or a name
};
/// All keys that a map may name.
std::vector<std::string> setting_keys();
/// Returns the board's value of each setting. A key that the board leaves open is missing.
std::vector<Setting> settings(const model::Board& board, const model::Channel& channel);
/// One of them; none where the board leaves it open, and for a key that is none.
std::optional<Setting> setting(const model::Board& board, const model::Channel& channel,
                               std::string_view key);

/// A field, and what stands in it.
struct FieldWord {
  std::string name{};
  int low = 0, high = 0;
  std::uint64_t value = 0;
  std::string from{};  ///< "channel.input = 2", "constant"
};
/// A register, and the word for it.
struct RegisterWord {
  std::string name{};
  std::uint64_t address = 0;
  int word_bits = 8;
  int words = 1;
  bool high_first = true;
  std::uint64_t value = 0;
  std::uint64_t kept = 0;              ///< bits that read back as they were written
  std::uint64_t changes = 0;           ///< bits that are written; the device keeps the others
  std::vector<std::uint64_t> first{};  ///< words that are written to its address before it
  std::vector<FieldWord> fields{};
};

/// The words of one channel.
struct ChannelWords {
  std::string channel{}, converter{};
  int word_bits = 8;
  std::vector<RegisterWord> registers{};
  std::vector<std::string> problems{};  ///< settings that the map cannot express, and what it can
  std::vector<Setting> elsewhere{};     ///< settings of the board that the map has no field for
};

/// Returns the register words that a channel's settings need by a map, with the settings that the
/// map cannot express, what it could express instead, and the settings for which it has no field.
/// Throws ArgumentError for a channel that the board does not have.
ChannelWords words_of(const RegisterMap& map, const model::Board& board, std::string_view channel);

/// One word of a register, with the same bits of each as there.
struct AddressedWord {
  std::uint64_t address = 0, value = 0, kept = 0, changes = 0;
};
/// Returns the single words of a register in the order in which they are written: those that come
/// first, of which nothing is read back, then its own by rising address.
std::vector<AddressedWord> words_of(const RegisterWord& word);

/// A word as "0x1F".
std::string in_hex(std::uint64_t value, int bits);
/// The bits of a word in groups of four, "0001 1111", with a dash for each that is not written.
std::string in_binary(std::uint64_t value, int bits, std::uint64_t changes = ~std::uint64_t{0});

/// Words that were read from a device, by their address.
using Dump = std::map<std::uint64_t, std::uint64_t>;

/// True where one of the registers has a word at this address.
bool has_address(const RegisterMap& map, std::uint64_t address);

/// Meaning of one field of a dump.
struct FoundSetting {
  std::string field{};  ///< "control.input"
  std::string key{};    ///< of the setting; empty for a constant and for reserved bits
  std::string channel{};
  std::string wanted{};  ///< by the board; empty where it leaves it open
  std::string found{};
  bool differs = false;
  bool known = true;  ///< the map has a setting for what was found
};
/// Meaning of register words that were read back.
struct FoundSettings {
  std::string channel{}, converter{};
  std::vector<FoundSetting> settings{};
  std::vector<std::string> missing{};    ///< registers of which the dump has not all words
  std::vector<std::uint64_t> unknown{};  ///< addresses of the dump that the map does not have
};
/// Returns what register words that were read back mean for a board, setting by setting, and
/// whether each is as described. `channel` is the one that registers of one channel at a time are
/// about. Words that the dump lacks and addresses that the map lacks are listed. Throws
/// ArgumentError for a channel whose converter the board does not have.
FoundSettings settings_found(const RegisterMap& map, const Dump& dump, const model::Board& board,
                             std::string_view channel);

/// The channel whose input the dump names; none where the map has no field for it, or no channel
/// has that input.
std::optional<std::string> channel_found(const RegisterMap& map, const Dump& dump,
                                         const model::Board& board);

/// True where words differ from channel to channel.
bool of_one_channel(const RegisterMap& map);

/// Returns addresses, masks and the words of each channel as C, with a function that writes words
/// by the bus of the user and reads back what keeps its bits.
std::string c_registers(const RegisterMap& map, const std::vector<ChannelWords>& channels);

}  // namespace firmware
}  // namespace tamlo
