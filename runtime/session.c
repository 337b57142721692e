/* A rig in this process: its beginning and end, and what it answers at the door. */
#include "session.h"

#include "realtime.h"

#include "interrupt.h"
#include "setting.h"

#include <gio/gio.h>
#include <string.h>

#define RING_SECONDS      4u
#define RING_FRAMES_LEAST 256u
#define RING_FRAMES_MOST  65536u
#define PAUSE_US          1000
#define KEPT_MOST         65536u /* bytes of what is taken up of an earlier run */

static void take_event(void *self, const rgp_event *event)
{
    session *s = self;
    if (rgp_limiter_lets(s->limiter, event, rgp_engine_now(&s->engine))) {
        rgp_frame_add_event(&s->layout, s->open, event);
    }
}

/* ---- beginning and ending ------------------------------------------------------------------------ */

/* A file that the rig plays is not written over. */
static bool is_played(const rgp_rig *rig, const char *record, GError **error)
{
    g_autofree char *folder = g_path_get_dirname(rig->file);
    g_autofree char *from = g_canonicalize_filename(folder, NULL);
    for (uint32_t i = 0; i < rig->hookup->sensors; i++) {
        const rgp_sensor_item *item = &rig->hookup->sensor[i];
        g_autofree char *path = item->path ? g_canonicalize_filename(item->path, from) : NULL;
        if (path && rgp_recorder_writes(record, path)) {
            g_set_error(error, G_IO_ERROR, G_IO_ERROR_EXISTS, "%s is what the rig plays; take another name", path);
            return true;
        }
    }
    return false;
}

static bool open_engine(session *s, GError **error)
{
    const rgp_rig *rig = s->setup->rig;
    const rgp_image_header *image = rig->image;
    s->memory = g_malloc0(image->memory);
    const rgp_status status = rgp_engine_open(&s->engine, rig->image, rig->image_size, s->memory, image->memory);
    if (status != RGP_OK) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: %s", rig->file, rgp_status_text(status));
        return false;
    }
    for (char **set = s->setup->set; set && *set; set++) {
        if (!rgp_set_param(&s->engine, *set, error)) {
            return false;
        }
    }
    return true;
}

static bool open_port(session *s, GError **error)
{
    const rgp_image_header *image = s->setup->rig->image;
    s->fast = s->setup->fast && !rgp_ports_is_real(s->setup->rig);
    const rgp_opening how = {.seed = s->setup->seed, .paced = !s->fast};
    if (!rgp_ports_open(&s->opened, s->setup->rig, &how, error)) {
        return false;
    }
    if (s->opened.sim && s->setup->pace > 0.0) {
        rgp_sim_pace(s->opened.sim, s->setup->pace);
    }
    if (s->opened.sim && s->setup->on_word) {
        rgp_sim_wait_for_word(s->opened.sim);
    }
    s->sample = g_new0(rgp_sample, rgp_image_count(image, RGP_SECTION_SENSORS) + 1);
    s->told = g_new0(bool, rgp_image_count(image, RGP_SECTION_SENSORS) + 1);
    s->lost = g_new0(bool, rgp_image_count(image, RGP_SECTION_ACTUATORS) + 1);
    rgp_front_begin(&s->front, s->opened.port, image, s->sample, s->told, s->setup->dry);
    s->port = &s->front.port;
    return true;
}

/* The beginning of the setup; `says` becomes what there is to say of what it takes up. */
static bool prepare_engine(session *s, char **says, GError **error)
{
    if (s->setup->bound > 0.0f) {
        rgp_engine_bound(&s->engine, s->setup->bound);
    }
    rgp_engine_hand_only(&s->engine, s->setup->hand_only);
    if (s->setup->at_rest) {
        rgp_engine_stop(&s->engine);
        rgp_engine_rest(&s->engine, s->port);
    }
    if (s->setup->retained) {
        s->retained = retain_begin(&s->engine, s->setup->retained, says, error);
    }
    if (s->retained) {
        s->kept = g_malloc(KEPT_MOST);
        if (rgp_engine_retain(&s->engine, s->kept, KEPT_MOST, &s->kept_size) != RGP_OK) {
            s->kept_size = 0;
        }
    }
    return !s->setup->retained || s->retained;
}

