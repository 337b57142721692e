/* A rig or a recording that is listened to, and rigs tried on the readings that came in. */
#include "capture_session.h"

#include "runtime/recording.h"
#include "tool/reading.h"
#include "image/ops.h"
#include "runtime/door.h"
#include "runtime/ports.h"
#include "explain/disassembly.h"
#include "explain/describe.h"
#include "rigpulse/engine.h"

#include <gio/gio.h>
#include <math.h>
#include <string.h>

#define SAMPLES_MOST 20000000u
#define SETTLES_MOST 200u /* windows */
#define SETTLED      1e-6 /* relative: a window that changes what is read by no more */
#define BRING_TICKS  64u  /* until a median of the most readings has filled */

struct capture_session {
    const capture_session_setup *setup;
    rgp_rig *rig;      /* with one signal more, for what goes in */
    rgp_engine engine; /* on no port: it works out from the samples what goes in */
    void *memory;
    rgp_door_setup rest; /* of the rig that runs with everything at rest */
    rgp_door *door;      /* NULL: a recording is listened to */
    rgp_recording *recording;
    uint32_t *column; /* of the recording, by sensor */
    uint32_t sensors, sensor, slot;
    GArray *time_us; /* by tick */
    GArray *sample;  /* by tick and sensor, of rgp_sample */
    rgp_intake intake;
};

/* ---- names ----------------------------------------------------------------------------------------- */

static bool find_slot(const rgp_image_header *image, const char *name, uint32_t *slot)
{
    const int32_t found = rgp_image_find(image, RGP_FIND_SLOT, name);
    *slot = (uint32_t)found;
    return found >= 0;
}

/* The rig with a signal for what goes in. */
static rgp_rig *add_probe(const capture_session_setup *setup, char **name, GError **error)
{
    const rgp_rig *rig = setup->rig;
    uint32_t taken;
    *name = g_strdup("what_goes_in");
    while (find_slot(rig->image, *name, &taken)) {
        char *longer = g_strconcat(*name, "_", NULL);
        g_free(*name);
        *name = longer;
    }
    g_autofree char *text = g_strdup_printf("%s\nsignal %s = %s%s\n", rig->source, *name, setup->what->input,
                                            setup->what->summed ? " | accumulate" : "");
    rgp_rig *made = rgp_rig_compile(rig->file, text, strlen(text), rgp_ports_catalog());
    if (!made || !made->image) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: '%s' cannot be looked at alone: %s", rig->file,
                    setup->what->input, made ? made->message->text : "out of memory");
        rgp_rig_free(made);
        return NULL;
    }
    return made;
}

/* ---- where readings come from ---------------------------------------------------------------------- */

static bool open_recording(capture_session *l, GError **error)
{
    l->recording = reading_whole(l->setup->recording, error);
    if (!l->recording) {
        return false;
    }
    const rgp_image_header *theirs = l->recording->image, *ours = l->rig->image;
    for (uint32_t i = 0; i < l->sensors; i++) {
        const char *name = rgp_image_text(ours, RGP_NAME_SLOT, rgp_image_sensor_slot(ours, i), 0);
        if (!find_slot(theirs, name, &l->column[i]) || !l->recording->has[l->column[i]]) {
            g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "%s: this recording has no sensor '%s'",
                        l->setup->recording, name);
            return false;
        }
    }
    return true;
}

static bool take_frame(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    capture_session *l = self;
    g_array_append_val(l->time_us, frame->time_us);
    g_array_append_vals(l->sample, rgp_frame_sample(layout, frame), l->sensors);
    return true;
}

static bool open_rig(capture_session *l, GError **error)
{
    l->rest = (rgp_door_setup){.rig = l->rig,
                               .seed = l->setup->seed,
                               .fast = l->setup->fast,
                               .stepped = true,
                               .at_rest = true,
                               .frame = take_frame,
                               .self = l};
    l->door = rgp_door_open(&l->rest, error);
    return l->door != NULL;
}

