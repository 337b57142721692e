/* The case on a microcontroller: start-up, a serial line to write to, and the engine. */
#include "trace.h"

#include "case.h"

#define UART_DATA    (*(volatile uint32_t *)0x40004000)
#define UART_STATE   (*(volatile uint32_t *)0x40004004)
#define UART_CONTROL (*(volatile uint32_t *)0x40004008)
#define UART_DIVIDER (*(volatile uint32_t *)0x40004010)
#define FPU_ACCESS   (*(volatile uint32_t *)0xE000ED88)

extern uint32_t stack_top, bss_start, bss_end, data_start, data_end, data_stored;

static _Alignas(8) unsigned char memory[CASE_MEMORY];

static void put_line(void *self, const char *line)
{
    (void)self;
    for (; *line; line++) {
        while (UART_STATE & 1u) {
        }
        UART_DATA = (uint32_t)(unsigned char)*line;
    }
}

static void leave(uint32_t code)
{
    const uint32_t block[2] = {0x20026u, code};
    register uint32_t call __asm__("r0") = 0x20u;
    register const uint32_t *with __asm__("r1") = block;
    __asm__ volatile("bkpt 0xab" : : "r"(call), "r"(with) : "memory");
}

/* Not inlined: its prologue may save floating-point registers, which start-up has to switch on first. */
__attribute__((noinline)) static uint32_t run_case(void)
{
    rgp_engine engine;
    const rgp_status status = rgp_engine_open(&engine, case_image, sizeof case_image, memory, sizeof memory);
    if (status != RGP_OK) {
        put_line(0, rgp_status_text(status));
        return 1;
    }
    uint32_t next = 0;
    for (uint32_t n = 0; n < CASE_TICKS; n++) {
        for (uint16_t i = 0; i < CASE_SENSORS; i++) {
            rgp_engine_edges(&engine, i, &case_edge[next].edge, 0, 0); /* this port tells them, if there are any */
        }
        for (; case_edge[next].tick == n; next++) {
            rgp_engine_edges(&engine, case_edge[next].sensor, &case_edge[next].edge, 1, 0);
        }
        const uint64_t now = (uint64_t)n * engine.image->tick_us;
        for (uint16_t i = 0; i < CASE_SENSORS; i++) {
            const uint32_t at = n * CASE_SENSORS + i;
            const rgp_sample sample = {.time_us = now, .raw = case_sample[at].raw, .same = case_sample[at].same};
            rgp_engine_sense(&engine, i, &sample);
        }
        rgp_engine_step(&engine, now);
        trace_tick(&engine, n, put_line, 0);
    }
    return 0;
}

void reset_handler(void)
{
#ifdef __ARM_FP
    FPU_ACCESS |= 0xFu << 20;
    __asm__ volatile("dsb\nisb");
#endif
    for (uint32_t *at = &bss_start; at < &bss_end; at++) {
        *at = 0;
    }
    const uint32_t *stored = &data_stored;
    for (uint32_t *at = &data_start; at < &data_end; at++) {
        *at = *stored++;
    }
    UART_DIVIDER = 16;
    UART_CONTROL = 1;
    leave(run_case());
    for (;;) {
    }
}

static void stuck(void)
{
    put_line(0, "fault\n");
    leave(2);
}

__attribute__((section(".vectors"), used)) static const void *const vectors[] = {
    &stack_top,          (const void *)reset_handler, (const void *)stuck, (const void *)stuck,
    (const void *)stuck, (const void *)stuck,         (const void *)stuck,
};
