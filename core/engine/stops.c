/* Emergency stops: everything to rest, and on again. */
#include "stops.h"

#include "phase.h"
#include "sequence.h"

#include <string.h>

/* All claims, the hand's too: behind a stop nothing goes on by itself. */
void rgp__engine_forget_actions(rgp_engine *e)
{
    memset(part_claim(e), 0, COUNT(e, CLAIMS) * sizeof(rgp_claim));
    part_head(e)->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < COUNT(e, RULES); i++) {
        rgp_pulse_reset(&part_rule(e)[i].pulse);
    }
    rgp__engine_forget_sequences(e);
    make_due(e, RGP__DUE_OUTPUTS);
}

/* `stop`: the line that did it, RGP_REF_NONE: a person or a lost port. */
void rgp__engine_stop_by(rgp_engine *e, uint16_t stop)
{
    rgp__engine_forget_actions(e);
    part_head(e)->stopped = 1;
    part_head(e)->stopped_by = stop;
    raise_event(e, RGP_EVENT_STOPPED, 0, stop, 0.0f);
}

/* Rules fire again by what is then; nothing of before the stop is made up for. */
void rgp__engine_resume_by(rgp_engine *e, uint16_t stop)
{
    part_head(e)->stopped = 0;
    make_due(e, RGP__DUE_OUTPUTS);
    raise_event(e, RGP_EVENT_RESUMED, 0, stop, 0.0f);
}

/* True when the stop's own second condition lets it end; one without waits for a person. */
static bool releases(const rgp_engine *e, const rgp_image_stop *stop)
{
    return stop->release != RGP_REF_NONE && is_armed(e, stop->release);
}

/* A condition that is still learning cannot be known and is no danger yet. */
void rgp__phase_stops(rgp_engine *e)
{
    const rgp__engine_head *const head = part_head(e);
    const rgp_image_stop *stop = image_STOPS(e);
    for (uint32_t i = 0; i < COUNT(e, STOPS); i++) {
        const rgp_reading condition = rgp_engine_value(e, stop[i].condition);
        const bool usable = rgp_usable(condition.quality);
        const bool holds = usable ? condition.value != 0.0f : condition.quality != RGP_LEARNING;
        if (holds && !head->stopped) {
            rgp__engine_stop_by(e, (uint16_t)i);
        } else if (head->stopped && head->stopped_by == i && !holds && releases(e, &stop[i])) {
            rgp__engine_resume_by(e, (uint16_t)i);
        }
    }
}
