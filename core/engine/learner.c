#include "learner.h"

#include "ops.h"

uint32_t *rp_learner_told(uint32_t op, void *state)
{
    return op == RP_OP_ZERO   ? &((rp_zero_state *)state)->told
           : op == RP_OP_SPAN ? &((rp_span_state *)state)->told
                              : NULL;
}

static bool zero_news(rp_zero_state *z, rp_event *news)
{
    if (z->phase < RP_ZERO_LEARNED || z->told) {
        return false;
    }
    z->told = 1;
    if (z->phase == RP_ZERO_LEARNED) {
        *news = (rp_event){.kind = RP_EVENT_LEARNED, .reason = RP_LEARNED_ZERO, .value = z->offset};
    } else {
        *news = (rp_event){.kind = RP_EVENT_GAVE_UP, .value = z->moved};
    }
    return true;
}

static bool span_news(rp_span_state *s, rp_event *news)
{
    if (!s->news) {
        return false;
    }
    s->news = 0;
    s->told = s->learned;
    *news = (rp_event){
        .kind = RP_EVENT_LEARNED, .reason = s->learned ? RP_LEARNED_SPAN : RP_LEARNED_NO_SPAN, .value = s->width};
    return true;
}

bool rp_learner_news(uint32_t op, void *state, rp_event *news)
{
    return op == RP_OP_ZERO ? zero_news(state, news) : op == RP_OP_SPAN && span_news(state, news);
}
