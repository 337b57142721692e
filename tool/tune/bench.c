/* The rig in simulated time, for tests that begin where they are told to. */
#include "runtime/interrupt.h"
#include "tune.h"

#include "runtime/door.h"
#include "explain/describe.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

#define SETTLES_AT_MOST 6.0
#define RAMPS_AT_MOST   100.0 /* times a test's time, as the one before */
#define CALMS_AT_MOST   6
#define RAMPED          1e-5 /* relative: what rounding leaves */
#define CALMER          0.7  /* of the range that the error had before */
#define BEFORE_SHARE    1.0  /* of a test's time, that is looked at before it */

struct tune_bench {
    tuning *t;
    rgp_rig *rig;
    rgp_door_setup setup;
    rgp_door *door;
    rgp_history *history; /* of the door; nobody else looks at it */
    uint64_t ticks;
    double gain[TUNE_VALUES];
    int side;     /* of its setpoint on which the loop has been; 0: not yet */
    bool crossed; /* it has been on both */
    bool testing;
    char *broken; /* why the test is broken off; NULL: it is not */
};

static bool take_frame(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    tune_bench *b = self;
    const rgp_event *event = rgp_frame_event(layout, frame);
    b->ticks++;
    for (uint32_t i = 0; i < frame->events && b->testing && !b->broken; i++) {
        b->broken = tune_breaks_off(b->t, &event[i]);
    }
    return true;
}

tune_bench *tune_bench_new(tuning *t, const double *gain, GError **error)
{
    rgp_rig *rig = tune_rig(t, gain, error);
    if (!rig) {
        return NULL;
    }
    tune_bench *b = g_new0(tune_bench, 1);
    b->t = t;
    b->rig = rig;
    b->setup = (rgp_door_setup){.rig = rig,
                                .seed = t->seed,
                                .fast = true,
                                .stepped = true,
                                .history = true,
                                .on_word = true,
                                .frame = take_frame,
                                .self = b};
    b->door = rgp_door_open(&b->setup, error);
    if (b->door) {
        b->history = rgp_door_look(b->door);
        rgp_door_look_away(b->door);
    }
    memcpy(b->gain, gain, sizeof b->gain);
    if (b->door && !tune_bench_gains(b, gain)) {
        g_set_error_literal(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "a gain is out of its range");
    } else if (b->door) {
        return b;
    }
    tune_bench_free(b);
    return NULL;
}

void tune_bench_free(tune_bench *b)
{
    if (b) {
        if (b->door) {
            rgp_door_end(b->door, NULL);
        }
        rgp_rig_free(b->rig);
        g_free(b->broken);
        g_free(b);
    }
}

double tune_bench_time(const tune_bench *b)
{
    return (double)b->ticks * b->t->image->tick_us / 1e6;
}

static bool ask(tune_bench *b, rgp_command_kind what, uint32_t which, double value)
{
    const rgp_command asked = {(uint8_t)what, RGP_BY_SCRIPT, (uint16_t)which, (float)value, 0.0f};
    return rgp_door_ask(b->door, &asked) == RGP_OK;
}

/* Of the newest row; before there is one, unknown. */
static rgp_reading value_of(const tune_bench *b, uint32_t slot)
{
    const uint32_t column = (uint32_t)rgp_history_slot(b->history, slot);
    return b->ticks == 0 ? (rgp_reading){0.0f, RGP_MISSING}
                         : (rgp_reading){rgp_history_value(b->history, column, b->ticks - 1),
                                         rgp_history_quality(b->history, column, b->ticks - 1)};
}

bool tune_bench_gains(tune_bench *b, const double *gain)
{
    bool all = true;
    for (uint32_t i = 0; i < b->t->gains; i++) {
        all &= ask(b, RGP_COMMAND_SET, b->t->is->gain[i], gain[i]);
        b->gain[i] = gain[i];
    }
    return all;
}

static void tick_to(tune_bench *b, uint64_t ticks)
{
    rgp_door_advance(b->door, ticks * b->t->image->tick_us);
}

