// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <cstddef>

#include "tamlo/export.hpp"

// The server of the page, in a module of its own that is loaded with it: the tool starts without
// the libraries that it needs.
extern "C" {

struct TamloPage;

struct TamloText {
  const char* data;
  std::size_t size;
};
using TamloPut = void (*)(void* reply, TamloText text);
/// Puts the answer to what a page asks by a name and a body; called from several threads.
using TamloAsk = void (*)(void* context, TamloText name, TamloText body, void* reply, TamloPut put);

/// Port 0 takes any that is free. Nothing where it cannot be opened, and why. The page asks
/// nothing where `ask` is none.
TAMLO_API TamloPage* tamlo_page_open(int port, const char* html, TamloAsk ask, void* context,
                                     char* problem, std::size_t size);
TAMLO_API void tamlo_page_close(TamloPage* page);
TAMLO_API const char* tamlo_page_address(const TamloPage* page);
TAMLO_API void tamlo_page_publish(TamloPage* page, const char* state, const char* strip);
TAMLO_API bool tamlo_page_wants_whole(const TamloPage* page);
TAMLO_API void tamlo_page_publish_whole(TamloPage* page, const char* strip);
}
