/* The order of operations in an image: by level, and what makes a run together. */
#include "emit.h"

#include <stdlib.h>

bool emit_is_live(const operation *o)
{
    return o->fields > 0;
}

static int by_run(const void *a, const void *b)
{
    const operation *x = *(operation *const *)a, *y = *(operation *const *)b;
    const uint32_t kx[] = {x->level,       x->op,  emit_is_live(x), x->config_bytes,
                           x->state_bytes, x->way, x->steady,       x->order};
    const uint32_t ky[] = {y->level,       y->op,  emit_is_live(y), y->config_bytes,
                           y->state_bytes, y->way, y->steady,       y->order};
    for (uint32_t i = 0; i < sizeof kx / sizeof *kx; i++) {
        if (kx[i] != ky[i]) {
            return kx[i] < ky[i] ? -1 : 1;
        }
    }
    return 0;
}

bool emit_same_run(const operation *x, const operation *y)
{
    return x->level == y->level && x->op == y->op && emit_is_live(x) == emit_is_live(y) &&
           x->config_bytes == y->config_bytes && x->state_bytes == y->state_bytes && x->way == y->way &&
           x->steady == y->steady;
}

void emit_sort(emitter *e)
{
    if (e->operations > 0) {
        qsort(e->operation, e->operations, sizeof *e->operation, by_run);
    }
}
