/* Tests of what a loop drives: about a place, by a size to either side. */
#include "test.h"

#include "tool/names.h"
#include "tool/rigfile.h"
#include "tool/stand.h"

#include "analysis/noise.h"
#include "rigpulse/edit.h"
#include "runtime/interrupt.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define EACH_S     20.0 /* how long each piece is */
#define SHARE      0.1  /* of the travel: how far it goes */
#define TIMES_MOST 100u
#define HELD_TICKS 100.0 /* how long each push is, while the loop holds it */
#define HELD_TIMES 5
#define SETTLES_S  5.0  /* that a loop is given to engage, and to come to rest */
#define RELAY_MOST 60.0 /* times as long as a piece, that a relay is let swing */
#define NOISES     4.0  /* the margin of a relay */
#define STEPS      2.0  /* likewise, in the least differences of what is measured */

typedef struct plan {
    uint32_t actuator;
    double at, size, each;
    double within; /* measured units: it may go no farther than that from where it was; 0: anywhere */
    guint64 times;
    uint64_t seed;
} plan;

/* ---- what is asked for ----------------------------------------------------------------------------- */

static bool parse(const subject *s, const char *option, const char *text, const char *unit, double *to)
{
    const char *why;
    return !text || rgp_quantity_parse(text, unit, to, &why) || command_fails(s->self, "%s %s: %s", option, text, why);
}

/* ---- the tests ------------------------------------------------------------------------------------- */

static double newest(const subject *s, const stand *on)
{
    const uint32_t column = (uint32_t)rgp_history_slot(on->history, s->loop->measured);
    const bool usable = on->rows > 0 && rgp_usable(rgp_history_quality(on->history, column, on->rows - 1));
    return usable ? (double)rgp_history_value(on->history, column, on->rows - 1) : (double)NAN;
}

/* For as long, or until it has gone too far: then the test is over. */
static void go_on(subject *s, stand *on, const plan *p, double seconds)
{
    const double tick = (double)((const rgp_image_header *)s->rig->image)->tick_us / 1e6;
    if (p->within <= 0.0) {
        stand_tick_for(on, seconds);
        return;
    }
    for (double left = seconds; left > tick / 2.0 && !s->strayed && !interrupt_asked(); left -= tick) {
        stand_tick_for(on, tick);
        s->began_at = on->rows == 1 ? newest(s, on) : s->began_at;
        s->strayed = fabs(newest(s, on) - s->began_at) > p->within;
    }
}

static bool is_over(const subject *s)
{
    return s->strayed || interrupt_asked();
}

static void hold(subject *s, stand *on, const plan *p, double way)
{
    if (!is_over(s)) {
        stand_hand(on, p->actuator, p->at + way * p->size);
        go_on(s, on, p, p->each);
    }
}

/* Up, down, down, up, and back where it began: what drifts evenly takes itself away. */
static bool drive_pulses(subject *s, stand *on, const plan *p)
{
    static const double way[] = {1.0, -1.0, -1.0, 1.0};
    hold(s, on, p, 0.0);
    for (guint64 i = 0; i < p->times; i++) {
        for (size_t k = 0; k < G_N_ELEMENTS(way); k++) {
            hold(s, on, p, way[k]);
        }
    }
    hold(s, on, p, 0.0);
    return true;
}

/* The same again, half as far: what has a play or sticks answers that with less than half. */
static bool drive_halves(subject *s, stand *on, const plan *p)
{
    plan half = *p;
    half.size = p->size / 2.0;
    drive_pulses(s, on, p);
    s->half_from = on->rows;
    return drive_pulses(s, on, &half);
}

static bool drive_step(subject *s, stand *on, const plan *p)
{
    hold(s, on, p, 0.0);
    for (guint64 i = 0; i < p->times; i++) {
        hold(s, on, p, 1.0);
    }
    return true;
}

/* A slot's values by tick, from a row on; to be freed. */
static double *column_of(const stand *on, uint32_t slot, uint64_t from)
{
    double *value = g_malloc0_n(on->rows - from + 1, sizeof *value);
    const uint32_t column = (uint32_t)rgp_history_slot(on->history, slot);
    for (uint64_t row = from; row < on->rows; row++) {
        const bool usable = rgp_usable(rgp_history_quality(on->history, column, row));
        value[row - from] = usable ? (double)rgp_history_value(on->history, column, row) : (double)NAN;
    }
    return value;
}