static bool begin_capture(capture_session *l, GError **error)
{
    g_autofree char *probe = NULL;
    l->rig = add_probe(l->setup, &probe, error);
    if (!l->rig) {
        return false;
    }
    const rgp_image_header *image = l->rig->image;
    uint32_t sensor_slot = 0;
    l->memory = g_malloc0(image->memory);
    l->sensors = rgp_image_count(image, RGP_SECTION_SENSORS);
    l->column = g_new0(uint32_t, l->sensors + 1);
    rgp_engine_open(&l->engine, image, l->rig->image_size, l->memory, image->memory);
    rgp_engine_stop(&l->engine);
    find_slot(image, probe, &l->slot);
    if (!find_slot(image, l->setup->what->sensor, &sensor_slot)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "'%s' is made of no sensor", l->setup->what->input);
        return false;
    }
    l->sensor = sensor_slot - rgp_image_sensor_slot(image, 0);
    const rgp_image_sensor *sensor = (const rgp_image_sensor *)rgp_image_at(image, RGP_SECTION_SENSORS) + l->sensor;
    l->intake = (rgp_intake){.sensor = l->setup->what->sensor,
                             .unit = rgp_image_unit(image, RGP_NAME_SLOT, sensor_slot, 0),
                             .input = l->setup->what->input,
                             .input_unit = rgp_image_unit(image, RGP_NAME_SLOT, l->slot, 0),
                             .summed = l->setup->what->summed,
                             .tick = image->tick_us / 1e6,
                             .low = sensor->supervision.low,
                             .high = sensor->supervision.high,
                             .raw = g_array_new(FALSE, FALSE, sizeof(double)),
                             .in = g_array_new(FALSE, FALSE, sizeof(double)),
                             .raw_quality = g_array_new(FALSE, FALSE, sizeof(rgp_quality)),
                             .in_quality = g_array_new(FALSE, FALSE, sizeof(rgp_quality)),
                             .same = g_array_new(FALSE, FALSE, sizeof(uint8_t))};
    return l->setup->recording ? open_recording(l, error) : open_rig(l, error);
}

capture_session *capture_session_new(const capture_session_setup *setup, GError **error)
{
    capture_session *l = g_new0(capture_session, 1);
    l->setup = setup;
    l->time_us = g_array_new(FALSE, FALSE, sizeof(uint64_t));
    l->sample = g_array_new(FALSE, FALSE, sizeof(rgp_sample));
    if (!begin_capture(l, error)) {
        capture_session_free(l);
        return NULL;
    }
    return l;
}

void capture_session_free(capture_session *l)
{
    if (!l) {
        return;
    }
    GArray *const arrays[] = {l->time_us,           l->sample,     l->intake.raw, l->intake.in, l->intake.raw_quality,
                              l->intake.in_quality, l->intake.same};
    for (guint i = 0; i < G_N_ELEMENTS(arrays); i++) {
        if (arrays[i]) {
            g_array_unref(arrays[i]);
        }
    }
    if (l->door) {
        rgp_door_end(l->door, NULL);
    }
    rgp_recording_free(l->recording);
    rgp_rig_free(l->rig);
    g_free(l->memory);
    g_free(l->column);
    g_free(l);
}

/* ---- ticking --------------------------------------------------------------------------------------- */

static rgp_sample recorded_sample(const capture_session *l, uint32_t sensor, uint32_t row)
{
    const uint32_t column = l->column[sensor];
    return (rgp_sample){.time_us = rgp_recording_time_us(l->recording, row),
                        .raw = (int32_t)rgp_recording_value(l->recording, column, row),
                        .quality = rgp_recording_quality(l->recording, column, row)};
}

static void feed(const capture_session *l, rgp_engine *engine, guint tick, uint64_t later_us)
{
    for (uint32_t i = 0; i < l->sensors; i++) {
        rgp_sample sample = g_array_index(l->sample, rgp_sample, tick * l->sensors + i);
        sample.time_us += later_us;
        rgp_engine_sense(engine, (uint16_t)i, &sample);
    }
    rgp_engine_step(engine, g_array_index(l->time_us, uint64_t, tick) + later_us);
}

