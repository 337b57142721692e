/* Hints about rules, guards, actuators and sequences of a run. */
#include "rule_advice.h"

#include "near.h"

#include "explain/disassembly.h"
#include "rigpulse/engine.h"
#include "rigpulse/image.h"

#include <gsl/gsl_sort.h>

#include <math.h>
#include <string.h>

#define FAST_S      0.5
#define FAST_TICKS  10.0
#define FAST_SHARE  0.3
#define TOGETHER    4u  /* firings of a pair at least */
#define GUARDED     0.5 /* of the time */
#define TAKEN       10u /* times that an actuator is taken */
#define SHORTLY_S   1.0 /* that an owner has it */
#define RAISED      0.5 /* of the time that an actuator is driven */
#define RAISED_ROWS 50u
#define FAILED      3u   /* beginnings of a sequence */
#define ALL_OF_IT   0.95 /* of the short stays */
#define STEPS_BACK  64u
#define SLOWER      0.99   /* beside what a jittering pace comes to */
#define TICKS_APART 65536u /* more are as many */
#define LOOKED_S    10.0   /* a shorter run says nothing of what never came to pass */

typedef struct looking {
    const rgp_recording *from;
    const rgp_history *h;
    const rgp_image_header *image;
    double tick_s, length_s;
    GArray **fired; /* by rule: times, double */
    double *pace;   /* by sensor: seconds; NAN: nobody has asked */
    uint32_t rules;
    GPtrArray *found;
} looking;

static void hint_free(gpointer data)
{
    rgp_hint *h = data;
    g_free(h->says);
    g_free(h);
}

static void add(looking *l, const char *next, const char *format, ...) G_GNUC_PRINTF(3, 4);
static void add(looking *l, const char *next, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    rgp_hint *h = g_new(rgp_hint, 1);
    *h = (rgp_hint){g_strdup_vprintf(format, arguments), next};
    va_end(arguments);
    g_ptr_array_add(l->found, h);
}

static uint32_t line_of(const looking *l, uint32_t rule)
{
    const rgp_image_name *name = rgp_image_name_of(l->image, RGP_NAME_RULE, rule, 0);
    return name ? name->line : 0;
}

static double fired_at(const looking *l, uint32_t rule, guint i)
{
    return g_array_index(l->fired[rule], double, i);
}

/* ---- rules ------------------------------------------------------------------------------------------ */

/* A 'while', and an 'every', are to fire again and again. */
static bool repeats(const looking *l, uint32_t rule)
{
    const rgp_image_rule *is = (const rgp_image_rule *)rgp_image_at(l->image, RGP_SECTION_RULES) + rule;
    rgp_decoded step;
    return is->repeats || (rgp_disassembly_writer(l->image, is->trigger, UINT32_MAX, &step) && step.op == RGP_OP_EVERY);
}

static void look_for_chatter(looking *l, uint32_t rule)
{
    const guint n = l->fired[rule]->len;
    const double fast_s = fmax(FAST_S, FAST_TICKS * l->tick_s);
    g_autofree double *fast = g_new0(double, n + 1);
    guint count = 0;
    for (guint i = 1; i < n; i++) {
        const double apart = fired_at(l, rule, i) - fired_at(l, rule, i - 1);
        fast[count] = apart;
        count += apart <= fast_s;
    }
    gsl_sort(fast, 1, count);
    if (!repeats(l, rule) && n >= RGP_CHATTER_LEAST && (double)count > FAST_SHARE * (double)n) {
        add(l,
            "a margin or 'for' lets it fire once: 'rigpulse threshold' finds them from this recording; 'holdoff' "
            "bounds "
            "how often",
            "line %u chatters: it fired %u times, %u of them within %.2g s of the one before; 'for %.2g s' is longer "
            "than most of that",
            line_of(l, rule), n, count, fast_s, fast[(guint)(ALL_OF_IT * (count - 1))] + l->tick_s);
    }
}

