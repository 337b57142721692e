/* The subject of a model: a loop, and what was driven and measured of it in a recording or in a test. */
#include "subject.h"

#include "tool/names.h"
#include "tool/reading.h"
#include "tool/rigfile.h"
#include "tool/stand.h"

#include "explain/disassembly.h"
#include "rigpulse/edit.h"
#include "runtime/interrupt.h"
#include "runtime/moment.h"

#include <math.h>

#define EACH_S     20.0 /* of a test: how long each piece is */
#define SHARE      0.1  /* of the travel: how far it goes */
#define FIT_LEAST  80.0 /* percent; a model that fits less is called bad */
#define NOISES     6.0  /* that the answer has to move at least */
#define WIDE_GAIN  0.3  /* of the gain: half the width of its interval from which on it is not known */
#define WIDE_LAG   0.5  /* likewise of the logarithm of the lag */
#define LAG_TICKS  3.0  /* a lag that is shorter is too fast for the tick */
#define LOAD_SHARE 0.5  /* of the weight: from there on a load that walks is what was seen */
#define LATE_SHARE 0.02 /* of a slow sensor's readings: so many may come at another tick than at every n-th */

bool subject_refuse(const subject *s, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_autofree char *text = g_strdup_vprintf(format, arguments);
    va_end(arguments);
    command_refuse(s->self, "%s", text);
    return false;
}

/* ---- the loop -------------------------------------------------------------------------------------- */

static bool find_loop(subject *s, const char *path, const char *name)
{
    const rgp_image_header *image = s->rig->image;
    if (!names_loop_or_refuse(s->self, image, path, name, &s->number)) {
        return false;
    }
    s->loop = (const rgp_image_loop *)rgp_image_at(image, RGP_SECTION_LOOPS) + s->number;
    const uint32_t actuator = rgp_image_actuator_slot(image, s->loop->actuator), measured = s->loop->measured;
    if (measured & RGP_REF_CONSTANT || !rgp_image_name_of(image, RGP_NAME_SLOT, measured, 0)) {
        return subject_refuse(
            s, "what '%s' measures has no name: put 'signal it = ...' before the loop, and measure 'it'", name);
    }
    s->name = name;
    s->measured = rgp_image_text(image, RGP_NAME_SLOT, measured, 0);
    s->measured_unit = rgp_image_unit(image, RGP_NAME_SLOT, measured, 0);
    rgp_threshold value;
    s->moved_unit = rgp_rig_threshold_template(s->rig, s->measured, &value) ? value.margin.unit : s->measured_unit;
    s->actuator = rgp_image_text(image, RGP_NAME_SLOT, actuator, 0);
    s->driven_unit = rgp_image_unit(image, RGP_NAME_SLOT, actuator, 0);
    return true;
}

/* ---- what was recorded ----------------------------------------------------------------------------- */

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

/* Of a sensor that is slower than the tick: at every how many ticks the loop steps, and the first of these rows. Where
 * that is not regular, every row is taken as it is. */
static uint64_t stride_of(const rgp_history *h, const char *loop, uint64_t from, uint64_t to, uint64_t *first)
{
    const uint16_t *sensor = NULL;
    const uint32_t sensors = pace_of(rgp_history_image(h), loop, &sensor);
    uint64_t news = 0, last = from, other = 0;
    for (uint64_t row = from; row < to; row++) {
        if (is_new(h, sensor, sensors, row)) {
            *first = news++ == 0 ? row : *first;
            last = row;
        }
    }
    const uint64_t stride = news > 1 ? (last - *first + (news - 1) / 2) / (news - 1) : 1;
    for (uint64_t row = *first; row <= last && stride > 1; row++) {
        other += is_new(h, sensor, sensors, row) && (row - *first) % stride != 0;
    }
    const bool regular = stride > 1 && (double)other <= LATE_SHARE * (double)news;
    *first = regular ? *first : from;
    return regular ? stride : 1;
}