/* False when there are no ticks any more. */
static bool tick(tune_bench *b)
{
    const uint64_t next = b->ticks + 1;
    tick_to(b, next);
    return b->ticks == next;
}

static uint64_t ticks_of(const tune_bench *b, double seconds)
{
    return (uint64_t)ceil(seconds * 1e6 / b->t->image->tick_us - 1e-9);
}

void tune_bench_wait(tune_bench *b, double seconds)
{
    tick_to(b, b->ticks + ticks_of(b, seconds));
}

/* The first sensor that sees what the loop drives, and can be placed; the number of sensors when there is none. */
static uint32_t placed_sensor(const tune_bench *b)
{
    const rgp_hookup *h = b->rig->hookup;
    const char *why;
    for (uint32_t i = 0; i < h->sensors; i++) {
        const rgp_sensor_item *p = &h->sensor[i];
        if (p->kind->source == RGP_SOURCE_MECHANISM &&
            h->mechanism[p->mechanism].actuator[0] == (int32_t)b->t->is->actuator &&
            rgp_door_hand_unit(b->door, (uint16_t)p->sensor, &why)) {
            return p->sensor;
        }
    }
    return rgp_image_count(b->t->image, RGP_SECTION_SENSORS);
}

bool tune_bench_place(tune_bench *b, const char *text, char **why)
{
    const uint32_t sensor = placed_sensor(b);
    const char *wrong;
    double to;
    if (sensor == rgp_image_count(b->t->image, RGP_SECTION_SENSORS)) {
        *why = g_strdup("what this loop drives cannot be placed by hand");
        return false;
    }
    const char *unit = rgp_door_hand_unit(b->door, (uint16_t)sensor, &wrong);
    if (!rgp_quantity_parse(text, unit, &to, &wrong)) {
        *why = g_strdup_printf("place %s: %s; it can be placed in %s", text, wrong, *unit ? unit : "bare numbers");
        return false;
    }
    ask(b, RGP_COMMAND_PLACE, sensor, to);
    tune_bench_wait(b, rgp_door_placing(b->door, (uint16_t)sensor));
    ask(b, RGP_COMMAND_LET_GO, sensor, 0.0);
    return true;
}

void tune_bench_clear(tune_bench *b)
{
    ask(b, RGP_COMMAND_CLEAR, 0, 0.0);
    ask(b, RGP_COMMAND_RESUME, 0, 0.0);
}

/* RGP_LOOP_..., as its last step has left it. */
static uint8_t phase_of(const tune_bench *b)
{
    return (uint8_t)value_of(b, b->t->is->first + RGP_TERM_PHASE).value;
}

/* True while its setpoint is on the way to what is asked for. */
static bool ramps(const tune_bench *b)
{
    const double asked = tune_setpoint(b->t, b->history);
    const double at = (double)value_of(b, b->t->is->first + RGP_TERM_TARGET).value;
    return phase_of(b) == RGP_LOOP_ENGAGED && fabs(at - asked) > RAMPED * fmax(fabs(at), fabs(asked));
}

/* Driving, and off its limits; one that knows of none, once it has been on either side of its setpoint. */
static bool at_work(tune_bench *b)
{
    const rgp_image_loop *l = b->t->is;
    const float error = value_of(b, l->first + RGP_TERM_ERROR).value;
    const int side = error > 0.0f ? 1 : -1;
    b->crossed |= b->side != 0 && side != b->side;
    b->side = side;
    const bool limited =
        l->terms > RGP_TERM_SATURATED ? value_of(b, l->first + RGP_TERM_SATURATED).value != 0.0f : !b->crossed;
    return phase_of(b) == RGP_LOOP_ENGAGED && !limited && !ramps(b);
}

/* Between the least and the greatest error since some ticks ago. */
static double range_of(const tune_bench *b, uint64_t ticks)
{
    const int32_t column = rgp_history_slot(b->history, b->t->is->first + RGP_TERM_ERROR);
    const rgp_extent is = rgp_history_extent(b->history, (uint32_t)column, b->ticks - MIN(ticks, b->ticks), b->ticks);
    return is.usable > 0 ? (double)(is.greatest - is.least) : 0.0;
}