static void look_for_miss(looking *l, uint32_t rule)
{
    if (l->fired[rule]->len > 0 || l->length_s < LOOKED_S) {
        return;
    }
    g_autoptr(GArray) near = rgp_near_of(l->from, rule, 1, NULL);
    if (!near || near->len == 0) {
        return;
    }
    const rgp_near *is = &g_array_index(near, rgp_near, 0);
    const double when = (double)rgp_history_time_us(l->h, is->row) / 1e6;
    const rgp_image_name *of =
        is->slot != RGP_REF_NONE ? rgp_image_name_of(l->image, RGP_NAME_SLOT, is->slot, 0) : NULL;
    if (isfinite(is->amount) && of) {
        const char *unit = rgp_image_unit(l->image, RGP_NAME_SLOT, is->slot, 0);
        add(l, "'rigpulse why' tells what else it takes",
            "line %u never fired; it was nearest at %.3f s, where '%s' lacked %.3g%s%s", line_of(l, rule), when,
            rgp_image_text(l->image, RGP_NAME_SLOT, is->slot, 0), is->amount, *unit ? " " : "", unit);
    } else {
        add(l, "'rigpulse why' tells what it lacked", "line %u never fired; it was nearest at %.3f s", line_of(l, rule),
            when);
    }
}

static void look_for_pair(looking *l, uint32_t rule)
{
    for (uint32_t other = rule + 1; other < l->rules; other++) {
        const guint n = l->fired[rule]->len;
        bool same = n >= TOGETHER && l->fired[other]->len == n;
        for (guint i = 0; i < n && same; i++) {
            same = fabs(fired_at(l, rule, i) - fired_at(l, other, i)) < 0.5 * l->tick_s;
        }
        if (same) {
            add(l, "one rule can do both", "lines %u and %u fire as a pair: %u times, each time in the same tick",
                line_of(l, rule), line_of(l, other), n);
        }
    }
}

static void look_for_drops(looking *l, uint32_t rule)
{
    const GPtrArray *all = rgp_history_occurrences(l->h);
    const uint32_t line = line_of(l, rule);
    guint dropped = 0;
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        dropped += o->kind == RGP_EVENT_DROPPED && o->line == line;
    }
    if (dropped >= RGP_CHATTER_LEAST && dropped > 2 * l->fired[rule]->len) {
        add(l, "a shorter action or holdoff takes more of them",
            "line %u drops most of its events: it fired %u times, and %u events came while it acted or held off", line,
            l->fired[rule]->len, dropped);
    }
}

/* The seconds from one new reading of a sensor to the next, the median, so that gaps count for nothing; 0: it had none.
 * All rows have to be gone through, once for a sensor. */
static double pace_of(const looking *l, uint32_t sensor)
{
    if (!isnan(l->pace[sensor])) {
        return l->pace[sensor];
    }
    const uint32_t newness = rgp_history_newness(l->h, sensor);
    const int32_t column = rgp_history_slot(l->h, rgp_image_sensor_slot(l->image, sensor));
    uint64_t apart = 0, readings = 0, below = 0;
    g_autofree uint64_t *times = g_new0(uint64_t, TICKS_APART + 1);
    bool counts = false; /* from a good reading on; what is bad counts as new in each tick */
    for (uint64_t row = rgp_history_first(l->h); column >= 0 && row < rgp_history_end(l->h); row++) {
        apart++;
        if (!rgp_usable(rgp_history_quality(l->h, (uint32_t)column, row))) {
            counts = false;
        } else if (rgp_history_value(l->h, newness, row) != 0.0f) {
            times[MIN(apart, TICKS_APART)] += counts;
            readings += counts;
            counts = true;
            apart = 0;
        }
    }
    uint32_t median = 0;
    while (2 * below < readings) {
        below += times[++median];
    }
    return l->pace[sensor] = median * l->tick_s;
}

typedef struct search {
    uint32_t steps;  /* that may still be looked at: ways may join and part again */
    int32_t slowest; /* sensor; -1: none yet */
    double pace;     /* seconds, of that */
} search;