/* False when the recording is over. */
static bool take_row(capture_session *l)
{
    const guint row = l->time_us->len;
    if (row >= l->recording->rows) {
        return false;
    }
    const uint64_t time_us = rgp_recording_time_us(l->recording, row);
    for (uint32_t i = 0; i < l->sensors; i++) {
        const rgp_sample sample = recorded_sample(l, i, row);
        g_array_append_val(l->sample, sample);
    }
    g_array_append_val(l->time_us, time_us);
    return true;
}

/* The samples of one tick more. */
static bool take_samples(capture_session *l)
{
    const guint before = l->time_us->len;
    if (l->recording) {
        return take_row(l);
    }
    rgp_door_advance(l->door, (uint64_t)(before + 1) * ((const rgp_image_header *)l->rig->image)->tick_us);
    return l->time_us->len > before;
}

static void keep_reading(GArray *value, GArray *quality, rgp_reading r)
{
    const double number = (double)r.value;
    g_array_append_val(value, number);
    g_array_append_val(quality, r.quality);
}

bool capture_session_tick(capture_session *l)
{
    const guint tick = l->time_us->len;
    if (l->sample->len >= SAMPLES_MOST || !take_samples(l)) {
        return false;
    }
    feed(l, &l->engine, tick, 0);
    const rgp_sample *own = &g_array_index(l->sample, rgp_sample, tick * l->sensors + l->sensor);
    keep_reading(l->intake.raw, l->intake.raw_quality, (rgp_reading){(float)own->raw, own->quality});
    keep_reading(l->intake.in, l->intake.in_quality, rgp_engine_value(&l->engine, l->slot));
    g_array_append_val(l->intake.same, own->same);
    return true;
}

const rgp_intake *capture_session_intake(const capture_session *l)
{
    return &l->intake;
}

guint capture_session_ticks(const capture_session *l)
{
    return l->time_us->len;
}

double capture_session_time(const capture_session *l)
{
    return l->time_us->len ? (double)g_array_index(l->time_us, uint64_t, l->time_us->len - 1) / 1e6 : 0.0;
}

guint capture_session_find(const capture_session *l, double time)
{
    guint i = 0;
    while (i < l->time_us->len && (double)g_array_index(l->time_us, uint64_t, i) < time * 1e6 - 0.5) {
        i++;
    }
    return i;
}

const char *capture_session_hand_unit(const capture_session *l, const char **why)
{
    *why = "its readings come from a recording";
    return l->door ? rgp_door_hand_unit(l->door, (uint16_t)l->sensor, why) : NULL;
}

double capture_session_place(capture_session *l, double to)
{
    const rgp_command place = {RGP_COMMAND_PLACE, RGP_BY_SCRIPT, (uint16_t)l->sensor, (float)to, 0.0f};
    rgp_door_ask(l->door, &place);
    return rgp_door_placing(l->door, (uint16_t)l->sensor);
}

/* The zero nearest to a value, up its chain. */
static bool find_zero(const rgp_image_header *image, uint16_t slot, uint32_t before, rgp_decoded *step)
{
    while (slot < RGP_REF_CONSTANT && rgp_disassembly_writer(image, slot, before, step)) {
        if (step->op == RGP_OP_ZERO) {
            return true;
        }
        slot = step->in[0];
        before = step->place;
    }
    return false;
}

double capture_session_zero_error(const capture_session *l)
{
    rgp_decoded step;
    if (!find_zero(l->rig->image, (uint16_t)l->slot, UINT32_MAX, &step)) {
        return 0.0;
    }
    const rgp_zero_state *zero = rgp_engine_state(&l->engine, step.state_offset);
    return (double)zero->error;
}

/* ---- from a reading alone -------------------------------------------------------------------------- */

/* The thing that makes a value depend on more than the sensor's reading of now; NULL: nothing does. */
static const char *depends_on(const capture_session *l, uint16_t slot, uint32_t before)
{
    const rgp_image_header *image = l->rig->image;
    const uint32_t first = rgp_image_sensor_slot(image, 0);
    rgp_decoded step;
    if (!rgp_disassembly_writer(image, slot, before, &step)) {
        return slot >= first && slot < first + l->sensors && slot != first + l->sensor ? "other sensors take part"
                                                                                       : NULL;
    }
    if (rgp_op_retainer_of(step.op)) {
        return "a stage before it goes by what it has learned or counted";
    }
    const char *found = NULL;
    for (uint32_t i = 0; i < rgp_ops[step.op].inputs && !found; i++) {
        found = step.in[i] < RGP_REF_CONSTANT ? depends_on(l, step.in[i], step.place) : NULL;
    }
    return found;
}

