/* Doubts about a threshold: why nothing can be promised, each in a sentence with the way out. */
#include "threshold_parts.h"

#include "explain/describe.h"

#include <gsl/gsl_sort.h>

#include <math.h>
#include <string.h>

#define CLUMP_LEAST 8u
#define CLUMP_DOUBT 2.0 /* a dispersion beyond which triggers are called clumped */
#define AREA_LEAST  0.9
#define APART       3.0 /* times the spread of medians of blocks: recordings that differ by more drift */

static void refuse(rgp_threshold_study *s, const char *format, ...) G_GNUC_PRINTF(2, 3);

static void refuse(rgp_threshold_study *s, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_ptr_array_add(s->refusal, g_strdup_vprintf(format, arguments));
    va_end(arguments);
}

static double time_of(const rgp_labels *l, const rgp_rows *rows)
{
    return (double)rgp_recording_time_us(l->run[rows->run], rows->from) / 1e6;
}

/* Idle pieces that go higher than a quarter of all events do. */
static void look_for_events_in_idle(rgp_threshold_study *s, const rgp_trigger_scores *scores)
{
    const rgp_labels *l = s->labels;
    g_autofree double *event = g_malloc_n(l->event->len + 1, sizeof *event);
    g_autoptr(GString) times = g_string_new(NULL);
    memcpy(event, scores->event, l->event->len * sizeof *event);
    gsl_sort(event, 1, l->event->len);
    const double quartile = event[l->event->len / 4];
    guint count = 0;
    for (guint i = 0; i < l->piece->len; i++) {
        const rgp_rows *piece = &g_array_index(l->piece, rgp_rows, i);
        if (scores->piece[i] > quartile && count++ < 5) {
            g_string_append_printf(times, "%s%.0f s", count > 1 ? ", " : "", time_of(l, piece));
        }
    }
    if (count > 0 && s->chosen.area >= AREA_LEAST) {
        refuse(s,
               "in '%s' there is what looks like '%s' (%s%s): take it out with 'rigpulse mark', or give it that name",
               l->idle_name, l->event_name, times->str, count > 5 ? ", ..." : "");
    }
}

static void look_for_drift(rgp_threshold_study *s)
{
    const rgp_labels *l = s->labels;
    double least = (double)INFINITY, most = -(double)INFINITY, spread = 0.0;
    for (guint i = 0; i < l->runs && l->runs > 1; i++) {
        const rgp_idle_level of = rgp_idle_level_of(s->series, 0, l, i);
        if (!isnan(of.median)) {
            least = fmin(least, of.median);
            most = fmax(most, of.median);
            spread = fmax(spread, fmax(of.spread, of.sigma));
        }
    }
    if (most - least > APART * spread && isfinite(most)) {
        g_autoptr(GString) apart = g_string_new(NULL);
        rgp_describe_number(most - least, s->chosen.unit, apart);
        refuse(s,
               "the recordings lie %s apart when idle, more than they wander themselves: it drifts, or they were made "
               "in other places; take a baseline out of it ('%s - (%s | smooth 1 min)')",
               apart->str, s->chosen.value, s->chosen.value);
    }
}

/* Two classes of one spread overlap by 10 % when they lie 1.8 spreads apart. */
static void look_for_overlap(rgp_threshold_study *s, const rgp_trigger_scores *scores)
{
    const rgp_labels *l = s->labels;
    if (s->chosen.area >= AREA_LEAST) {
        return;
    }
    g_autoptr(GString) need = g_string_new(NULL);
    g_autofree double *piece = g_malloc_n(l->piece->len + 1, sizeof *piece);
    memcpy(piece, scores->piece, l->piece->len * sizeof *piece);
    gsl_sort(piece, 1, l->piece->len);
    const double tenth = piece[l->piece->len - 1 - l->piece->len / 10];
    rgp_describe_number(s->chosen.trigger.above ? tenth : -tenth, s->chosen.unit, need);
    refuse(s,
           "'%s' and '%s' cannot be told apart by %s: a 2 s piece of idle time goes as far as an event in %.0f of 100 "
           "comparisons; nine of ten events would have to go beyond %s",
           l->idle_name, l->event_name, s->chosen.value, 100.0 * (1.0 - s->chosen.area), need->str);
}

static void look_at_limit(rgp_threshold_study *s, const rgp_threshold_request *r)
{
    const rgp_image_sensor *sensor = rgp_image_at(r->rig->image, RGP_SECTION_SENSORS);
    const int32_t which = rgp_image_find(r->rig->image, RGP_FIND_SENSOR, s->chosen.value);
    const double limit = (double)s->chosen.trigger.limit, near = 2.0 * s->idle.count;
    if (which >= 0 && (limit > (double)sensor[which].supervision.high - near ||
                       limit < (double)sensor[which].supervision.low + near)) {
        refuse(s, "the limit lies within two counts of the end of what %s can read", s->chosen.value);
    } else if (fabs(limit - s->idle.median) <= near) {
        refuse(s, "the limit lies within two counts of where '%s' usually is", s->labels->idle_name);
    }
}

static void look_at_promise(rgp_threshold_study *s)
{
    const rgp_finding *f = &s->chosen;
    if (2 * f->missed > f->events && f->area >= AREA_LEAST) {
        refuse(s,
               "it misses %u of %u events: a limit that lets fewer of them through unseen would fire in '%s' too often",
               f->missed, f->events, s->labels->idle_name);
    }
    if (f->dispersion > CLUMP_DOUBT && f->clumps < CLUMP_LEAST) {
        refuse(s,
               "false triggers come in clumps: %u in %u clumps; a rate of so few of them can be promised of no other "
               "day: record on other days",
               f->seen, f->clumps);
    } else if (f->false_rate.high > s->cost.events_an_hour && f->area >= AREA_LEAST) {
        g_autoptr(GString) rate = g_string_new(NULL), needed = g_string_new(NULL);
        rgp_describe_estimate(f->false_rate.high, rate);
        rgp_describe_span(3600.0 * rgp_exposure_for(s->cost.events_an_hour, f->level), needed);
        refuse(s,
               "false triggers may come more often than events (up to %s an hour, against %g): to promise at most %g, "
               "record %s of '%s' in which it does not fire and that does not choose",
               rate->str, s->cost.events_an_hour, s->cost.events_an_hour, needed->str, s->labels->idle_name);
    }
}

void threshold_doubt(rgp_threshold_study *s, const rgp_threshold_request *r)
{
    const rgp_trigger_scores *scores = rgp_finding_scores(&s->widths, &s->chosen);
    const rgp_labels *l = s->labels;
    if (l->event->len < RGP_EVENTS_LEAST) {
        refuse(s, "%u event%s '%s': at least %u are needed to say what share is missed", l->event->len,
               l->event->len == 1 ? "" : "s", l->event_name, RGP_EVENTS_LEAST);
    }
    if (l->block->len < RGP_BLOCKS_LEAST) {
        g_autoptr(GString) block = g_string_new(NULL), needed = g_string_new(NULL);
        rgp_describe_span(s->block_s, block);
        rgp_describe_span((RGP_BLOCKS_LEAST - l->block->len) * s->block_s, needed);
        refuse(
            s,
            "'%s' gives %u blocks of %s: at least %u are needed, so that half of them can judge; record %s more of it",
            l->idle_name, l->block->len, block->str, RGP_BLOCKS_LEAST, needed->str);
    }
    look_for_overlap(s, scores);
    look_for_events_in_idle(s, scores);
    look_for_drift(s);
    look_at_limit(s, r);
    look_at_promise(s);
}