/* The slowest of the sensors that a slot is made of. */
static void look_behind(const looking *l, uint16_t slot, uint32_t before, search *s)
{
    const uint32_t first = rgp_image_sensor_slot(l->image, 0);
    rgp_decoded step;
    if (slot >= first && slot < rgp_image_actuator_slot(l->image, 0)) {
        const double pace = pace_of(l, slot - first);
        s->slowest = pace > s->pace ? (int32_t)(slot - first) : s->slowest;
        s->pace = fmax(pace, s->pace);
    } else if (slot < RGP_REF_NONE && s->steps > 0 && rgp_disassembly_writer(l->image, slot, before, &step)) {
        s->steps--;
        for (uint32_t i = 0; i < rgp_ops[step.op].inputs; i++) {
            look_behind(l, step.in[i], step.place, s);
        }
    }
}

/* A 'for' that is shorter than the pace of its sensor lets a single wild reading pass. */
static void look_for_slow_sensor(looking *l, uint32_t rule)
{
    const rgp_image_rule *is = (const rgp_image_rule *)rgp_image_at(l->image, RGP_SECTION_RULES) + rule;
    rgp_decoded step;
    bool any = is->trigger < RGP_REF_NONE && rgp_disassembly_writer(l->image, is->trigger, UINT32_MAX, &step);
    if (any && step.op == RGP_OP_EDGE) { /* of an 'on': that it becomes so */
        any = rgp_disassembly_writer(l->image, step.in[0], step.place, &step);
    }
    if (!any || step.op != RGP_OP_LASTS || step.run->live) {
        return;
    }
    const double asked = (double)((const rgp_lasts_config *)rgp_decoded_config(&step))->time;
    search s = {STEPS_BACK, -1, 0.0};
    look_behind(l, step.in[0], step.place, &s);
    if (s.slowest >= 0 && asked < SLOWER * s.pace) {
        add(l, "a longer 'for', or a quicker sensor",
            "line %u asks for %.2g s, and '%s' has a new reading every %.2g s: a single one is enough for it",
            line_of(l, rule), asked,
            rgp_image_text(l->image, RGP_NAME_SLOT, rgp_image_sensor_slot(l->image, (uint32_t)s.slowest), 0), s.pace);
    }
}

/* ---- actuators -------------------------------------------------------------------------------------- */

static void look_at_owner(looking *l, uint32_t actuator)
{
    const uint32_t column = rgp_history_owner(l->h, actuator);
    const uint64_t first = rgp_history_first(l->h), end = rgp_history_end(l->h);
    const char *name = rgp_image_text(l->image, RGP_NAME_SLOT, rgp_image_actuator_slot(l->image, actuator), 0);
    const double shortly = SHORTLY_S / l->tick_s;
    uint64_t guarded = 0, since = first;
    uint32_t taken = 0;
    float before = (float)RGP_OWNER_REST;
    for (uint64_t row = first; row < end; row++) {
        const float owner = rgp_history_value(l->h, column, row);
        guarded += owner == (float)RGP_OWNER_GUARD;
        if (owner != before) {
            const bool claims = owner < (float)RGP_OWNER_FAULT && before < (float)RGP_OWNER_FAULT;
            taken += claims && (double)(row - since) < shortly;
            since = row;
        }
        before = owner;
    }
    if ((double)guarded > GUARDED * (double)(end - first)) {
        add(l, "the rules ask for what the guard forbids: 'rigpulse why' tells which one",
            "a guard keeps '%s' from what is asked for %.0f %% of the time", name,
            100.0 * (double)guarded / (double)(end - first));
    }
    if (taken >= TAKEN) {
        add(l, "a margin, or one rule in place of two, ends that: 'rigpulse why' tells who they are",
            "'%s' is taken by one owner from another %u times within %.2g s", name, taken, SHORTLY_S);
    }
}