/* A row for each step of the loop, from one row of a history to before another. */
static bool take_rows(subject *s, const rgp_history *h, uint64_t from, uint64_t to)
{
    const rgp_image_header *image = rgp_history_image(h);
    const int32_t measured = rgp_image_find(image, RGP_FIND_SLOT, s->measured),
                  driven = rgp_image_find(image, RGP_FIND_SLOT, s->actuator);
    const int32_t y = measured < 0 ? -1 : rgp_history_slot(h, (uint32_t)measured),
                  u = driven < 0 ? -1 : rgp_history_slot(h, (uint32_t)driven);
    if (y < 0 || u < 0) {
        return subject_refuse(s, "the recording does not hold '%s'", y < 0 ? s->measured : s->actuator);
    }
    uint64_t first = from;
    const uint64_t stride = stride_of(h, s->name, from, to, &first);
    s->rows = (size_t)((to - first) / stride);
    s->stride = (uint32_t)stride;
    s->tick = (double)stride * image->tick_us / 1e6;
    s->begin_s = (double)rgp_history_time_us(h, first) / 1e6;
    s->driven = g_malloc0_n(s->rows + 1, sizeof(double));
    s->value = g_malloc_n(s->rows + 1, sizeof(double));
    for (size_t i = 0; i < s->rows; i++) {
        const uint64_t row = first + i * stride;
        const bool usable = rgp_usable(rgp_history_quality(h, (uint32_t)y, row));
        s->value[i] = usable ? (double)rgp_history_value(h, (uint32_t)y, row) : (double)NAN;
        for (uint64_t k = row; k < row + stride; k++) {
            s->driven[i] += (double)rgp_history_value(h, (uint32_t)u, k) / (double)stride;
        }
    }
    return true;
}

static bool find_moment(const subject *s, const char *option, const char *text, const rgp_history *h, uint64_t *row)
{
    double seconds;
    if (text && !rgp_moment_of(h, text, &seconds)) {
        return subject_refuse(s, "%s %s: it is no time, and the recording has no such mark and no such line that fired",
                              option, text);
    }
    *row = text ? rgp_history_find(h, (uint64_t)llround(fmax(0.0, seconds) * 1e6)) : *row;
    return true;
}

static bool read_recording(subject *s)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = reading_whole(s->o->from, &error);
    if (!r) {
        return subject_refuse(s, "%s", error->message);
    }
    uint64_t from = 0, to = r->rows;
    bool sound = find_moment(s, "--begin", s->o->begin, r->history, &from) &&
                 find_moment(s, "--until", s->o->until, r->history, &to);
    if (sound && to <= from) {
        sound = subject_refuse(s, "there is nothing between --begin and --until");
    }
    sound = sound && take_rows(s, r->history, from, to);
    rgp_recording_free(r);
    return sound;
}

/* ---- a test ---------------------------------------------------------------------------------------- */

static bool parse(const subject *s, const char *option, const char *text, const char *unit, double *to)
{
    const char *why;
    return !text || rgp_quantity_parse(text, unit, to, &why) || subject_refuse(s, "%s %s: %s", option, text, why);
}

/* Up, down, down, up, and back where it began: what drifts evenly takes itself away. */
static bool run_test(subject *s)
{
    static const double way[] = {0.0, 1.0, -1.0, -1.0, 1.0, 0.0};
    const uint32_t which = s->loop->actuator;
    const rgp_image_actuator *a =
        (const rgp_image_actuator *)rgp_image_at(s->rig->image, RGP_SECTION_ACTUATORS) + which;
    g_autoptr(GError) error = NULL;
    double at = (double)(a->rest > a->low && a->rest < a->high ? a->rest : (a->low + a->high) / 2.0f),
           size = SHARE * (double)(a->high - a->low), each = EACH_S;
    uint64_t seed;
    stand on;
    if (!parse(s, "--at", s->o->at, s->driven_unit, &at) || !parse(s, "--size", s->o->size, s->driven_unit, &size) ||
        !parse(s, "--each", s->o->each, "s", &each) || !command_seed(s->self, s->o->seed, &seed)) {
        return false;
    }
    if (!(each > 0.0 && each < 1e6) || !(size > 0.0) || at - size < (double)a->low || at + size > (double)a->high) {
        return subject_refuse(
            s, "from --at %g %s by --size %g to either side, each for %g s: that does not lie within %g to %g %s", at,
            s->driven_unit, size, each, (double)a->low, (double)a->high, s->driven_unit);
    }
    if (!rigfile_fits_port(s->self, s->rig, s->o->fast, s->o->seed != NULL, false)) {
        return false;
    }
    bool sound = stand_begin(&on, s->rig, seed, s->o->fast, &error) || subject_refuse(s, "%s", error->message);
    if (sound) {
        stand_hand(&on, which, at);
        stand_tick_for(&on, 2.0 * each);
        stand_note(&on);
        for (size_t i = 0; i < G_N_ELEMENTS(way) && !interrupt_asked(); i++) {
            stand_hand(&on, which, at + way[i] * size);
            stand_tick_for(&on, each);
        }
        stand_release(&on, which);
        sound =
            interrupt_asked() ? subject_refuse(s, "it was stopped, and rests") : take_rows(s, on.history, 0, on.rows);
    }
    stand_end(&on);
    return sound;
}