/* The circumstances of the run that a recording names, so that it can be done again. */
static rgp_recorder_run run_of(const session *s, const float *params)
{
    return (rgp_recorder_run){.seed = s->setup->seed,
                              .params = params,
                              .port = s->setup->rig->hookup->port,
                              .dry = s->setup->dry,
                              .hand_only = s->setup->hand_only,
                              .at_rest = s->setup->at_rest,
                              .bound = s->setup->bound,
                              .kept = s->kept,
                              .kept_size = s->kept_size,
                              .told = s->told};
}

static bool open_recorder(session *s, GError **error)
{
    const rgp_rig *rig = s->setup->rig;
    if (s->setup->record && !is_played(rig, s->setup->record, error)) {
        const rgp_recorder_run run = run_of(s, s->engine.value);
        s->recorder = rgp_recorder_open(s->setup->record, s->setup->overwrite, rig, &run, error);
    }
    return !s->setup->record || s->recorder;
}

static void open_frames(session *s)
{
    const rgp_image_header *image = s->engine.image;
    s->limiter = rgp_limiter_new(image);
    s->history = s->setup->history ? rgp_history_new(image, RGP_HISTORY_BYTES) : NULL;
    s->layout = rgp_frame_layout_of(image);
    if (!s->setup->stepped) {
        s->ring = rgp_ring_new(s->layout.bytes,
                               CLAMP(RING_SECONDS * 1000000u / image->tick_us, RING_FRAMES_LEAST, RING_FRAMES_MOST));
    }
    s->spare = g_malloc0(s->layout.bytes);
    s->open = session_next_frame(s);
    rgp_engine_listen(&s->engine, take_event, s);
}

/* A line more of how it began. */
static void say(const session *s, const char *line)
{
    if (s->setup->says && line) {
        char *before = *s->setup->says;
        *s->setup->says = g_strdup_printf("%s%s%s", before ? before : "", before ? "\n" : "", line);
        g_free(before);
    }
}

static bool begin_session(session *s, GError **error)
{
    g_autofree char *retain_says = NULL;
    if (!open_engine(s, error) || !open_port(s, error) || !prepare_engine(s, &retain_says, error)) {
        return false;
    }
    g_autofree char *port_says = s->opened.sim ? rgp_sim_says(s->opened.sim) : NULL;
    say(s, retain_says);
    say(s, port_says);
    open_frames(s);
    return open_recorder(s, error);
}

static void discard(session *s)
{
    g_clear_pointer(&s->ring, rgp_ring_free);
    rgp_ports_close(&s->opened);
    retain_end(s->retained);
    rgp_limiter_free(s->limiter);
    rgp_history_free(s->history);
    g_mutex_clear(&s->keeping);
    g_mutex_clear(&s->handing);
    g_cond_clear(&s->filled);
    g_cond_clear(&s->drained);
    g_free(s->complaint);
    g_free(s->spare);
    g_free(s->sample);
    g_free(s->told);
    g_free(s->lost);
    g_free(s->kept);
    g_free(s->memory);
    g_free(s);
}

static rgp_delay delay(const rgp_door *door)
{
    const session *s = (const session *)door;
    return (rgp_delay){atomic_load(&s->late_sleeps), atomic_load(&s->late_p50), atomic_load(&s->late_p99),
                       atomic_load(&s->late_worst)};
}

static void session_end(rgp_door *door, rgp_door_result *result)
{
    session *s = (session *)door;
    if (s->setup->stepped) {
        rgp_engine_rest(&s->engine, s->port);
        session_tell_delay(s);
    } else {
        g_thread_join(s->ticker);
        g_thread_join(s->keeper);
    }
    interrupt_guard(NULL);
    session_flush(s);
    session_close_recorder(s, s->fault != RGP_OK ? "fault" : s->interrupted ? "interrupted" : "complete");
    *result = (rgp_door_result){.ticks = s->ticks,
                                .gaps = s->gaps,
                                .end_us = s->due_us,
                                .fault = s->fault,
                                .interrupted = s->interrupted,
                                .record_failed = s->record_failed,
                                .complaint = g_steal_pointer(&s->complaint),
                                .account = s->opened.serial ? rgp_serial_account(s->opened.serial) : NULL,
                                .delay = delay(door)};
    discard(s);
}

