// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <sndfile.h>

#include "tamlo/detail/shared_library.hpp"

// libsndfile, loaded when a WAV file is read or written: it takes longer to load than all the rest
// of the tool.
namespace tamlo::io {

struct SoundLibrary {
  tamlo::detail::SharedLibrary file{"libsndfile.so.1", "reads and writes WAV", "libsndfile1"};
  TAMLO_LOADED(open_fd, sf_open_fd);
  TAMLO_LOADED(open_virtual, sf_open_virtual);
  TAMLO_LOADED(close, sf_close);
  TAMLO_LOADED(error, sf_strerror);
  TAMLO_LOADED(read_int, sf_readf_int);
  TAMLO_LOADED(read_double, sf_readf_double);
  TAMLO_LOADED(write_int, sf_writef_int);
  TAMLO_LOADED(command, sf_command);
};

/// Throws EnvironmentError where it is missing.
const SoundLibrary& sound_library();

}  // namespace tamlo::io
