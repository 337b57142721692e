/* The tick: sensors -> operations -> rules and sequences -> each actuator's owner -> shape -> guards. */
#include "program.h"

/* False for the same moment again, and for a clock that has gone back: then nothing is stepped, and the next tick
 * counts from the new time on. The engine's own clock never goes back. The first tick counts as one long. */
static bool takes_time(rgp__engine_head *head, uint64_t tick_us, uint64_t now_us)
{
    const uint64_t passed = now_us > head->port_us ? now_us - head->port_us : 0;
    const bool first = head->ticks == 0;
    head->now_us = first ? now_us : head->now_us + passed;
    head->port_us = now_us;
    head->passed_us = first ? tick_us : passed;
    return head->passed_us > 0;
}

static void (*const phase[RGP__PHASES])(rgp_engine *e) = {
#define RGP__PHASE(BIT, name) rgp__phase_##name,
    RGP__PHASE_LIST(RGP__PHASE)
#undef RGP__PHASE
};

/* The place of the lowest of some bits; one instruction where the compiler has it. */
static inline uint32_t lowest(uint32_t bits)
{
#ifdef __GNUC__
    return (uint32_t)__builtin_ctz(bits);
#else
    uint32_t at = 0;
    for (; !(bits & 1u); bits >>= 1) {
        at++;
    }
    return at;
#endif
}

/* A phase that another one makes due runs in this tick when it stands behind it in the list, else in the next. */
void rgp_engine_step(rgp_engine *e, uint64_t now_us)
{
    rgp__engine_head *const head = part_head(e);
    if (!takes_time(head, e->image->tick_us, now_us)) {
        return;
    }
    head->dt = rgp_seconds(head->passed_us);
    uint32_t behind = (1u << RGP__PHASES) - 1u, due;
    while ((due = (head->always | head->due) & behind) != 0) {
        behind &= ~(due ^ (due - 1u)); /* without the lowest that is due, and those before it */
        phase[lowest(due)](e);
    }
    head->ticks += head->ticks < UINT32_MAX;
}

void rgp__phase_compute(rgp_engine *e)
{
    e->program->compute(e);
}

/* Asked while something learns. */
void rgp__phase_news(rgp_engine *e)
{
    if (!e->program->news(e)) {
        part_head(e)->due &= ~(uint32_t)RGP__DUE_NEWS;
    }
}
