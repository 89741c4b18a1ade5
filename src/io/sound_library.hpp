// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <sndfile.h>

// libsndfile, loaded when a WAV file is read or written: it takes longer to load than all the rest
// of the tool.
namespace tamlo::io {

struct SoundLibrary {
  decltype(&sf_open_fd) open_fd;
  decltype(&sf_open_virtual) open_virtual;
  decltype(&sf_close) close;
  decltype(&sf_strerror) error;
  decltype(&sf_readf_int) read_int;
  decltype(&sf_readf_double) read_double;
  decltype(&sf_writef_int) write_int;
  decltype(&sf_command) command;
};

/// Throws EnvironmentError where it is missing.
const SoundLibrary& sound_library();

}  // namespace tamlo::io
