/* Timed actions that are over. */
#include "claims.h"
#include "phase.h"

/* The owner below it takes over in this same tick: arbitration comes later. */
static void end_claim(rgp_engine *e, uint32_t at, rgp_claim *claim)
{
    claim->active = RGP_CLAIM_NONE;
    make_due(e, RGP__DUE_OUTPUTS);
    raise_event(e, RGP_EVENT_ENDED, 0, at, claim->value);
}

/* One comparison a tick while no end is due. next_end_us is never later than the earliest end of an active claim; where
 * it is earlier, as behind a claim that was written over, all claims are looked at once and it is found anew. */
void rgp__phase_expire(rgp_engine *e)
{
    rgp__engine_head *const head = part_head(e);
    if (head->now_us < head->next_end_us) {
        return;
    }
    head->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < COUNT(e, CLAIMS); i++) {
        rgp_claim *const claim = &part_claim(e)[i];
        const rgp_image_claim *of = &image_CLAIMS(e)[i];
        if (!claim->active) {
            continue;
        }
        if (head->now_us >= claim->until_us) {
            end_claim(e, i, claim);
        } else if (of->rank == RGP_RANK_TIMED && image_ACTIONS(e)[of->action].times > 1) {
            note_end(e, rgp__engine_repeat(e, i, &image_ACTIONS(e)[of->action]));
        } else {
            note_end(e, claim->until_us);
        }
    }
}
