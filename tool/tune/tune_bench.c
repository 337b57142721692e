/* The rig in simulated time, for tests that begin where they are told to. */
#include "runtime/interrupt.h"
#include "tune.h"

#include "sim/sim.h"
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
    rp_rig *rig;
    rp_engine engine;
    void *memory;
    rp_sim *sim;
    rp_history *history;
    rp_frame_shape shape;
    rp_frame *frame;
    uint64_t ticks;
    double gain[TUNE_VALUES];
    int side;     /* of its setpoint on which the loop has been; 0: not yet */
    bool crossed; /* it has been on both */
    bool testing;
    char *broken; /* why the test is broken off; NULL: it is not */
};

static void take_event(void *self, const rp_event *event)
{
    tune_bench *b = self;
    rp_frame_add_event(&b->shape, b->frame, event);
    if (b->testing && !b->broken) {
        b->broken = tune_breaks_off(b->t, event);
    }
}

tune_bench *tune_bench_new(tuning *t, const double *gain, GError **error)
{
    rp_rig *rig = tune_rig(t, gain, error);
    rp_sim *sim = rig ? rp_sim_new(rig, t->seed, false, error) : NULL;
    if (!sim) {
        rp_rig_free(rig);
        return NULL;
    }
    tune_bench *b = g_new0(tune_bench, 1);
    b->t = t;
    b->rig = rig;
    b->sim = sim;
    interrupt_guard(rp_sim_port(sim));
    rp_sim_wait_for_word(sim);
    b->memory = g_malloc0(t->image->memory);
    rp_engine_open(&b->engine, rig->image, rig->image_size, b->memory, t->image->memory);
    b->history = rp_history_new(rig->image, RP_HISTORY_BYTES);
    b->shape = rp_frame_shape_of(t->image);
    b->frame = g_malloc0(b->shape.bytes);
    rp_engine_listen(&b->engine, take_event, b);
    memcpy(b->gain, gain, sizeof b->gain);
    if (!tune_bench_gains(b, gain)) {
        tune_bench_free(b);
        g_set_error_literal(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "a gain is out of its range");
        return NULL;
    }
    return b;
}

void tune_bench_free(tune_bench *b)
{
    if (b) {
        rp_engine_rest(&b->engine, rp_sim_port(b->sim));
        interrupt_guard(NULL);
        rp_sim_free(b->sim);
        rp_rig_free(b->rig);
        rp_history_free(b->history);
        g_free(b->frame);
        g_free(b->memory);
        g_free(b->broken);
        g_free(b);
    }
}

double tune_bench_time(const tune_bench *b)
{
    return (double)b->ticks * b->t->image->tick_us / 1e6;
}

bool tune_bench_gains(tune_bench *b, const double *gain)
{
    bool all = true;
    for (uint32_t i = 0; i < b->t->gains; i++) {
        all &= rp_engine_set(&b->engine, b->t->is->gain[i], (float)gain[i]) == RP_OK;
        b->gain[i] = gain[i];
    }
    return all;
}

static void tick(tune_bench *b)
{
    const rp_port *port = rp_sim_port(b->sim);
    port->sleep_until(port->self, b->ticks * b->t->image->tick_us);
    *b->frame = (rp_frame){.number = b->ticks};
    rp_engine_tick(&b->engine, port);
    rp_frame_take(&b->shape, b->frame, &b->engine);
    rp_history_frame(b->history, &b->shape, b->frame);
    b->ticks++;
}

static uint64_t ticks_of(const tune_bench *b, double seconds)
{
    return (uint64_t)ceil(seconds * 1e6 / b->t->image->tick_us - 1e-9);
}

void tune_bench_wait(tune_bench *b, double seconds)
{
    for (const uint64_t end = b->ticks + ticks_of(b, seconds); b->ticks < end && !interrupt_asked();) {
        tick(b);
    }
}

/* The first sensor that sees what the loop drives, and can be placed; the number of sensors when there is none. */
static uint32_t placed_sensor(const tune_bench *b)
{
    const rp_hookup *h = b->rig->hookup;
    for (uint32_t i = 0; i < h->pickups; i++) {
        const rp_pickup_item *p = &h->pickup[i];
        if (p->kind->source == RP_PICKUP_MECHANISM &&
            h->mechanism[p->mechanism].actuator[0] == (int32_t)b->t->is->actuator &&
            rp_sim_hand_unit(b->sim, p->sensor)) {
            return p->sensor;
        }
    }
    return rp_image_count(b->t->image, RP_SECTION_SENSORS);
}

