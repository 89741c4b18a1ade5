/* SPDX-License-Identifier: Apache-2.0 */
/* One number of all readings of a channel, and of those of its filter: the same on every machine.
   -DHEADER, -DNAME, -DFIRST, -DLAST, -DSTEP; -DCONVERSIONS for a filter, -DWITHOUT_CONSOLE for a
   core that has none. */
#include HEADER

#define JOINED_(a, b) a##b
#define JOINED(a, b) JOINED_(a, b)

static uint32_t hash = 2166136261u;
static void put(int32_t reading) { hash = (hash ^ (uint32_t)reading) * 16777619u; }

static void run_all(void) {
  int32_t code;
  for (code = FIRST; code <= LAST; code += STEP) put(JOINED(NAME, _reading)(code));
#ifdef CONVERSIONS
  {
    static struct JOINED(NAME, _filter) filter;
    uint32_t state = 1, i;
    int32_t reading = 0;
    JOINED(NAME, _start)(&filter);
    for (i = 0; i < CONVERSIONS; ++i) {
      state = state * 1664525u + 1013904223u;
      code = FIRST + (int32_t)((state >> 4) % ((uint32_t)(LAST - (FIRST)) + 1u));
      if (JOINED(NAME, _add)(&filter, code, &reading)) put(reading);
    }
  }
#endif
}

#ifdef WITHOUT_CONSOLE
volatile uint32_t sum;
void finished(void) __attribute__((noinline));
void finished(void) { __asm__ volatile(""); }
int main(void) {
  run_all();
  sum = hash;
  finished();
  for (;;) {
  }
}
#else
#include <stdio.h>
int main(void) {
  run_all();
  printf("%lu\n", (unsigned long)hash);
  return 0;
}
#endif
