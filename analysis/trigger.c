/* A threshold run over recorded values, by the blocks of which the engine makes the same rule. */
#include "trigger.h"

#include "rigpulse/detect.h"

#include <math.h>

double rgp_trigger_number(float number)
{
    char text[G_ASCII_DTOSTR_BUF_SIZE];
    return g_ascii_strtod(g_ascii_formatd(text, sizeof text, "%.6g", (double)number), NULL);
}

/* The blocks of one rule. */
typedef struct blocks {
    rgp_compare_config compare_config;
    rgp_compare_state compare;
    rgp_lasts_config lasts_config;
    rgp_lasts_state lasts;
    rgp_edge_config edge_config;
    rgp_edge_state edge;
    bool waits; /* it has a width */
} blocks;

static bool fires(blocks *b, float value, float dt)
{
    rgp_reading is = isnan(value) ? rgp_reading_of(0.0f, RGP_MISSING) : rgp_good(value);
    is = rgp_compare_step(&b->compare_config, &b->compare, is, dt);
    if (b->waits) {
        is = rgp_lasts_step(&b->lasts_config, &b->lasts, is, dt);
    }
    is = rgp_edge_step(&b->edge_config, &b->edge, is, dt);
    return rgp_usable(is.quality) && is.value != 0.0f;
}

/* At rest another row that is not beyond the limit, or is not to be trusted, changes nothing. */
static bool rests(const blocks *b)
{
    return !b->compare.is && !b->lasts.is_true && b->edge.known && !b->edge.is;
}

static uint32_t next_beyond(const rgp_trigger *t, const float *value, uint32_t row, uint32_t rows)
{
    if (t->above) {
        while (row < rows && !(value[row] > t->limit)) {
            row++;
        }
    } else {
        while (row < rows && !(value[row] < t->limit)) {
            row++;
        }
    }
    return row;
}

void rgp_trigger_firings(const rgp_trigger *t, const rgp_values *v, GArray *to)
{
    blocks b = {.compare_config = {t->limit, t->margin, t->above ? RGP_COMPARE_ABOVE : RGP_COMPARE_BELOW},
                .lasts_config = {t->width_s},
                .edge_config = {RGP_EDGE_RISE},
                .waits = t->width_s > 0.0f};
    const uint64_t holdoff_us = rgp_microseconds(t->holdoff_s);
    const uint32_t rows = v->from->rows;
    uint64_t ready_us = 0;
    for (uint32_t row = 0; row < rows; row++) {
        row = rests(&b) ? next_beyond(t, v->value, row, rows) : row;
        if (row == rows) {
            break;
        }
        const uint64_t now_us = rgp_recording_time_us(v->from, row),
                       before_us = row > 0 ? rgp_recording_time_us(v->from, row - 1) : 0;
        const float dt = (float)((double)(row > 0 ? now_us - before_us : v->from->image->tick_us) / 1e6);
        if (fires(&b, v->value[row], dt) && now_us >= ready_us) {
            g_array_append_val(to, row);
            ready_us = now_us + holdoff_us;
        }
    }
}
