/* The figures of a run. */
#include "scores.h"

#include "response.h"

#include "rigpulse/image.h"

#include <math.h>

#define ROWS_LEAST   30u
#define BEFORE_LEAST 10u
#define BEFORE_SHARE 0.25 /* of the rows that are looked at, and from before them, for what a loop does by itself */

typedef struct scoring {
    rgp_history *h;
    const rgp_image_header *image;
    uint64_t from, to; /* rows */
    GArray *all;
} scoring;

static void put(const scoring *s, char *name, const char *unit, rgp_score is)
{
    is.name = name;
    is.unit = g_strdup(unit);
    g_array_append_val(s->all, is);
}

static double seconds_of(const scoring *s, uint64_t row)
{
    return (double)rgp_history_time_us(s->h, row) / 1e6;
}

/* The microseconds for which a row stands: until the next one. Times are summed in whole ones. */
static uint64_t lasting(const scoring *s, uint64_t row)
{
    const uint64_t last = rgp_history_end(s->h) - 1;
    return row < last ? rgp_history_time_us(s->h, row + 1) - rgp_history_time_us(s->h, row) : s->image->tick_us;
}

/* ---- loops ----------------------------------------------------------------------------------------- */

static void put_loop(const scoring *s, uint32_t loop)
{
    const rgp_image_loop *l = rgp_image_loop_at(s->image, loop);
    const char *name = rgp_image_text(s->image, RGP_NAME_LOOP, loop, 0),
               *unit = rgp_image_unit(s->image, RGP_NAME_SLOT, l->first + RGP_TERM_ERROR, 0),
               *output = rgp_image_unit(s->image, RGP_NAME_SLOT, rgp_image_actuator_slot(s->image, l->actuator), 0);
    const uint64_t wanted = (uint64_t)(BEFORE_SHARE * (double)(s->to - s->from)),
                   before = CLAMP(wanted, BEFORE_LEAST, MAX(s->from - rgp_history_first(s->h), BEFORE_LEAST));
    const uint64_t begin = s->from >= before ? s->from - before : 0;
    g_autoptr(GArray) rows = rgp_response_rows(s->h, loop, begin, s->to);
    const uint32_t at = (uint32_t)(s->from >= before ? before : BEFORE_LEAST);
    rgp_response r;
    if (!rgp_response_of((const rgp_response_row *)(void *)rows->data, rows->len, at, RGP_RESPONSE_DISTURBANCE, 0.0,
                         0.0, 0.0, &r)) {
        return;
    }
    g_autofree char *area = g_strdup_printf("%s*s", unit);
    const bool came = !isnan(r.settling) && (r.verdict == RGP_VERDICT_SETTLED || r.verdict == RGP_VERDICT_BACK ||
                                             r.verdict == RGP_VERDICT_TOO_SHORT);
    const struct {
        const char *what, *unit;
        double value;
        bool never, positive, rare; /* rare: of a loop that swings */
    } figures[] = {
        {"settling", "s", came ? r.settling : NAN, !came, true, false},
        {"peak", unit, r.peak, false, true, false},
        {"steady error", unit, fabs(r.steady), false, false, false},
        {"IAE", area, r.iae, false, true, false},
        {"effort", output, r.effort, false, false, false},
        {"saturated", "s", r.saturated, false, false, false},
        {"switchings", "/h", r.switchings, false, false, false},
        {"decay ratio", "", r.decay, false, false, true},
        {"period", "s", r.period, false, true, true},
    };
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        if (!isnan(figures[i].value) || figures[i].never) {
            put(s, g_strdup_printf("%s %s", name, figures[i].what), figures[i].unit,
                (rgp_score){.value = figures[i].value,
                            .never = figures[i].never,
                            .positive = figures[i].positive,
                            .main = !figures[i].rare,
                            .taste = figures[i].rare ? RGP_SCORE_NEITHER : RGP_SCORE_LESS});
        }
    }
}

/* ---- rules and actuators --------------------------------------------------------------------------- */

static void put_rules(const scoring *s)
{
    const GPtrArray *events = rgp_history_occurrences(s->h);
    const double begin = seconds_of(s, s->from), end = seconds_of(s, s->to - 1);
    for (uint32_t i = 0; i < rgp_image_count(s->image, RGP_SECTION_RULES); i++) {
        const rgp_image_name *rule = rgp_image_name_of(s->image, RGP_NAME_RULE, i, 0);
        double fired = 0.0, first = 0.0, last = 0.0;
        for (guint k = 0; k < events->len; k++) {
            const rgp_occurrence *o = events->pdata[k];
            if (o->kind == RGP_EVENT_FIRED && rule && o->line == rule->line && o->time >= begin && o->time <= end) {
                first = fired > 0.0 ? first : o->time;
                last = o->time;
                fired++;
            }
        }
        /* by its words: its line is another one in another text */
        put(s, g_strdup_printf("fired: %s", rgp_image_text(s->image, RGP_NAME_RULE, i, 0)), "",
            (rgp_score){.value = fired, .main = true});
        if (fired > 1.0) {
            put(s, g_strdup_printf("interval: %s", rgp_image_text(s->image, RGP_NAME_RULE, i, 0)), "s",
                (rgp_score){.value = (last - first) / (fired - 1.0), .positive = true});
        }
    }
}

