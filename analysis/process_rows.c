/* Rows of a loop: each tick of a history, with the reading where the loop steps on it. */
#include "process_rows.h"

#include "loop_pace.h"

#include "explain/disassembly.h"
#include "rigpulse/image.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>

static const rgp_image_loop *loop_of(const rgp_image_header *image, int32_t phase)
{
    const rgp_image_loop *all = rgp_image_at(image, RGP_SECTION_LOOPS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++) {
        if (all[i].first == phase) { /* what a loop is called is its phase, its first slot */
            return &all[i];
        }
    }
    return NULL;
}

/* Rows of a history, and by each its place among those of the process, in which the ones that are missing have theirs,
 * too. */
typedef struct placed {
    uint64_t from;
    size_t count, *place;
} placed;

#define MISSING_MOST 4.0 /* times as many rows as there are: where more seem to be missing none are taken to be */

/* By its time: a leap of the clock by more than there are rows, or back, is none of missing ones. */
static placed place_rows(const rgp_history *h, uint64_t from, uint64_t to)
{
    const double tick = (double)rgp_history_image(h)->tick_us;
    placed p = {from, (size_t)(to - from), g_new0(size_t, to - from + 1)};
    double before = (double)rgp_history_time_us(h, from);
    for (size_t i = 1; i < p.count; i++) {
        const double now = (double)rgp_history_time_us(h, from + i), ticks = round((now - before) / tick);
        p.place[i] = p.place[i - 1] + (ticks >= 1.0 && ticks <= (double)p.count ? (size_t)ticks : 1u);
        before = now;
    }
    const bool sparse = p.count > 0 && (double)p.place[p.count - 1] > MISSING_MOST * (double)p.count;
    for (size_t i = 1; sparse && i < p.count; i++) {
        p.place[i] = i;
    }
    return p;
}

#define NEARLY_ALL 0.9 /* of the rows: a hand may have held the mechanism before its loop engaged */

typedef struct keeper {
    const rgp_history *history;
    uint32_t owner; /* column */
    float claim;
} keeper;

static bool keeps(const keeper *k, uint64_t row)
{
    return rgp_history_value(k->history, k->owner, row) == k->claim;
}

/* True where a loop was in charge of nearly all rows; what was measured in the others is left out, and *last becomes
 * the last row that it was in charge of. */
static bool leave_others_out(const keeper *k, const placed *in, rgp_process_rows *to, uint64_t *last)
{
    to->held = to->rows - in->count; /* nobody else is known to have driven in rows that are missing */
    for (size_t i = 0; i < in->count; i++) {
        const bool is = keeps(k, in->from + i);
        to->held += is;
        *last = is ? in->from + i : *last;
    }
    const bool nearly = (double)to->held >= NEARLY_ALL * (double)to->rows;
    for (size_t i = 0; i < in->count && nearly && to->held < to->rows; i++) {
        double *const value = &to->value[in->place[i]];
        if (!isnan(*value) && !keeps(k, in->from + i)) {
            *value = (double)NAN;
            to->readings--;
        }
    }
    return nearly;
}

/* The gain with which a loop was in charge, as the process sees it; 0: it was not. */
static double held_by(const rgp_history *h, const char *loop, const placed *in, rgp_process_rows *to)
{
    const rgp_image_header *image = rgp_history_image(h);
    const rgp_image_loop *is = loop_of(image, rgp_image_find(image, RGP_FIND_SLOT, loop));
    rgp_decoded step;
    if (!is || is->gain[0] == RGP_REF_NONE || !rgp_disassembly_writer(image, is->first, UINT32_MAX, &step) ||
        step.op != RGP_OP_PID) {
        return 0.0;
    }
    uint64_t last = in->from;
    if (!leave_others_out(&(keeper){h, rgp_history_owner(h, is->actuator), (float)is->claim}, in, to, &last)) {
        return 0.0;
    }
    const double scale = (double)rgp_disassembly_scale(image, &step, is->gain[0]);
    const bool reverse = ((const rgp_pid_loop_config *)rgp_decoded_config(&step))->pid.reverse != 0;
    return (reverse ? -scale : scale) * (double)rgp_history_setting(h, is->gain[0], last);
}

/* The mean distance of readings, in rows, gaps left out: those that are more than so many times the usual one. */
#define GAP 3.0

static double rows_apart(const double *value, size_t rows)
{
    g_autofree double *apart = g_new(double, rows + 1);
    size_t n = 0, last = rows;
    for (size_t i = 0; i < rows; i++) {
        if (!isnan(value[i])) {
            apart[n] = last < rows ? (double)(i - last) : 0.0;
            n += last < rows ? 1 : 0;
            last = i;
        }
    }
    gsl_sort(apart, 1, n);
    const double most = n > 0 ? GAP * apart[n / 2] : 0.0;
    while (n > 0 && apart[n - 1] > most) {
        n--;
    }
    return n > 0 ? gsl_stats_mean(apart, 1, n) : 1.0;
}

/* In rows that are missing what was driven last stands. */
static void take_rows(const rgp_history *h, const char *loop, uint32_t measured, uint32_t driven, const placed *in,
                      rgp_process_rows *to)
{
    const rgp_loop_pace pace = rgp_loop_pace_of(rgp_history_image(h), loop);
    for (size_t i = 0, at = 0; i < in->count; i++) {
        const uint64_t row = in->from + i;
        for (; at < in->place[i]; at++) {
            to->value[at] = (double)NAN;
            to->driven[at] = to->driven[at - 1];
        }
        const bool usable = rgp_loop_steps(h, &pace, row) && rgp_usable(rgp_history_quality(h, measured, row));
        to->value[at] = usable ? (double)rgp_history_value(h, measured, row) : (double)NAN;
        to->driven[at++] = (double)rgp_history_value(h, driven, row);
        to->readings += usable;
    }
    to->held_by = held_by(h, loop, in, to);
    to->step_s = to->row_s * rows_apart(to->value, to->rows);
}

const char *rgp_process_rows_of(const rgp_history *h, const rgp_process_names *names, uint64_t from, uint64_t to,
                                rgp_process_rows *rows)
{
    const int32_t measured = rgp_history_named(h, names->measured), driven = rgp_history_named(h, names->actuator);
    *rows = (rgp_process_rows){.rows = 0};
    if (measured < 0 || driven < 0) {
        return measured < 0 ? names->measured : names->actuator;
    }
    rows->row_s = (double)rgp_history_image(h)->tick_us / 1e6;
    placed in = place_rows(h, from, to);
    rows->rows = in.count > 0 ? in.place[in.count - 1] + 1 : 0;
    rows->begin_s = (double)rgp_history_time_us(h, from) / 1e6;
    rows->driven = g_malloc_n(rows->rows + 1, sizeof(double));
    rows->value = g_malloc_n(rows->rows + 1, sizeof(double));
    take_rows(h, names->loop, (uint32_t)measured, (uint32_t)driven, &in, rows);
    g_free(in.place);
    return NULL;
}

void rgp_process_rows_clear(rgp_process_rows *r)
{
    g_free(r->driven);
    g_free(r->value);
}
