/* SPDX-License-Identifier: 0BSD */
/* pack_voltage: pack voltage from register values 0 to 4095.
 * Made by Tamlo 0.2.0 from a description whose hash is 6c8409e59ebf95c7; make it again rather than edit it.
 *
 * one count             10 mV
 * reading               (number * 625 + 16384) >> 15
 * number                register value * 80
 * error of arithmetic   at most 0.005000 V (0.5 counts), met at register value 204.8
 * widest intermediate   204766384 of 32 bits
 * tables                0 bytes
 * operations a reading  5
 * filters round         at most 0 register values
 * valid readings        from number 4 after a start
 */
#include "pack_voltage.h"
#if PACK_VOLTAGE_EDITION != 0x505cb66f
#error "pack_voltage.h and pack_voltage.c are of different runs"
#endif

static int32_t pack_voltage_scaled(uint32_t number) {
  return (int32_t)((number * 625u + 16384u) >> 15);
}

static uint32_t pack_voltage_from_first(uint16_t code) {
  if (code > 4095) code = 4095;
  return code;
}

int32_t pack_voltage_reading(uint16_t code) {
  return pack_voltage_scaled((uint32_t)pack_voltage_from_first(code) * 80u);
}

void pack_voltage_start(struct pack_voltage_filter *filter) {
  filter->sum0 = 0;
  filter->count0 = 0;
  filter->at1 = 0;
  filter->filled1 = false;
  filter->waiting = 3u;
}

bool pack_voltage_add(struct pack_voltage_filter *filter, uint16_t code, int32_t *reading) {
  int32_t value = (int32_t)pack_voltage_from_first(code);

  /* average of 20 */
  filter->sum0 += (uint32_t)value;
  if (++filter->count0 < 20u) return false;
  filter->count0 = 0;
  value = (int32_t)filter->sum0;
  filter->sum0 = 0;

  /* moving average of 4 */
  if (!filter->filled1) {
    uint32_t i;
    for (i = 0; i < 4u; ++i) filter->kept1[i] = (uint32_t)value;
    filter->sum1 = (uint32_t)value * 4u;
    filter->filled1 = true;
  }
  filter->sum1 += (uint32_t)value - filter->kept1[filter->at1];
  filter->kept1[filter->at1] = (uint32_t)value;
  filter->at1 = (uint8_t)(filter->at1 + 1u < 4u ? filter->at1 + 1u : 0u);
  value = (int32_t)filter->sum1;

  if (filter->waiting > 0u) {
    --filter->waiting;
    return false;
  }
  *reading = pack_voltage_scaled((uint32_t)value);
  return true;
}