/* An actuator that is asked for less than moves it is raised to what does, and jerks. */
static void look_at_least(looking *l, uint32_t actuator)
{
    const rgp_image_actuator *is = (const rgp_image_actuator *)rgp_image_at(l->image, RGP_SECTION_ACTUATORS) + actuator;
    const uint32_t slot = rgp_image_actuator_slot(l->image, actuator);
    const int32_t column = rgp_history_slot(l->h, slot);
    uint64_t moved = 0, raised = 0;
    for (uint64_t row = rgp_history_first(l->h); column >= 0 && is->least > 0.0f && row < rgp_history_end(l->h);
         row++) {
        const float value = rgp_history_value(l->h, (uint32_t)column, row);
        moved += value != 0.0f;
        raised += fabsf(value) == is->least;
    }
    if (moved > RAISED_ROWS && (double)raised > RAISED * (double)moved) {
        add(l, "it is asked for less than moves it: a dead band, or a weaker actuator, lets it rest",
            "'%s' is at its least, %.3g, for %.0f %% of the time that it is driven",
            rgp_image_text(l->image, RGP_NAME_SLOT, slot, 0), (double)is->least,
            100.0 * (double)raised / (double)moved);
    }
}

/* ---- sequences -------------------------------------------------------------------------------------- */

static void look_at_sequences(looking *l)
{
    const GPtrArray *all = rgp_history_occurrences(l->h);
    g_autoptr(GHashTable) failed = g_hash_table_new(g_str_hash, g_str_equal);
    g_autoptr(GHashTable) ended = g_hash_table_new(g_str_hash, g_str_equal);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        GHashTable *of = o->kind == RGP_EVENT_FAILED ? failed : o->kind == RGP_EVENT_FINISHED ? ended : NULL;
        if (of) {
            g_hash_table_insert(of, o->of, GUINT_TO_POINTER(GPOINTER_TO_UINT(g_hash_table_lookup(of, o->of)) + 1));
        }
    }
    GHashTableIter iterator;
    gpointer name, count;
    g_hash_table_iter_init(&iterator, failed);
    while (g_hash_table_iter_next(&iterator, &name, &count)) {
        if (GPOINTER_TO_UINT(count) >= FAILED && !g_hash_table_contains(ended, name)) {
            add(l, "'rigpulse list' has the step at which it failed: its condition, or its time limit, does not fit",
                "'%s' failed %u times, and never came to its end", (const char *)name, GPOINTER_TO_UINT(count));
        }
    }
}

/* ---- all of it -------------------------------------------------------------------------------------- */

static void take_firings(looking *l)
{
    const GPtrArray *all = rgp_history_occurrences(l->h);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        for (uint32_t rule = 0; o->kind == RGP_EVENT_FIRED && rule < l->rules; rule++) {
            if (line_of(l, rule) == o->line) {
                g_array_append_val(l->fired[rule], o->time);
            }
        }
    }
}

static void look(looking *l)
{
    for (uint32_t rule = 0; rule < l->rules; rule++) {
        look_for_chatter(l, rule);
        look_for_miss(l, rule);
        look_for_pair(l, rule);
        look_for_drops(l, rule);
        look_for_slow_sensor(l, rule);
    }
    for (uint32_t i = 0; i < rgp_image_count(l->image, RGP_SECTION_ACTUATORS); i++) {
        look_at_owner(l, i);
        look_at_least(l, i);
    }
    look_at_sequences(l);
}

GPtrArray *rgp_hints_of(const rgp_recording *from)
{
    looking l = {.from = from, .h = from->history, .image = rgp_history_image(from->history)};
    l.rules = rgp_image_count(l.image, RGP_SECTION_RULES);
    l.tick_s = l.image->tick_us / 1e6;
    l.length_s = l.tick_s * (double)(rgp_history_end(l.h) - rgp_history_first(l.h));
    l.found = g_ptr_array_new_with_free_func(hint_free);
    l.fired = g_new(GArray *, l.rules + 1);
    for (uint32_t rule = 0; rule < l.rules; rule++) {
        l.fired[rule] = g_array_new(FALSE, FALSE, sizeof(double));
    }
    l.pace = g_new(double, rgp_image_count(l.image, RGP_SECTION_SENSORS) + 1);
    for (uint32_t i = 0; i < rgp_image_count(l.image, RGP_SECTION_SENSORS); i++) {
        l.pace[i] = (double)NAN;
    }
    take_firings(&l);
    look(&l);
    for (uint32_t rule = 0; rule < l.rules; rule++) {
        g_array_unref(l.fired[rule]);
    }
    g_free(l.fired);
    g_free(l.pace);
    return l.found;
}