static bool bring_count(const capture_session *l, int32_t raw, double *in, char **why)
{
    const rgp_image_header *image = l->rig->image;
    g_autofree void *memory = g_malloc0(image->memory);
    rgp_engine engine;
    rgp_engine_open(&engine, image, l->rig->image_size, memory, image->memory);
    rgp_engine_stop(&engine);
    for (uint64_t tick = 0; tick < BRING_TICKS; tick++) {
        const uint64_t now = tick * image->tick_us;
        const rgp_sample sample = {.time_us = now, .raw = raw};
        rgp_engine_sense(&engine, (uint16_t)l->sensor, &sample);
        rgp_engine_step(&engine, now);
    }
    const rgp_reading r = rgp_engine_value(&engine, l->slot);
    *in = (double)r.value;
    if (!rgp_usable(r.quality)) {
        *why = g_strdup_printf("where '%s' reads %d, what goes in is %s", l->intake.sensor, raw,
                               rgp_quality_text(r.quality));
    }
    return rgp_usable(r.quality);
}

bool capture_session_bring(const capture_session *l, double raw, double *in, double *rounding, char **why)
{
    const char *more = depends_on(l, (uint16_t)l->slot, UINT32_MAX);
    if (more) {
        *why = g_strdup_printf("a reading of '%s' does not say what goes in: %s; capture the points instead",
                               l->intake.sensor, more);
        return false;
    }
    if (!(raw >= l->intake.low && raw <= l->intake.high)) {
        *why = g_strdup_printf("'%s' cannot read %g: its range is %d to %d %s", l->intake.sensor, raw, l->intake.low,
                               l->intake.high, l->intake.unit);
        return false;
    }
    const int32_t below = (int32_t)fmin(floor(raw), l->intake.high - 1.0);
    double next;
    if (!bring_count(l, below, in, why) || !bring_count(l, below + 1, &next, why)) {
        return false;
    }
    *rounding = fabs(next - *in) / sqrt(12.0);
    *in += (raw - below) * (next - *in);
    return true;
}

static double mean_over_window(const capture_session *l, rgp_engine *engine, uint32_t slot, guint from, guint to,
                               uint64_t later_us)
{
    double mean = 0.0;
    guint count = 0;
    for (guint tick = from; tick < to; tick++) {
        feed(l, engine, tick, later_us);
        const rgp_reading r = rgp_engine_value(engine, slot);
        if (rgp_usable(r.quality)) {
            mean += ((double)r.value - mean) / ++count;
        }
    }
    return count > 0 ? mean : (double)NAN;
}

double capture_session_reads(const capture_session *l, const rgp_rig *rig, const char *name, guint from, guint to,
                             bool settled)
{
    const rgp_image_header *image = rig->image;
    rgp_engine engine;
    uint32_t slot;
    if (!find_slot(image, name, &slot) || to <= from) {
        return (double)NAN;
    }
    g_autofree void *memory = g_malloc0(image->memory);
    rgp_engine_open(&engine, image, rig->image_size, memory, image->memory);
    rgp_engine_stop(&engine);
    for (guint tick = 0; tick < from; tick++) {
        feed(l, &engine, tick, 0);
    }
    const uint64_t first_us = g_array_index(l->time_us, uint64_t, from);
    const uint64_t each_us = g_array_index(l->time_us, uint64_t, to - 1) - first_us + image->tick_us;
    double reads = mean_over_window(l, &engine, slot, from, to, 0), before = INFINITY;
    for (uint64_t i = 1; settled && i < SETTLES_MOST && fabs(reads - before) > SETTLED * fabs(reads); i++) {
        before = reads;
        reads = mean_over_window(l, &engine, slot, from, to, i * each_us);
    }
    return reads;
}
