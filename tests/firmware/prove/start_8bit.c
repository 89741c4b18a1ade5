/* SPDX-License-Identifier: Apache-2.0 */
/* The start of a program on an 8-bit core of no particular part. */
__asm__(".global __do_copy_data\n.global __do_clear_bss\n"
        /* tables of the program's memory come before the first instruction */
        ".section .vectors,\"ax\",@progbits\n jmp begin\n"
        ".section .init0,\"ax\",@progbits\nbegin:\n"
        ".section .init2,\"ax\",@progbits\n clr r1\n out 0x3f, r1\n"
        " ldi r28, 0xff\n ldi r29, 0x08\n out 0x3e, r29\n out 0x3d, r28\n"
        ".section .init9,\"ax\",@progbits\n call main\n");
