/* SPDX-License-Identifier: Apache-2.0 */
/* The start of a program on a 16-bit core of no particular part, which has a multiplier of 16 bits
   beside it, and the products that the compiler asks for. */
#include <stdint.h>

#define PORT(address) (*(volatile uint16_t *)(address))
static uint32_t product(uint16_t a, uint16_t b) {
  PORT(0x0130) = a;
  PORT(0x0138) = b;
  return PORT(0x013a) | (uint32_t)PORT(0x013c) << 16;
}

uint16_t __mspabi_mpyi_hw(uint16_t a, uint16_t b);
uint16_t __mspabi_mpyi_hw(uint16_t a, uint16_t b) { return (uint16_t)product(a, b); }

uint32_t __mspabi_mpyl_hw(uint32_t a, uint32_t b);
uint32_t __mspabi_mpyl_hw(uint32_t a, uint32_t b) {
  const uint16_t low = (uint16_t)a, low_b = (uint16_t)b;
  const uint32_t middle = product(low, (uint16_t)(b >> 16)) + product((uint16_t)(a >> 16), low_b);
  return product(low, low_b) + (middle << 16);
}

typedef union {
  uint64_t whole;
  uint16_t words[4];
} Words;

uint64_t __mspabi_mpyll_hw(uint64_t a, uint64_t b);
uint64_t __mspabi_mpyll_hw(uint64_t a, uint64_t b) {
  const Words first = {a}, second = {b};
  Words sum = {0};
  int i, k, at;
  for (i = 0; i < 4; ++i) {
    for (k = 0; i + k < 4; ++k) {
      uint32_t carried = product(first.words[i], second.words[k]);
      for (at = i + k; at < 4; ++at) {
        carried += sum.words[at];
        sum.words[at] = (uint16_t)carried;
        carried >>= 16;
      }
    }
  }
  return sum.whole;
}
__asm__(".section .first,\"ax\",@progbits\n.global begin\nbegin:\n mov #0x3000, r1\n call #main\n"
        ".section .last,\"a\",@progbits\n .short begin\n");
