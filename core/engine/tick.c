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

/* A phase that another one makes due runs in this tick when it stands behind it in the table, else in the next. */
void rgp_engine_step(rgp_engine *e, uint64_t now_us)
{
    rgp__engine_head *const head = part_head(e);
    if (!takes_time(head, e->image->tick_us, now_us)) {
        return;
    }
    head->dt = rgp_seconds(head->passed_us);
    uint32_t due = head->always | head->due;
    const rgp__phase *phase = e->program->phase, *const end = phase + e->program->phases;
    for (; phase < end; phase++) {
        if (phase->due & due) {
            phase->run(e);
            due = head->always | head->due;
        }
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
