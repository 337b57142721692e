/* The tick: sensors -> operations -> rules and sequences -> each actuator's owner -> shape -> guards. */
#include "program.h"

static bool takes_time(rp_engine_head *head, uint64_t tick_us, uint64_t now_us)
{
    const uint64_t passed = now_us > head->port_us ? now_us - head->port_us : 0;
    const bool first = head->ticks == 0;
    head->now_us = first ? now_us : head->now_us + passed;
    head->port_us = now_us;
    head->passed_us = first ? tick_us : passed;
    return head->passed_us > 0;
}

void rp_engine_step(rp_engine *e, uint64_t now_us)
{
    rp_engine_head *const head = part_head(e);
    if (!takes_time(head, e->image->tick_us, now_us)) {
        return;
    }
    head->dt = rp_seconds(head->passed_us);
    uint32_t due = head->always | head->due;
    const rp_phase *phase = e->program->phase, *const end = phase + e->program->phases;
    for (; phase < end; phase++) {
        if (phase->due & due) {
            phase->run(e);
            due = head->always | head->due;
        }
    }
    head->ticks += head->ticks < UINT32_MAX;
}

void rp_phase_compute(rp_engine *e)
{
    e->program->compute(e);
}

void rp_phase_news(rp_engine *e)
{
    if (!e->program->news(e)) {
        part_head(e)->due &= ~(uint32_t)RP_DUE_NEWS;
    }
}