static double mean_of(const double *value, uint64_t count)
{
    double sum = 0.0, n = 0.0;
    for (uint64_t i = 0; i < count; i++) {
        sum += isnan(value[i]) ? 0.0 : value[i];
        n += isnan(value[i]) ? 0.0 : 1.0;
    }
    return n > 0.0 ? sum / n : (double)NAN;
}

/* About where it has come to; its noise says how far it has to go until the relay turns. */
static void begin_relay(const subject *s, const stand *on, const plan *p, rgp_relay *relay)
{
    g_autofree double *before = column_of(on, s->loop->measured, 0);
    const rgp_noise noise = rgp_noise_of(before, on->rows);
    rgp_relay_begin(relay, p->at, p->size, mean_of(before + on->rows / 2, on->rows - on->rows / 2),
                    fmax(NOISES * noise.sigma, STEPS * noise.step), s->falls);
}

static bool drive_relay(subject *s, stand *on, const plan *p)
{
    const double tick = (double)((const rgp_image_header *)s->rig->image)->tick_us / 1e6;
    hold(s, on, p, 0.0);
    begin_relay(s, on, p, &s->relay);
    const uint64_t from = on->rows, most = from + (uint64_t)(RELAY_MOST * p->each / tick);
    double driven = NAN;
    while (!rgp_relay_is_over(&s->relay) && on->rows < most && !is_over(s)) {
        const double next = rgp_relay_step(&s->relay, newest(s, on));
        if (next != driven) {
            stand_hand(on, p->actuator, fmin(fmax(next, p->at - 2.0 * p->size), p->at + 2.0 * p->size));
        }
        driven = next;
        go_on(s, on, p, tick);
    }
    g_autofree double *y = column_of(on, s->loop->measured, from),
                      *u = column_of(on, rgp_image_actuator_slot(s->rig->image, p->actuator), from);
    const char *why = rgp_relay_answer_of(&s->relay, u, y, &s->swing);
    s->swung = why == NULL;
    return s->swung || is_over(s) ||
           command_fails(s->self, "the relay about %.4g %s: %s", s->relay.target, s->measured_unit, why);
}

/* The loop stays in charge, and what it drives is pushed to and fro. */
static void push(subject *s, stand *on, const plan *p, double way)
{
    if (!is_over(s)) {
        stand_set(on, s->loop->bias, way * p->size);
        go_on(s, on, p, p->each);
    }
}

static bool drive_held(subject *s, stand *on, const plan *p)
{
    static const double way[] = {1.0, -1.0, -1.0, 1.0};
    push(s, on, p, 0.0);
    for (guint64 i = 0; i < p->times; i++) {
        for (size_t k = 0; k < G_N_ELEMENTS(way); k++) {
            push(s, on, p, way[k]);
        }
    }
    push(s, on, p, 0.0);
    return true;
}

static bool was_held(const subject *s)
{
    return (s->of.held_by != 0.0 && s->of.held == s->of.rows) ||
           command_fails(s->self,
                         "'%s' was not in charge all the time, it is to hold what it measures before it "
                         "is pushed and while it is: begin with gains that do, or push less (--size)",
                         s->name);
}

static const struct test {
    const char *word;
    bool (*drive)(subject *s, stand *on, const plan *p);
    bool held; /* the loop stays in charge; else the hand drives */
} tests[] = {{"pulses", drive_pulses, false},
             {"halves", drive_halves, false},
             {"step", drive_step, false},
             {"relay", drive_relay, false},
             {"held", drive_held, true}};

/* NULL, which has been said: there is none. */
static const struct test *find_test(const subject *s)
{
    const char *words[G_N_ELEMENTS(tests)];
    for (size_t i = 0; i < G_N_ELEMENTS(tests); i++) {
        words[i] = tests[i].word;
        if (strcmp(s->o->test ? s->o->test : tests[0].word, words[i]) == 0) {
            return &tests[i];
        }
    }
    names_refuse(s->self, "--test", "test", s->o->test, words, G_N_ELEMENTS(tests));
    return NULL;
}