/* ---- asking and looking ---------------------------------------------------------------------------- */

static bool is_over(const rgp_door *door)
{
    const session *s = (const session *)door;
    return atomic_load(&s->ticked_out);
}

static const char *refuses(const rgp_door *door, rgp_command_kind what)
{
    const session *s = (const session *)door;
    return is_over(door)                                   ? "the run has ended"
           : !s->opened.sim && what >= RGP_COMMAND_DISTURB ? "what is connected is real: only your own hand can do that"
                                                           : NULL;
}

static rgp_status ask(rgp_door *door, const rgp_command *command)
{
    session *s = (session *)door;
    if (!s->opened.sim && command->what >= RGP_COMMAND_DISTURB) {
        return RGP_E_UNSUPPORTED;
    }
    if (s->setup->stepped) {
        if (s->open->commands + 1 >= RGP_FRAME_COMMANDS) {
            return RGP_E_ROOM;
        }
        return session_obey(s, command);
    }
    const unsigned asked = atomic_load_explicit(&s->asked, memory_order_relaxed);
    if (asked - atomic_load_explicit(&s->taken, memory_order_acquire) >= SESSION_COMMANDS) {
        return RGP_E_ROOM;
    }
    s->command[asked % SESSION_COMMANDS] = *command;
    atomic_store_explicit(&s->asked, asked + 1, memory_order_release);
    return RGP_OK;
}

static bool advance(rgp_door *door, uint64_t until_us)
{
    session *s = (session *)door;
    return s->setup->stepped && session_advance(s, until_us);
}

static void stop_session(rgp_door *door)
{
    session *s = (session *)door;
    atomic_store(&s->stop, true);
    interrupt_wake();
}

static void pause_it(rgp_door *door)
{
    session *s = (session *)door;
    atomic_store(&s->pause, true);
    while (!atomic_load(&s->paused) && !is_over(door)) {
        interrupt_wake();
        g_usleep(PAUSE_US);
    }
}

static void unpause(rgp_door *door)
{
    atomic_store(&((session *)door)->pause, false);
}

static rgp_history *look(rgp_door *door)
{
    session *s = (session *)door;
    g_mutex_lock(&s->keeping);
    return s->history;
}

static void look_away(rgp_door *door)
{
    g_mutex_unlock(&((session *)door)->keeping);
}

static bool mark(rgp_door *door, const char *text)
{
    session *s = (session *)door;
    g_autoptr(GError) error = NULL;
    g_mutex_lock(&s->keeping);
    rgp_history_mark(s->history, text);
    const uint64_t end = rgp_history_end(s->history);
    const double time = end > 0 ? (double)rgp_history_time_us(s->history, end - 1) / 1e6 : 0.0;
    if (s->recorder && !rgp_recorder_mark(s->recorder, time, text, &error)) {
        session_complain(s, error);
    }
    g_mutex_unlock(&s->keeping);
    return true;
}

/* The parameters as they are now, for the beginning of a recording. */
static float *params_now(const session *s)
{
    const rgp_image_header *image = s->engine.image;
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    const uint32_t params = rgp_image_count(image, RGP_SECTION_PARAMS);
    const uint64_t end = s->history ? rgp_history_end(s->history) : 0;
    float *value = g_new0(float, params + 1);
    for (uint32_t i = 0; i < params; i++) {
        value[i] = end > 0 ? rgp_history_value(s->history, (uint32_t)rgp_history_slot(s->history, i), end - 1)
                           : param[i].initial;
    }
    return value;
}

