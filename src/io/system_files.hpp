// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <string>
#include <string_view>

// What systems do in their own ways with files: system_files_posix.cpp, system_files_windows.cpp.
// What fails returns -1 or false, and its reason is in errno. Paths are UTF-8.
namespace tamlo::io::system {

/// A descriptor of a file, a pipe or a terminal for reading, as bytes; never waits for a writer.
/// What has no end, or no writer within five seconds, is said in `refused`, and -1 returned.
int open_to_read(const std::string& path, std::string& refused);

/// A file, or something else, at a path.
struct Standing {
  bool there = false;
  bool regular = false;   ///< a file, not a folder, pipe or device
  bool writable = false;  ///< by its mode, and by this user
  unsigned mode = 0;
};
Standing standing(const std::string& path);

/// A descriptor that writes to a pipe or a device; never waits for a reader.
int open_to_write(const std::string& path);
/// A new file, for writing; fails where something stands.
int create(const std::string& path);
/// A new file in the folder that has no name and vanishes when it is closed; -1 where the system
/// has none such.
int create_unnamed(const std::string& folder);
bool give_name(int descriptor, const std::string& path);
/// Keeps others from taking it for a left-over until it is closed.
void hold(int descriptor);
bool set_mode(int descriptor, unsigned mode);
/// Takes away what no process holds.
void remove_left_over(const std::string& path);
/// Writes all of it, whatever interrupts it.
bool write_all(int descriptor, std::string_view bytes);
/// All of it is on the disk when it returns true. EINVAL: nothing that could be.
bool flush(int descriptor);
/// Puts a file in the place of another, in one step.
bool replace(const std::string& from, const std::string& to);
/// Closes the open file of the first name, and does the same with it.
bool place(int descriptor, const std::string& from, const std::string& to);
/// A second name for a file.
bool link(const std::string& path, const std::string& second);
void remove(const std::string& path);

/// A file that grows and is held by one process: read and appended to. With `held`, another has it.
int open_log(const std::string& path, bool& held);
bool is_regular(int descriptor);
bool cut(int descriptor, std::size_t size);

}  // namespace tamlo::io::system