/* A mechanism that falls by itself does so as soon as the hand takes it from its loop. */
static bool can_be_tested(const subject *s)
{
    const rgp_hookup *h = s->rig->hookup;
    for (uint32_t i = 0; h && i < h->mechanisms; i++) {
        const rgp_mechanism_item *m = &h->mechanism[i];
        for (uint32_t k = 0; m->kind->falls && k < RGP_KIND_TERMINALS_MAX; k++) {
            if (m->actuator[k] == (int32_t)s->loop->actuator) {
                return command_fails(s->self,
                                     "'%s' falls by itself, so it cannot be driven by hand: '--test held' pushes it "
                                     "while its loop holds it",
                                     m->name);
            }
        }
    }
    return true;
}

static bool find_plan(const subject *s, const struct test *test, plan *p)
{
    const subject_options *o = s->o;
    const rgp_image_actuator *a =
        (const rgp_image_actuator *)rgp_image_at(s->rig->image, RGP_SECTION_ACTUATORS) + s->loop->actuator;
    const double low = (double)a->low, high = (double)a->high;
    *p = (plan){.actuator = s->loop->actuator,
                .at = a->rest > a->low && a->rest < a->high ? (double)a->rest : (low + high) / 2.0,
                .size = SHARE * (high - low),
                .each =
                    test->held ? HELD_TICKS * (double)((const rgp_image_header *)s->rig->image)->tick_us / 1e6 : EACH_S,
                .times = test->held ? HELD_TIMES : 1};
    if (test->held && o->at) {
        return command_fails(s->self, "--at is where the hand drives it; in this test its loop does");
    }
    if (!parse(s, "--at", o->at, s->driven_unit, &p->at) || !parse(s, "--size", o->size, s->driven_unit, &p->size) ||
        !parse(s, "--each", o->each, "s", &p->each) || !parse(s, "--within", o->within, s->moved_unit, &p->within) ||
        !command_seed(s->self, o->seed, &p->seed)) {
        return false;
    }
    if (o->times && !g_ascii_string_to_unsigned(o->times, 10, 1, TIMES_MOST, &p->times, NULL)) {
        return command_fails(s->self, "--times %s: a whole number from 1 to %u", o->times, TIMES_MOST);
    }
    return (p->each > 0.0 && p->each < 1e6 && p->size > 0.0 &&
            (test->held || (p->at - p->size >= low && p->at + p->size <= high))) ||
           command_fails(
               s->self,
               "from --at %g %s by --size %g to either side, each for %g s: that does not lie within %g to %g %s",
               p->at, s->driven_unit, p->size, p->each, low, high, s->driven_unit);
}

/* By hand it waits at the place about which it is driven; held by its loop it engages, and settles. */
static bool begin_test(subject *s, const struct test *test, const plan *p, stand *on)
{
    g_autoptr(GError) error = NULL;
    const stand_setup setup = {p->seed, s->o->fast, test->held};
    if (!stand_begin(on, s->rig, &setup, &error)) {
        return command_fails(s->self, "%s", error->message);
    }
    if (!test->held) {
        stand_hand(on, p->actuator, p->at);
    }
    stand_tick_for(on, test->held ? fmax(SETTLES_S, 2.0 * p->each) : 2.0 * p->each);
    stand_note(on);
    return true;
}

bool test_run(subject *s)
{
    const struct test *test = find_test(s);
    plan p;
    stand on;
    if (!test || !(test->held || can_be_tested(s)) || !find_plan(s, test, &p) ||
        !rigfile_fits_port(s->self, s->rig, s->o->fast, s->o->seed != NULL, false)) {
        return false;
    }
    bool sound = begin_test(s, test, &p, &on);
    if (sound) {
        sound = test->drive(s, &on, &p);
        if (!test->held) {
            stand_release(&on, p.actuator);
        }
        s->interrupted = interrupt_asked();
        if (s->interrupted) {
            printf("interrupted; %s is at rest, and no model was made\n", s->actuator);
        }
        if (s->strayed && !s->interrupted) {
            sound = command_fails(s->self,
                                  "'%s' has left %.4g %s about %.4g %s, so the test was stopped and '%s' rests: take a "
                                  "smaller --size, or more room",
                                  s->measured, p.within, s->moved_unit, s->began_at, s->measured_unit, s->actuator);
        }
        sound = sound && !s->interrupted && subject_rows(s, on.history, 0, on.rows) && (!test->held || was_held(s));
    }
    stand_end(&on);
    return sound;
}
