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
#ifndef PACK_VOLTAGE_H
#define PACK_VOLTAGE_H
#define PACK_VOLTAGE_EDITION 0x505cb66f

#include <stdbool.h>
#include <stdint.h>

#ifdef __cplusplus
extern "C" {
#endif

/* The reading for one register value, in counts of 10 mV. */
int32_t pack_voltage_reading(uint16_t code);

/* Average and filter, one conversion after the other. */
struct pack_voltage_filter {
  /* average of 20 */
  uint32_t sum0;
  uint32_t count0;
  /* moving average of 4 */
  uint32_t sum1;
  uint32_t kept1[4];
  uint8_t at1;
  bool filled1;
  uint32_t waiting; /* readings until one is valid */
};

void pack_voltage_start(struct pack_voltage_filter *filter);

/* True when a reading is due and valid; it is then in *reading. */
bool pack_voltage_add(struct pack_voltage_filter *filter, uint16_t code, int32_t *reading);

#ifdef __cplusplus
}
#endif

#endif
