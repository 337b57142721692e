/* Rows of a loop: each tick of a history, with the reading where the loop steps on it. */
#include "process_rows.h"

#include "explain/disassembly.h"
#include "rigpulse/image.h"

#include <gsl/gsl_sort.h>
#include <gsl/gsl_statistics_double.h>
#include <math.h>

/* The sensors of which one has to be new for the loop to step; 0: it steps in every tick. */
static uint32_t pace_of(const rgp_image_header *image, const char *loop, const uint16_t **sensor)
{
    const int32_t phase = rgp_image_find(image, RGP_FIND_SLOT, loop); /* what a loop is called is its phase */
    rgp_decoded step;
    if (phase < 0 || !rgp_disassembly_writer(image, (uint16_t)phase, UINT32_MAX, &step) || step.pace == 0) {
        return 0;
    }
    const rgp_image_pace *pace = (const rgp_image_pace *)rgp_image_at(image, RGP_SECTION_PACES) + step.pace - 1;
    *sensor = (const uint16_t *)rgp_image_at(image, RGP_SECTION_PACE_SENSORS) + pace->first;
    return pace->sensors;
}

static bool is_new(const rgp_history *h, const uint16_t *sensor, uint32_t sensors, uint64_t row)
{
    bool any = sensors == 0;
    for (uint32_t i = 0; i < sensors; i++) {
        any |= rgp_history_value(h, rgp_history_newness(h, sensor[i]), row) != 0.0f;
    }
    return any;
}

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

static double held_by(const rgp_history *h, const char *loop, uint64_t from, size_t rows)
{
    const rgp_image_header *image = rgp_history_image(h);
    const rgp_image_loop *is = loop_of(image, rgp_image_find(image, RGP_FIND_SLOT, loop));
    rgp_decoded step;
    if (!is || is->gain[0] == RGP_REF_NONE || !rgp_disassembly_writer(image, is->first, UINT32_MAX, &step) ||
        step.op != RGP_OP_PID) {
        return 0.0;
    }
    const uint32_t owner = rgp_history_owner(h, is->actuator);
    for (size_t i = 0; i < rows; i++) {
        if (rgp_history_value(h, owner, from + i) != (float)is->claim) {
            return 0.0;
        }
    }
    const bool reverse = ((const rgp_pid_loop_config *)step.config)->pid.reverse != 0;
    return (reverse ? -1.0 : 1.0) * (double)rgp_history_setting(h, is->gain[0], from);
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

static void take_rows(const rgp_history *h, const char *loop, uint32_t measured, uint32_t driven, uint64_t from,
                      rgp_process_rows *to)
{
    const uint16_t *sensor = NULL;
    const uint32_t sensors = pace_of(rgp_history_image(h), loop, &sensor);
    for (size_t i = 0; i < to->rows; i++) {
        const bool usable =
            is_new(h, sensor, sensors, from + i) && rgp_usable(rgp_history_quality(h, measured, from + i));
        to->value[i] = usable ? (double)rgp_history_value(h, measured, from + i) : (double)NAN;
        to->driven[i] = (double)rgp_history_value(h, driven, from + i);
        to->readings += usable;
    }
    to->held_by = held_by(h, loop, from, to->rows);
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
    rows->rows = (size_t)(to - from);
    rows->begin_s = (double)rgp_history_time_us(h, from) / 1e6;
    rows->driven = g_malloc_n(rows->rows + 1, sizeof(double));
    rows->value = g_malloc_n(rows->rows + 1, sizeof(double));
    take_rows(h, names->loop, (uint32_t)measured, (uint32_t)driven, from, rows);
    return NULL;
}

void rgp_process_rows_clear(rgp_process_rows *r)
{
    g_free(r->driven);
    g_free(r->value);
}