/* ---- all of it ------------------------------------------------------------------------------------- */

static bool options_fit(const subject *s)
{
    const subject_options *o = s->o;
    if (o->from && (o->at || o->size || o->each || o->seed || o->fast)) {
        return subject_refuse(s, "--at, --size, --each, --seed and --fast are of a test; a recording is as it is");
    }
    return o->from || (!o->begin && !o->until) || subject_refuse(s, "--begin and --until go with --from RECORDING");
}

bool subject_find(subject *s, const command *self, const subject_options *o, const char *path, const char *loop)
{
    *s = (subject){.self = self, .o = o, .measured_unit = "", .driven_unit = "", .moved_unit = ""};
    if (!options_fit(s)) {
        return false;
    }
    s->rig = rigfile_load(self, path);
    return s->rig && find_loop(s, path, loop);
}

bool subject_take(subject *s)
{
    return s->o->from ? read_recording(s) : run_test(s);
}

void subject_clear(subject *s)
{
    rgp_rig_free(s->rig);
    g_free(s->driven);
    g_free(s->value);
}

void subject_options_clear(subject_options *o)
{
    char *const all[] = {o->from, o->begin, o->until, o->at, o->size, o->each, o->seed};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        g_free(all[i]);
    }
}

rgp_process_data subject_data(const subject *s)
{
    return (rgp_process_data){s->driven, s->value, s->rows, s->tick};
}

/* ---- its model ------------------------------------------------------------------------------------- */

bool subject_fit(const subject *s, rgp_process *to)
{
    const rgp_process_data data = subject_data(s);
    return rgp_process_fit(&data, to) ||
           subject_refuse(
               s,
               "there is too little to learn from: at least 40 readings are needed, and '%s' has to be driven "
               "in different ways",
               s->actuator);
}

char *subject_gain_unit(const subject *s, const rgp_process *p)
{
    const bool integral = p->kind == RGP_PROCESS_INTEGRAL;
    return g_strdup_printf("%s/%s%s", *s->moved_unit ? s->moved_unit : "1", *s->driven_unit ? s->driven_unit : "1",
                           integral ? "/s" : "");
}

GPtrArray *subject_doubts(const subject *s, const rgp_process *p)
{
    GPtrArray *all = g_ptr_array_new_with_free_func(g_free);
    if (p->fit < FIT_LEAST) {
        g_ptr_array_add(all,
                        g_strdup_printf("it is a bad model: it leaves %.0f %% of what moved unexplained; is there a "
                                        "friction, a play, or something else that drives?",
                                        100.0 - p->fit));
    }
    if (p->excursion < NOISES * p->noise) {
        g_ptr_array_add(all,
                        g_strdup_printf("the answer moved by %.2g noises of a reading, at least %g are needed: let it "
                                        "go farther (--size)",
                                        p->excursion / fmax(p->noise, 1e-300), NOISES));
    }
    if ((p->gain.high - p->gain.low) / 2.0 > WIDE_GAIN * fabs(p->gain.value)) {
        g_ptr_array_add(all, g_strdup("the gain is not known to a third: record for longer, or let it go farther"));
    }
    if (p->kind != RGP_PROCESS_INTEGRAL && !(log(p->lag.high / p->lag.low) / 2.0 <= WIDE_LAG)) {
        g_ptr_array_add(all,
                        g_strdup("the lag is not known to a half: hold each piece of the test for longer (--each)"));
    }
    if (p->kind != RGP_PROCESS_INTEGRAL && p->lag.value < LAG_TICKS * s->tick) {
        g_ptr_array_add(
            all, g_strdup_printf("the lag is shorter than three steps of the loop, one each %g ms: too fast for it",
                                 1e3 * s->tick));
    }
    if (p->load > LOAD_SHARE) {
        g_ptr_array_add(all,
                        g_strdup("a load that wanders is in it, so its intervals are too narrow: take pulses to and "
                                 "fro, and several of them"));
    }
    return all;
}