/* As long as it gets calmer. */
static void wait_for_calm(tune_bench *b)
{
    const uint64_t look = ticks_of(b, b->t->over);
    double before = INFINITY, now = range_of(b, look);
    for (int i = 0; i < CALMS_AT_MOST && now < CALMER * before && !interrupt_asked(); i++) {
        before = now;
        tune_bench_wait(b, b->t->over);
        now = range_of(b, look);
    }
}

void tune_bench_settle(tune_bench *b)
{
    const uint64_t calm = ticks_of(b, b->t->over);
    const uint64_t latest = b->ticks + (uint64_t)(RAMPS_AT_MOST * (double)calm);
    uint64_t last = b->ticks + (uint64_t)(SETTLES_AT_MOST * (double)calm);
    for (uint64_t worked = 0; worked < calm && b->ticks < last && tick(b);) {
        worked = at_work(b) ? worked + 1 : 0;
        last = ramps(b) ? MIN(b->ticks + (uint64_t)(SETTLES_AT_MOST * (double)calm), latest) : last;
    }
    wait_for_calm(b);
}

static void set_test(tune_bench *b, tune_test test, double size)
{
    if (test != TUNE_DISTURB) {
        ask(b, RGP_COMMAND_SET, test == TUNE_STEP ? b->t->is->trim : b->t->is->bias, size);
    }
}

static char *not_begun(const tune_bench *b, uint8_t phase)
{
    if (phase != RGP_LOOP_WAITING) {
        return g_strdup_printf("not begun: the loop is %s", rgp_loop_phase_word(phase));
    }
    const rgp_reading error = value_of(b, b->t->is->first + RGP_TERM_ERROR);
    g_autoptr(GString) waits = g_string_new(NULL);
    rgp_describe_waiting(b->t->image, b->t->loop, error.value, error.quality, waits);
    return g_strdup_printf("not begun: the loop %s", waits->str);
}

guint tune_bench_test(tune_bench *b, tune_test test, double size, uint32_t disturbance, char **why)
{
    if (b->ticks == 0) { /* nothing is known yet */
        tick(b);
    }
    if (test == TUNE_STEP && !tune_step_fits(b->t, tune_setpoint(b->t, b->history), size, why)) {
        return 0;
    }
    const uint8_t phase = phase_of(b);
    const uint64_t look_back = MIN(b->ticks, ticks_of(b, BEFORE_SHARE * b->t->over)), begin = b->ticks;
    g_clear_pointer(&b->broken, g_free);
    if (phase != RGP_LOOP_ENGAGED) {
        b->broken = not_begun(b, phase);
    } else if (test == TUNE_DISTURB) {
        ask(b, RGP_COMMAND_DISTURB, disturbance, 0.0);
    } else {
        set_test(b, test, size);
    }
    b->testing = true;
    for (const uint64_t end = begin + ticks_of(b, b->t->over); b->ticks < end && !b->broken;) {
        const bool ticked = tick(b);
        b->broken = !ticked && !b->broken ? g_strdup("interrupted") : b->broken;
    }
    b->testing = false;
    set_test(b, test, 0.0);
    const bool lost = b->broken && phase_of(b) != RGP_LOOP_ENGAGED;
    if (b->broken) { /* nothing stays driven */
        ask(b, RGP_COMMAND_STOP, 0, 0.0);
        tick(b);
        ask(b, RGP_COMMAND_RESUME, 0, 0.0);
    }
    tune_try one = {.test = test,
                    .size = size,
                    .disturbance = disturbance,
                    .stopped = g_steal_pointer(&b->broken),
                    .lost = lost,
                    .rows = rgp_response_rows(b->history, b->t->loop, begin - look_back, b->ticks),
                    .before = (uint32_t)look_back};
    memcpy(one.gain, b->gain, sizeof one.gain);
    return tune_add(b->t, &one);
}
