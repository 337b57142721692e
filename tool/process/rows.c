/* Rows of a loop out of a history: what is driven in each tick, and what is measured where it is new. */
#include "rows.h"

#include "explain/disassembly.h"

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

typedef struct columns {
    uint32_t measured, driven;
} columns;

static bool find_columns(const subject *s, const rgp_history *h, columns *to)
{
    const rgp_image_header *image = rgp_history_image(h);
    const int32_t measured = rgp_image_find(image, RGP_FIND_SLOT, s->measured),
                  driven = rgp_image_find(image, RGP_FIND_SLOT, s->actuator);
    const int32_t y = measured < 0 ? -1 : rgp_history_slot(h, (uint32_t)measured),
                  u = driven < 0 ? -1 : rgp_history_slot(h, (uint32_t)driven);
    *to = (columns){(uint32_t)y, (uint32_t)u};
    return (y >= 0 && u >= 0) ||
           subject_refuse(s, "the recording does not hold '%s'", y < 0 ? s->measured : s->actuator);
}

/* From one step of the loop to the next, on average. */
static double pace_s(const subject *s, size_t first, size_t last, size_t news)
{
    return news > 1 ? s->row_s * (double)(last - first) / (double)(news - 1) : s->row_s;
}

bool rows_take(subject *s, const rgp_history *h, uint64_t from, uint64_t to)
{
    columns in;
    const uint16_t *sensor = NULL;
    const uint32_t sensors = pace_of(rgp_history_image(h), s->name, &sensor);
    if (!find_columns(s, h, &in)) {
        return false;
    }
    size_t first = 0, last = 0, news = 0;
    s->row_s = (double)rgp_history_image(h)->tick_us / 1e6;
    s->rows = (size_t)(to - from);
    s->begin_s = (double)rgp_history_time_us(h, from) / 1e6;
    s->driven = g_malloc_n(s->rows + 1, sizeof(double));
    s->value = g_malloc_n(s->rows + 1, sizeof(double));
    for (size_t i = 0; i < s->rows; i++) {
        const bool new = is_new(h, sensor, sensors, from + i),
                   usable = new &&rgp_usable(rgp_history_quality(h, in.measured, from + i));
        first = new &&news == 0 ? i : first;
        last = new ? i : last;
        news += new;
        s->value[i] = usable ? (double)rgp_history_value(h, in.measured, from + i) : (double)NAN;
        s->driven[i] = (double)rgp_history_value(h, in.driven, from + i);
        s->readings += usable;
    }
    s->tick = pace_s(s, first, last, news);
    return true;
}
