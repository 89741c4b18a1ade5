/* SPDX-License-Identifier: Apache-2.0 */
/* So many readings, by integers or by the plain formula: what more of them cost is the cost of one.
   -DREADINGS, and one of -DSTRAIGHT, -DWIDE, -DCURVE, -DNOTHING; -DFLOATING for the formula. */
#ifdef FLOATING
#include <math.h>
#endif

#include "load.h"
#include "pack_voltage.h"
#include "winding.h"

#if defined(NOTHING)
static int32_t reading(uint16_t code) { return code; }
#elif defined(FLOATING) && defined(STRAIGHT)
/* A full scale of 2.5 V on 12 bits, behind a divider of 240 kohm and 10 kohm. */
static float reading(uint16_t code) {
  const float volts = (float)code * 2.5f / 4096.0f;
  return volts / (10.0f / (240.0f + 10.0f));
}
#elif defined(FLOATING) && defined(WIDE)
/* A bridge of 2 mV/V and 200 N behind a gain of 128, on 24 bits over -2.5 V to 2.5 V. */
static float reading(int32_t code) {
  return (float)code * (5.0f / 16777216.0f) * (200.0f / (128.0f * 0.01f));
}
#elif defined(FLOATING)
/* A thermistor of 10 kohm and beta 3950 K under 3.3 kohm, on 16 bits. */
static float reading(uint16_t code) {
  const float part = (float)code / 65536.0f;
  const float resistance = 3300.0f * part / (1.0f - part);
  return 1.0f / (1.0f / 298.15f + logf(resistance / 10000.0f) / 3950.0f) - 273.15f;
}
#elif defined(WIDE)
static int32_t reading(int32_t code) { return load_reading(code); }
#elif defined(STRAIGHT)
static int32_t reading(uint16_t code) { return pack_voltage_reading(code); }
#else
static int32_t reading(uint16_t code) { return winding_reading(code); }
#endif

volatile float last;
volatile uint16_t from = 7000;
void finished(void) __attribute__((noinline));
void finished(void) { __asm__ volatile(""); }
int main(void) {
  long i;
  for (i = 0; i < READINGS; ++i) {
#ifdef FLOATING
    last = reading((uint16_t)(from + i));
#else
    *(volatile int32_t *)&last = reading((uint16_t)(from + i));
#endif
  }
  finished();
  return 0;
}