bool tune_bench_place(tune_bench *b, const char *text, char **why)
{
    const uint32_t sensor = placed_sensor(b);
    const char *wrong;
    double to;
    if (sensor == rp_image_count(b->t->image, RP_SECTION_SENSORS)) {
        *why = g_strdup("what this loop drives cannot be placed by hand");
        return false;
    }
    const char *unit = rp_sim_hand_unit(b->sim, sensor);
    if (!rp_quantity_parse(text, unit, &to, &wrong)) {
        *why = g_strdup_printf("place %s: %s; it can be placed in %s", text, wrong, *unit ? unit : "bare numbers");
        return false;
    }
    tune_bench_wait(b, rp_sim_place(b->sim, sensor, to));
    rp_sim_let_go(b->sim, sensor);
    return true;
}

void tune_bench_clear(tune_bench *b)
{
    rp_engine_clear(&b->engine);
    rp_engine_resume(&b->engine);
}

/* RP_LOOP_..., as its last step has left it. */
static uint8_t phase_of(const tune_bench *b)
{
    return (uint8_t)rp_engine_value(&b->engine, b->t->is->first + RP_TERM_PHASE).value;
}

/* True while its setpoint is on the way to what is asked for. */
static bool ramps(const tune_bench *b)
{
    const double asked = tune_setpoint(b->t, b->history);
    const double at = (double)rp_engine_value(&b->engine, b->t->is->first + RP_TERM_TARGET).value;
    return phase_of(b) == RP_LOOP_ENGAGED && fabs(at - asked) > RAMPED * fmax(fabs(at), fabs(asked));
}

/* Driving, and off its limits; one that knows of none, once it has been on either side of its setpoint. */
static bool at_work(tune_bench *b)
{
    const rp_image_loop *l = b->t->is;
    const float error = rp_engine_value(&b->engine, l->first + RP_TERM_ERROR).value;
    const int side = error > 0.0f ? 1 : -1;
    b->crossed |= b->side != 0 && side != b->side;
    b->side = side;
    const bool limited = l->terms > RP_TERM_SATURATED
                             ? rp_engine_value(&b->engine, l->first + RP_TERM_SATURATED).value != 0.0f
                             : !b->crossed;
    return phase_of(b) == RP_LOOP_ENGAGED && !limited && !ramps(b);
}

/* Between the least and the greatest error since some ticks ago. */
static double range_of(const tune_bench *b, uint64_t ticks)
{
    const int32_t column = rp_history_slot(b->history, b->t->is->first + RP_TERM_ERROR);
    const rp_extent is = rp_history_extent(b->history, (uint32_t)column, b->ticks - MIN(ticks, b->ticks), b->ticks);
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
    for (uint64_t worked = 0; worked < calm && b->ticks < last && !interrupt_asked();) {
        tick(b);
        worked = at_work(b) ? worked + 1 : 0;
        last = ramps(b) ? MIN(b->ticks + (uint64_t)(SETTLES_AT_MOST * (double)calm), latest) : last;
    }
    wait_for_calm(b);
}

static void set_test(tune_bench *b, tune_test test, double size)
{
    if (test != TUNE_DISTURB) {
        rp_engine_set(&b->engine, test == TUNE_STEP ? b->t->is->trim : b->t->is->push, (float)size);
    }
}

static char *not_begun(const tune_bench *b, uint8_t phase)
{
    if (phase != RP_LOOP_WAITING) {
        return g_strdup_printf("not begun: the loop is %s", rp_loop_phase_word(phase));
    }
    const rp_reading error = rp_engine_value(&b->engine, b->t->is->first + RP_TERM_ERROR);
    g_autoptr(GString) waits = g_string_new(NULL);
    rp_tell_waiting(b->t->image, b->t->loop, error.value, error.quality, waits);
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
    if (phase != RP_LOOP_ENGAGED) {
        b->broken = not_begun(b, phase);
    } else if (test == TUNE_DISTURB) {
        rp_sim_disturb(b->sim, disturbance);
    } else {
        set_test(b, test, size);
    }
    b->testing = true;
    for (const uint64_t end = begin + ticks_of(b, b->t->over); b->ticks < end && !b->broken;) {
        tick(b);
        b->broken = interrupt_asked() && !b->broken ? g_strdup("interrupted") : b->broken;
    }
    b->testing = false;
    set_test(b, test, 0.0);
    if (b->broken) { /* nothing stays driven */
        rp_engine_stop(&b->engine);
        tick(b);
        rp_engine_resume(&b->engine);
    }
    tune_try one = {.test = test,
                    .size = size,
                    .disturbance = disturbance,
                    .stopped = g_steal_pointer(&b->broken),
                    .rows = rp_response_rows(b->history, b->t->loop, begin - look_back, b->ticks),
                    .before = (uint32_t)look_back};
    memcpy(one.gain, b->gain, sizeof one.gain);
    return tune_add(b->t, &one);
}
