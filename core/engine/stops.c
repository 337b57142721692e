#include "stops.h"

#include "phase.h"
#include "sequence.h"

#include <string.h>

void rp_engine_forget_actions(rp_engine *e)
{
    memset(part_claim(e), 0, COUNT(e, CLAIMS) * sizeof(rp_claim));
    part_head(e)->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < COUNT(e, RULES); i++) {
        rp_pulse_reset(&part_rule(e)[i].pulse);
    }
    rp_engine_forget_sequences(e);
    make_due(e, RP_DUE_OUTPUTS);
}

void rp_engine_stop_by(rp_engine *e, uint16_t stop)
{
    rp_engine_forget_actions(e);
    part_head(e)->stopped = 1;
    part_head(e)->stopped_by = stop;
    tell(e, RP_EVENT_STOPPED, 0, stop, 0.0f);
}

void rp_engine_resume_by(rp_engine *e, uint16_t stop)
{
    part_head(e)->stopped = 0;
    make_due(e, RP_DUE_OUTPUTS);
    tell(e, RP_EVENT_RESUMED, 0, stop, 0.0f);
}

static bool releases(const rp_engine *e, const rp_image_stop *stop)
{
    return stop->release != RP_REF_NONE && is_armed(e, stop->release);
}

/* A condition that is still learning cannot be known and is no danger yet. */
void rp_phase_stops(rp_engine *e)
{
    const rp_engine_head *const head = part_head(e);
    const rp_image_stop *stop = image_STOPS(e);
    for (uint32_t i = 0; i < COUNT(e, STOPS); i++) {
        const rp_reading condition = rp_engine_value(e, stop[i].condition);
        const bool usable = rp_usable(condition.quality);
        const bool holds = usable ? condition.value != 0.0f : condition.quality != RP_LEARNING;
        if (holds && !head->stopped) {
            rp_engine_stop_by(e, (uint16_t)i);
        } else if (head->stopped && head->stopped_by == i && !holds && releases(e, &stop[i])) {
            rp_engine_resume_by(e, (uint16_t)i);
        }
    }
}