static void put_actuator(const scoring *s, uint32_t actuator)
{
    const rgp_image_actuator *a = (const rgp_image_actuator *)rgp_image_at(s->image, RGP_SECTION_ACTUATORS) + actuator;
    const uint32_t slot = rgp_image_actuator_slot(s->image, actuator);
    const char *name = rgp_image_text(s->image, RGP_NAME_SLOT, slot, 0);
    const uint32_t column = (uint32_t)rgp_history_slot(s->h, slot);
    uint64_t driven = 0;
    double switched = 0.0;
    bool before = false;
    for (uint64_t row = s->from; row < s->to; row++) {
        const bool is = rgp_history_value(s->h, column, row) != a->rest;
        driven += is ? lasting(s, row) : 0;
        switched += is && !before;
        before = is;
    }
    put(s, g_strdup_printf("%s driven", name), "s", (rgp_score){.value = (double)driven / 1e6, .main = true});
    put(s, g_strdup_printf("%s switchings", name), "", (rgp_score){.value = switched, .main = true});
}

/* ---- signals --------------------------------------------------------------------------------------- */

static void put_bands(const scoring *s, uint32_t slot, const char *name)
{
    const uint32_t column = (uint32_t)rgp_history_slot(s->h, slot);
    const uint64_t begin = rgp_history_time_us(s->h, s->from),
                   all = rgp_history_time_us(s->h, s->to - 1) + lasting(s, s->to - 1) - begin;
    for (uint32_t part = 0; rgp_image_name_of(s->image, RGP_NAME_PART, slot, part); part++) {
        uint64_t in = 0;
        for (uint64_t row = s->from; row < s->to; row++) {
            const bool is = rgp_usable(rgp_history_quality(s->h, column, row)) &&
                            rgp_history_value(s->h, column, row) == (float)part;
            in += is ? lasting(s, row) : 0;
        }
        put(s, g_strdup_printf("%s %s", name, rgp_image_text(s->image, RGP_NAME_PART, slot, part)), "%",
            (rgp_score){.value = 100.0 * (double)in / (double)all});
    }
}

/* The mean first, so that the spread is that of differences: no digits are lost. */
static void put_signal(const scoring *s, uint32_t slot, const char *name)
{
    const uint32_t column = (uint32_t)rgp_history_slot(s->h, slot);
    const char *unit = rgp_image_unit(s->image, RGP_NAME_SLOT, slot, 0);
    const rgp_extent extent = rgp_history_extent(s->h, column, s->from, s->to);
    double sum = 0.0, squares = 0.0, n = 0.0;
    for (int pass = 0; pass < 2; pass++) {
        for (uint64_t row = s->from; row < s->to; row++) {
            if (rgp_usable(rgp_history_quality(s->h, column, row))) {
                const double value = (double)rgp_history_value(s->h, column, row), off = pass ? value - sum / n : 0.0;
                squares += off * off;
                sum += pass ? 0.0 : value;
                n += pass ? 0.0 : 1.0;
            }
        }
    }
    if (n < 2.0) {
        return;
    }
    const struct {
        const char *what;
        double value;
    } figures[] = {{"mean", sum / n},
                   {"spread", sqrt(squares / (n - 1.0))},
                   {"least", (double)extent.least},
                   {"greatest", (double)extent.greatest}};
    for (size_t i = 0; i < G_N_ELEMENTS(figures); i++) {
        put(s, g_strdup_printf("%s %s", name, figures[i].what), unit, (rgp_score){.value = figures[i].value});
    }
}

static bool is_term(const scoring *s, uint32_t slot)
{
    const rgp_image_loop *loop = rgp_image_at(s->image, RGP_SECTION_LOOPS);
    bool is = false;
    for (uint32_t i = 0; i < rgp_image_count(s->image, RGP_SECTION_LOOPS); i++) {
        is |= slot >= loop[i].first && slot < loop[i].first + loop[i].terms;
    }
    return is;
}

/* The values that the text names, but for parameters, actuators and terms of loops, which stand above. */
static void put_values(const scoring *s)
{
    const uint32_t params = rgp_image_count(s->image, RGP_SECTION_PARAMS), first = rgp_image_actuator_slot(s->image, 0),
                   last = first + rgp_image_count(s->image, RGP_SECTION_ACTUATORS);
    for (uint32_t slot = params; slot < s->image->slots; slot++) {
        const rgp_image_name *is = rgp_image_name_of(s->image, RGP_NAME_SLOT, slot, 0);
        if (!is || rgp_history_slot(s->h, slot) < 0 || (slot >= first && slot < last) || is_term(s, slot)) {
            continue;
        }
        const char *name = rgp_image_text(s->image, RGP_NAME_SLOT, slot, 0);
        if (rgp_image_name_of(s->image, RGP_NAME_PART, slot, 0)) {
            put_bands(s, slot, name);
        } else {
            put_signal(s, slot, name);
        }
    }
}

static void clear_score(void *self)
{
    rgp_score *score = self;
    g_free(score->name);
    g_free(score->unit);
}

GArray *rgp_scores_of(rgp_history *h, uint64_t from_us, uint64_t to_us, bool all)
{
    scoring s = {.h = h, .image = rgp_history_image(h), .all = g_array_new(FALSE, TRUE, sizeof(rgp_score))};
    g_array_set_clear_func(s.all, clear_score);
    s.from = MAX(rgp_history_find(h, from_us), rgp_history_first(h));
    s.to = rgp_history_find(h, to_us);
    if (s.to < s.from + ROWS_LEAST) {
        return s.all;
    }
    for (uint32_t i = 0; i < rgp_image_count(s.image, RGP_SECTION_LOOPS); i++) {
        put_loop(&s, i);
    }
    put_rules(&s);
    for (uint32_t i = 0; i < rgp_image_count(s.image, RGP_SECTION_ACTUATORS); i++) {
        put_actuator(&s, i);
    }
    if (all) {
        put_values(&s);
    }
    return s.all;
}