static bool record(rgp_door *door, const char *name, char **taken, GError **error)
{
    session *s = (session *)door;
    g_mutex_lock(&s->keeping);
    session_close_recorder(s, "complete");
    if (name) {
        g_autofree float *value = params_now(s);
        *taken = rgp_recorder_free_name(name);
        const rgp_recorder_run run = run_of(s, value);
        s->recorder = rgp_recorder_open(*taken, false, s->setup->rig, &run, error);
    }
    const bool done = !name || s->recorder;
    g_mutex_unlock(&s->keeping);
    return done;
}

static bool is_recording(rgp_door *door)
{
    session *s = (session *)door;
    g_mutex_lock(&s->keeping);
    const bool recording = s->recorder != NULL;
    g_mutex_unlock(&s->keeping);
    return recording;
}

static char *complaint(rgp_door *door)
{
    session *s = (session *)door;
    g_mutex_lock(&s->keeping);
    char *copy = g_strdup(s->complaint);
    g_mutex_unlock(&s->keeping);
    return copy;
}

static char *trouble(rgp_door *door)
{
    const session *s = (const session *)door;
    return s->opened.serial ? rgp_serial_trouble(s->opened.serial) : NULL;
}

/* ---- of a stepped one ------------------------------------------------------------------------------ */

static bool checkpoint(rgp_door *door, void *memory, uint32_t bytes)
{
    const session *s = (const session *)door;
    const bool fits = s->setup->stepped && bytes >= s->engine.image->memory;
    if (fits) {
        memcpy(memory, s->memory, s->engine.image->memory);
    }
    return fits;
}

static const char *hand_unit(const rgp_door *door, uint16_t sensor, const char **why)
{
    const session *s = (const session *)door;
    *why = s->opened.sim ? rgp_sim_hand_why(s->opened.sim, sensor) : "what is connected is real";
    return s->opened.sim ? rgp_sim_hand_unit(s->opened.sim, sensor) : NULL;
}

static double placing(const rgp_door *door, uint16_t sensor)
{
    const session *s = (const session *)door;
    return s->setup->stepped && s->opened.sim ? rgp_sim_placing(s->opened.sim, sensor) : 0.0;
}

static bool truth(const rgp_door *door, uint32_t mechanism, uint32_t output, double *value)
{
    const session *s = (const session *)door;
    const bool known = s->setup->stepped && s->opened.sim;
    if (known) {
        *value = rgp_sim_truth(s->opened.sim, mechanism, output);
    }
    return known;
}

static const rgp_door_table table = {.refuses = refuses,
                                     .ask = ask,
                                     .advance = advance,
                                     .over = is_over,
                                     .pause = pause_it,
                                     .unpause = unpause,
                                     .look = look,
                                     .look_away = look_away,
                                     .mark = mark,
                                     .record = record,
                                     .is_recording = is_recording,
                                     .complaint = complaint,
                                     .trouble = trouble,
                                     .delay = delay,
                                     .checkpoint = checkpoint,
                                     .hand_unit = hand_unit,
                                     .placing = placing,
                                     .truth = truth,
                                     .stop = stop_session,
                                     .end = session_end};

/* Whoever keeps the frames may tell of the first one at once: what there is to say has been said by then. */
static void begin_threads(session *s)
{
    g_autofree char *realtime_says = s->setup->realtime ? realtime_begin() : NULL;
    say(s, realtime_says);
    s->ticker = g_thread_new("tick", session_tick_all, s);
    if (realtime_says) {
        realtime_leave();
    }
    s->keeper = g_thread_new("keep", session_keep_all, s);
}

rgp_door *session_open(const rgp_door_setup *setup, GError **error)
{
    session *s = g_new0(session, 1);
    s->door = (rgp_door){.is = &table, .rig = setup->rig};
    s->setup = setup;
    g_mutex_init(&s->keeping);
    g_mutex_init(&s->handing);
    g_cond_init(&s->filled);
    g_cond_init(&s->drained);
    if (!begin_session(s, error)) {
        session_close_recorder(s, "never begun");
        discard(s);
        return NULL;
    }
    interrupt_guard(s->port);
    if (!setup->stepped) { /* whoever steps it catches what is meant for all that it steps */
        interrupt_catch();
        begin_threads(s);
    }
    return &s->door;
}
