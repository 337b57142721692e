/* The rows of a loop, from a history. */
#include "response.h"

#include "loop_pace.h"

/* The columns that a loop's rows are made of; -1: there is none. */
typedef struct row_source {
    const rgp_history *history;
    uint32_t target, error, output;
    int32_t measured, saturated;
    rgp_loop_pace pace;
} row_source;

static row_source source_of(const rgp_history *history, uint32_t loop)
{
    const rgp_image_header *image = rgp_history_image(history);
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    const rgp_image_claim *claim = rgp_image_at(image, RGP_SECTION_CLAIMS);
    const uint32_t actuator = rgp_image_actuator_slot(image, claim[l->claim].actuator);
    return (row_source){
        .history = history,
        .target = (uint32_t)rgp_history_slot(history, l->first + RGP_TERM_TARGET),
        .error = (uint32_t)rgp_history_slot(history, l->first + RGP_TERM_ERROR),
        .output = (uint32_t)rgp_history_slot(history, actuator),
        .measured = rgp_history_slot(history, l->measured),
        .saturated = l->terms > RGP_TERM_SATURATED ? rgp_history_slot(history, l->first + RGP_TERM_SATURATED) : -1,
        .pace = rgp_loop_pace_of(image, rgp_image_text(image, RGP_NAME_LOOP, loop, 0)),
    };
}

#define AT_ONCE 256u /* rows */

typedef struct cells {
    float value[AT_ONCE];
    rgp_quality quality[AT_ONCE];
} cells;

static void fetch(const row_source *s, uint32_t column, uint64_t from, uint64_t to, cells *c)
{
    rgp_history_copy_values(s->history, column, from, to, c->value);
    rgp_history_copy_qualities(s->history, column, from, to, c->quality);
}

/* A measured value that was not recorded is had from the error. */
static void take_measured(const row_source *s, uint64_t from, uint64_t to, rgp_response_row *row)
{
    cells c;
    fetch(s, s->error, from, to, &c);
    for (uint64_t i = 0; i < to - from; i++) {
        row[i].usable = rgp_usable(c.quality[i]);
        row[i].measured = row[i].target - (double)c.value[i];
    }
    if (s->measured >= 0) {
        rgp_history_copy_values(s->history, (uint32_t)s->measured, from, to, c.value);
        for (uint64_t i = 0; i < to - from; i++) {
            row[i].measured = (double)c.value[i];
        }
    }
}

static void take_saturated(const row_source *s, uint64_t from, uint64_t to, rgp_response_row *row)
{
    cells c;
    if (s->saturated >= 0) {
        fetch(s, (uint32_t)s->saturated, from, to, &c);
        for (uint64_t i = 0; i < to - from; i++) {
            row[i].saturated = rgp_usable(c.quality[i]) && c.value[i] != 0.0f;
        }
    }
}

/* Column by column, at most AT_ONCE rows. */
static void take_rows(const row_source *s, uint64_t from, uint64_t to, rgp_response_row *row)
{
    uint64_t time_us[AT_ONCE];
    float target[AT_ONCE], output[AT_ONCE];
    rgp_history_copy_times(s->history, from, to, time_us);
    rgp_history_copy_values(s->history, s->target, from, to, target);
    rgp_history_copy_values(s->history, s->output, from, to, output);
    for (uint64_t i = 0; i < to - from; i++) {
        row[i] = (rgp_response_row){.time = (double)time_us[i] / 1e6,
                                    .target = (double)target[i],
                                    .output = (double)output[i],
                                    .stands = !rgp_loop_steps(s->history, &s->pace, from + i)};
    }
    take_measured(s, from, to, row);
    take_saturated(s, from, to, row);
}

GArray *rgp_response_rows(rgp_history *history, uint32_t loop, uint64_t from, uint64_t to)
{
    const row_source source = source_of(history, loop);
    const uint64_t begin = MAX(from, rgp_history_first(history)), end = MIN(to, rgp_history_end(history));
    GArray *rows = g_array_new(FALSE, FALSE, sizeof(rgp_response_row));
    g_array_set_size(rows, end > begin ? (guint)(end - begin) : 0);
    for (uint64_t i = begin; i < end; i += AT_ONCE) {
        take_rows(&source, i, MIN(i + AT_ONCE, end), &g_array_index(rows, rgp_response_row, (guint)(i - begin)));
    }
    return rows;
}
