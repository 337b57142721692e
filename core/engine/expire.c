/* Timed actions that are over. */
#include "claims.h"
#include "phase.h"

static void end_claim(rp_engine *e, uint32_t at, rp_claim *claim)
{
    claim->active = RP_CLAIM_NONE;
    make_due(e, RP_DUE_OUTPUTS);
    tell(e, RP_EVENT_ENDED, 0, at, claim->value);
}

void rp_phase_expire(rp_engine *e)
{
    rp_engine_head *const head = part_head(e);
    if (head->now_us < head->next_end_us) {
        return;
    }
    head->next_end_us = UINT64_MAX;
    for (uint32_t i = 0; i < COUNT(e, CLAIMS); i++) {
        rp_claim *const claim = &part_claim(e)[i];
        const rp_image_claim *of = &image_CLAIMS(e)[i];
        if (!claim->active) {
            continue;
        }
        if (head->now_us >= claim->until_us) {
            end_claim(e, i, claim);
        } else if (of->rank == RP_RANK_TIMED && image_ACTIONS(e)[of->action].times > 1) {
            heed_end(e, rp_engine_repeat(e, i, &image_ACTIONS(e)[of->action]));
        } else {
            heed_end(e, claim->until_us);
        }
    }
}
