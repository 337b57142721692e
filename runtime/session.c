#include "session.h"

#include "interrupt.h"
#include "retain.h"

#include "ports/dry.h"
#include "limiter.h"
#include "ring.h"

#include <gio/gio.h>
#include <stdatomic.h>
#include <stdio.h>
#include <string.h>

#define RING_SECONDS      4u
#define RING_FRAMES_LEAST 256u
#define RING_FRAMES_MOST  65536u
#define FLUSH_US          (500 * 1000)
#define IDLE_US           2000
#define PAUSE_US          10000

#define COMMANDS          64u
#define TOLD_EVERY_US     500000u

struct session {
    const session_setup *setup;
    rp_engine engine;
    void *memory;
    rp_sim *sim;
    rp_dry dry;
    const rp_port *port; /* of the sim, or the dry one before it */
    kept *kept;
    rp_calm *calm;
    rp_frame_shape shape;
    rp_ring *ring;
    rp_frame *open;  /* the frame of the tick that is being computed */
    rp_frame *spare; /* takes its place when the ring is full */
    GThread *ticker, *keeper;
    atomic_bool stop, ticked_out;
    atomic_bool pause, paused;

    /* simulated time that runs as fast as it goes: the two threads wake each other */
    GMutex handing;
    GCond filled, drained;
    atomic_bool keeper_waits, ticker_waits;

    /* the queue: one writer, one reader */
    session_command command[COMMANDS];
    uint64_t let_go_us; /* a held actuator is given back then; 0: none is held */
    uint16_t held;
    atomic_uint asked, taken;

    /* the thread that ticks tells */
    atomic_uint_fast64_t late_sleeps, late_p50, late_p99, late_worst;
    uint64_t ticks, gaps, end_us;
    rp_status fault;
    bool interrupted;

    /* what is kept, under this lock */
    GMutex keeping;
    rp_history *history;
    rp_recorder *recorder;
    bool record_failed;
    char *complaint;
};

static void take_event(void *self, const rp_event *event)
{
    session *s = self;
    if (rp_calm_lets(s->calm, event, rp_engine_now(&s->engine))) {
        rp_frame_add_event(&s->shape, s->open, event);
    }
}

static void sum_up_storms(session *s)
{
    rp_event storm;
    while (rp_calm_sums_up(s->calm, rp_engine_now(&s->engine), &storm)) {
        rp_frame_add_event(&s->shape, s->open, &storm);
    }
}

/* ---- handing frames over ------------------------------------------------------------------------- */

/* Half a ring at a time, so that neither thread wakes the other for each frame. */
static bool is_half_full(const session *s)
{
    return rp_ring_waiting(s->ring) * 2u >= rp_ring_room(s->ring);
}

static void wake_other(session *s, atomic_bool *waits, GCond *cond)
{
    if (atomic_load(waits)) {
        g_mutex_lock(&s->handing);
        g_cond_signal(cond);
        g_mutex_unlock(&s->handing);
    }
}

static void wait_for_other(session *s, atomic_bool *waits, GCond *cond, bool (*go_on)(const session *s))
{
    const gint64 until = g_get_monotonic_time() + IDLE_US;
    g_mutex_lock(&s->handing);
    atomic_store(waits, true);
    while (!go_on(s) && g_cond_wait_until(cond, &s->handing, until)) {
    }
    atomic_store(waits, false);
    g_mutex_unlock(&s->handing);
}

static bool is_time_to_keep(const session *s)
{
    return is_half_full(s) || atomic_load(&s->ticked_out);
}

static bool is_time_to_tick(const session *s)
{
    return !is_half_full(s) || atomic_load(&s->stop);
}

/* ---- the thread that ticks ----------------------------------------------------------------------- */

/* A place for the next frame. Simulated time can wait for one; a real clock cannot. */
static rp_frame *next_frame(session *s)
{
    rp_frame *frame = rp_ring_begin(s->ring);
    while (!frame && s->setup->fast && !atomic_load(&s->stop)) {
        wait_for_other(s, &s->ticker_waits, &s->drained, is_time_to_tick);
        frame = rp_ring_begin(s->ring);
    }
    *s->spare = (rp_frame){0};
    return frame ? frame : s->spare;
}

static void hold(session *s, const session_command *c)
{
    const uint64_t lasting = (uint64_t)((double)c->seconds * 1e6);
    if (rp_engine_hand(&s->engine, c->which, c->value) == RP_OK) {
        s->held = c->which;
        s->let_go_us = rp_engine_now(&s->engine) + MAX(lasting, 1u);
    }
}

/* A hand that is not there any more, for whatever reason, holds nothing. */
static void let_go_in_time(session *s, uint64_t now_us)
{
    if (s->let_go_us > 0 && now_us >= s->let_go_us) {
        s->let_go_us = 0;
        rp_engine_release(&s->engine, s->held);
    }
}

static void obey(session *s, const session_command *c)
{
    rp_engine *e = &s->engine;
    switch (c->wish) {
    case WISH_HOLD:
        hold(s, c);
        break;
    case WISH_SET:
        rp_engine_set(e, c->which, c->value);
        break;
    case WISH_HAND:
        rp_engine_hand(e, c->which, c->value);
        break;
    case WISH_RELEASE:
        rp_engine_release(e, c->which);
        break;
    case WISH_STOP:
        rp_engine_stop(e);
        break;
    case WISH_RESUME:
        rp_engine_resume(e);
        break;
    case WISH_CLEAR:
        rp_engine_clear(e);
        break;
    case WISH_DISTURB:
        rp_sim_disturb(s->sim, c->which);
        break;
    case WISH_PACE:
        rp_sim_pace(s->sim, (double)c->value);
        break;
    }
}

static void take_commands(session *s)
{
    const unsigned asked = atomic_load_explicit(&s->asked, memory_order_acquire);
    unsigned taken = atomic_load_explicit(&s->taken, memory_order_relaxed);
    for (; taken != asked; taken++) {
        obey(s, &s->command[taken % COMMANDS]);
    }
    atomic_store_explicit(&s->taken, taken, memory_order_release);
}

static void tell_lateness(session *s)
{
    const rp_lateness late = rp_sim_lateness(s->sim);
    atomic_store(&s->late_sleeps, late.sleeps);
    atomic_store(&s->late_p50, late.p50);
    atomic_store(&s->late_p99, late.p99);
    atomic_store(&s->late_worst, late.worst);
}

/* Everything at rest, and the rig's time stands still, until it goes on. */
static void pause_ticking(session *s)
{
    rp_engine_rest(&s->engine, s->port);
    atomic_store(&s->paused, true);
    while (atomic_load(&s->pause) && !atomic_load(&s->stop) && !interrupt_asked()) {
        g_usleep(PAUSE_US);
    }
    atomic_store(&s->paused, false);
    rp_sim_catch_up(s->sim);
}

/* Sleeps to a tick. False when there is to be none any more. */
static bool sleep_to(session *s, uint64_t now_us)
{
    s->port->sleep_until(s->port->self, now_us);
    while (atomic_load(&s->pause) && !atomic_load(&s->stop) && !interrupt_asked()) {
        pause_ticking(s);
        s->port->sleep_until(s->port->self, now_us);
    }
    s->interrupted = interrupt_asked();
    return !s->interrupted && !atomic_load(&s->stop);
}

static gpointer tick_all(gpointer self)
{
    session *s = self;
    const rp_port *port = s->port;
    const uint64_t tick = s->engine.image->tick_us, end = s->setup->length_us;
    interrupt_ticks_here(true);
    for (uint64_t n = 0; (end == 0 || n * tick < end) && sleep_to(s, n * tick); n++) {
        s->open->number = n;
        take_commands(s);
        let_go_in_time(s, n * tick);
        s->fault = rp_engine_tick(&s->engine, port);
        sum_up_storms(s);
        rp_frame_take(&s->shape, s->open, &s->engine);
        s->ticks++;
        s->end_us = (n + 1) * tick;
        if (n % (TOLD_EVERY_US / tick + 1) == 0) {
            tell_lateness(s);
            if (s->kept) {
                kept_copy(s->kept, &s->engine);
            }
        }
        if (s->open == s->spare) {
            s->gaps++;
        } else {
            rp_ring_commit(s->ring);
            if (s->setup->fast && is_half_full(s)) {
                wake_other(s, &s->keeper_waits, &s->filled);
            }
        }
        s->open = next_frame(s);
        if (s->fault != RP_OK) {
            break;
        }
    }
    rp_engine_rest(&s->engine, port);
    tell_lateness(s);
    if (s->kept) {
        kept_copy(s->kept, &s->engine);
    }
    interrupt_ticks_here(false);
    atomic_store(&s->ticked_out, true);
    wake_other(s, &s->keeper_waits, &s->filled);
    return NULL;
}

/* ---- the thread that records --------------------------------------------------------------------- */

static void complain(session *s, const GError *error)
{
    s->record_failed = true;
    if (!s->complaint) {
        s->complaint = g_strdup(error->message);
    }
    if (s->setup->frame) {
        fflush(stdout);
        fprintf(stderr, "rigpulse: %s; the run goes on\n", error->message);
    }
}

static void take_frame(session *s, const rp_frame *frame)
{
    g_autoptr(GError) error = NULL;
    g_mutex_lock(&s->keeping);
    if (s->history) {
        rp_history_frame(s->history, &s->shape, frame);
    }
    if (s->recorder && !rp_recorder_frame(s->recorder, frame, &error)) {
        complain(s, error);
    }
    g_mutex_unlock(&s->keeping);
    if (s->setup->frame && !s->setup->frame(s->setup->self, &s->shape, frame)) {
        atomic_store(&s->stop, true);
    }
}

static void flush_recorder(session *s)
{
    g_autoptr(GError) error = NULL;
    g_mutex_lock(&s->keeping);
    if (s->recorder && !rp_recorder_flush(s->recorder, &error)) {
        complain(s, error);
    }
    if (s->kept && !kept_write(s->kept, &error)) {
        complain(s, error);
    }
    g_mutex_unlock(&s->keeping);
}

static gpointer keep_all(gpointer self)
{
    session *s = self;
    gint64 flushed = g_get_monotonic_time();
    bool last;
    do {
        last = atomic_load(&s->ticked_out);
        const rp_frame *frame;
        while ((frame = rp_ring_peek(s->ring))) {
            take_frame(s, frame);
            rp_ring_drop(s->ring);
            if (!is_half_full(s)) {
                wake_other(s, &s->ticker_waits, &s->drained);
            }
        }
        if (g_get_monotonic_time() - flushed > FLUSH_US) {
            flushed = g_get_monotonic_time();
            flush_recorder(s);
            if (s->setup->frame) {
                fflush(stdout);
            }
        }
        if (!last && s->setup->fast) {
            wait_for_other(s, &s->keeper_waits, &s->filled, is_time_to_keep);
        } else if (!last) {
            g_usleep(IDLE_US);
        }
    } while (!last);
    return NULL;
}

/* ---- beginning and ending ------------------------------------------------------------------------ */

static bool set_one(session *s, const char *text, GError **error)
{
    const rp_image_header *image = s->engine.image;
    const char *equals = strchr(text, '=');
    g_autofree char *name = equals ? g_strstrip(g_strndup(text, (gsize)(equals - text))) : NULL;
    const uint32_t params = rp_image_count(image, RP_SECTION_PARAMS);
    uint32_t i = 0;
    while (name && i < params && strcmp(name, rp_image_text(image, RP_NAME_SLOT, i, 0)) != 0) {
        i++;
    }
    if (!name || i == params) {
        g_autoptr(GString) all = g_string_new(NULL);
        for (uint32_t k = 0; k < params; k++) {
            g_string_append_printf(all, "%s%s", k ? ", " : "", rp_image_text(image, RP_NAME_SLOT, k, 0));
        }
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT,
                    "--set %s: it takes NAME=VALUE of a parameter; this rig has %s", text, params ? all->str : "none");
        return false;
    }
    const char *unit = rp_image_unit(image, RP_NAME_SLOT, i, 0), *why;
    const rp_image_param *param = (const rp_image_param *)rp_image_at(image, RP_SECTION_PARAMS) + i;
    double value;
    if (!rp_quantity_parse(equals + 1, unit, &value, &why)) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "--set %s: %s; %s is in %s", text, why, name,
                    *unit ? unit : "bare numbers");
        return false;
    }
    if (rp_engine_set(&s->engine, (uint16_t)i, (float)value) != RP_OK) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_ARGUMENT, "--set %s: %s can be from %g to %g %s", text, name,
                    (double)param->low, (double)param->high, unit);
        return false;
    }
    return true;
}

/* A file that the rig plays is not written over. */
static bool is_played(const rp_rig *rig, const char *record, GError **error)
{
    g_autofree char *folder = g_path_get_dirname(rig->file);
    g_autofree char *from = g_canonicalize_filename(folder, NULL);
    for (uint32_t i = 0; i < rig->hookup->pickups; i++) {
        const rp_pickup_item *item = &rig->hookup->pickup[i];
        g_autofree char *path = item->path ? g_canonicalize_filename(item->path, from) : NULL;
        if (path && rp_recorder_writes(record, path)) {
            g_set_error(error, G_IO_ERROR, G_IO_ERROR_EXISTS, "%s is what the rig plays; take another name", path);
            return true;
        }
    }
    return false;
}

static bool begin(session *s, GError **error)
{
    const rp_rig *rig = s->setup->rig;
    const rp_image_header *image = rig->image;
    s->memory = g_malloc0(image->memory);
    const rp_status status = rp_engine_open(&s->engine, rig->image, rig->image_size, s->memory, image->memory);
    if (status != RP_OK) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s: %s", rig->file, rp_status_text(status));
        return false;
    }
    for (char **set = s->setup->set; set && *set; set++) {
        if (!set_one(s, *set, error)) {
            return false;
        }
    }
    s->sim = rp_sim_new(rig, s->setup->seed, !s->setup->fast, error);
    if (!s->sim) {
        return false;
    }
    if (s->setup->pace > 0.0) {
        rp_sim_pace(s->sim, s->setup->pace);
    }
    if (s->setup->on_word) {
        rp_sim_wait_for_word(s->sim);
    }
    s->port = rp_sim_port(s->sim);
    if (s->setup->dry) {
        rp_dry_begin(&s->dry, s->port, image);
        s->port = &s->dry.port;
    }
    if (s->setup->bound > 0.0f) {
        rp_engine_bound(&s->engine, s->setup->bound);
    }
    rp_engine_hand_only(&s->engine, s->setup->hand_only);
    g_autofree char *port_says = rp_sim_says(s->sim), *kept_says = NULL;
    if (s->setup->kept && !(s->kept = kept_begin(&s->engine, s->setup->kept, &kept_says, error))) {
        return false;
    }
    if (s->setup->says && (kept_says || port_says)) {
        *s->setup->says = g_strdup_printf("%s%s%s", kept_says ? kept_says : "", kept_says && port_says ? "\n" : "",
                                          port_says ? port_says : "");
    }
    s->calm = rp_calm_new(image);
    if (s->setup->record && !is_played(rig, s->setup->record, error)) {
        s->recorder =
            rp_recorder_open(s->setup->record, s->setup->overwrite, rig, s->setup->seed, s->engine.value, error);
    }
    s->history = s->setup->history ? rp_history_new(image, RP_HISTORY_BYTES) : NULL;
    s->shape = rp_frame_shape_of(image);
    s->ring = rp_ring_new(s->shape.bytes,
                          CLAMP(RING_SECONDS * 1000000u / image->tick_us, RING_FRAMES_LEAST, RING_FRAMES_MOST));
    s->spare = g_malloc0(s->shape.bytes);
    s->open = next_frame(s);
    rp_engine_listen(&s->engine, take_event, s);
    return !s->setup->record || s->recorder;
}

static void close_recorder(session *s, const char *ending)
{
    g_autoptr(GError) error = NULL;
    if (s->recorder && !rp_recorder_close(s->recorder, s->gaps, ending, &error)) {
        s->record_failed = true;
        if (error) {
            complain(s, error);
        }
    }
    s->recorder = NULL;
}

static void discard(session *s)
{
    g_clear_pointer(&s->ring, rp_ring_free);
    rp_sim_free(s->sim);
    kept_end(s->kept);
    rp_calm_free(s->calm);
    rp_history_free(s->history);
    g_mutex_clear(&s->keeping);
    g_mutex_clear(&s->handing);
    g_cond_clear(&s->filled);
    g_cond_clear(&s->drained);
    g_free(s->complaint);
    g_free(s->spare);
    g_free(s->memory);
    g_free(s);
}

session *session_begin(const session_setup *setup, GError **error)
{
    session *s = g_new0(session, 1);
    s->setup = setup;
    g_mutex_init(&s->keeping);
    g_mutex_init(&s->handing);
    g_cond_init(&s->filled);
    g_cond_init(&s->drained);
    if (!begin(s, error)) {
        close_recorder(s, "never begun");
        discard(s);
        return NULL;
    }
    interrupt_catch();
    interrupt_guard(s->port);
    s->keeper = g_thread_new("keep", keep_all, s);
    s->ticker = g_thread_new("tick", tick_all, s);
    return s;
}

bool session_over(const session *s)
{
    return atomic_load(&s->ticked_out);
}

void session_stop(session *s)
{
    atomic_store(&s->stop, true);
    interrupt_wake();
}

void session_pause(session *s)
{
    atomic_store(&s->pause, true);
    while (!atomic_load(&s->paused) && !session_over(s)) {
        interrupt_wake();
        g_usleep(PAUSE_US / 10);
    }
}

void session_go_on(session *s)
{
    atomic_store(&s->pause, false);
}

void session_end(session *s, session_result *result)
{
    g_thread_join(s->ticker);
    g_thread_join(s->keeper);
    interrupt_guard(NULL);
    flush_recorder(s);
    close_recorder(s, s->fault != RP_OK ? "fault" : s->interrupted ? "interrupted" : "complete");
    *result = (session_result){.ticks = s->ticks,
                               .gaps = s->gaps,
                               .end_us = s->end_us,
                               .fault = s->fault,
                               .interrupted = s->interrupted,
                               .record_failed = s->record_failed,
                               .complaint = g_steal_pointer(&s->complaint),
                               .lateness = rp_sim_lateness(s->sim)};
    discard(s);
}

bool session_run(const session_setup *setup, session_result *result, GError **error)
{
    session *s = session_begin(setup, error);
    if (s) {
        session_end(s, result);
    }
    return s != NULL;
}

/* ---- asking and looking ---------------------------------------------------------------------------- */

bool session_ask(session *s, const session_command *command)
{
    const unsigned asked = atomic_load_explicit(&s->asked, memory_order_relaxed);
    if (asked - atomic_load_explicit(&s->taken, memory_order_acquire) >= COMMANDS) {
        return false;
    }
    s->command[asked % COMMANDS] = *command;
    atomic_store_explicit(&s->asked, asked + 1, memory_order_release);
    return true;
}

rp_history *session_look(session *s)
{
    g_mutex_lock(&s->keeping);
    return s->history;
}

void session_look_away(session *s)
{
    g_mutex_unlock(&s->keeping);
}

void session_mark(session *s, const char *text)
{
    g_autoptr(GError) error = NULL;
    g_mutex_lock(&s->keeping);
    rp_history_mark(s->history, text);
    const uint64_t end = rp_history_end(s->history);
    const double time = end > 0 ? (double)rp_history_time_us(s->history, end - 1) / 1e6 : 0.0;
    if (s->recorder && !rp_recorder_mark(s->recorder, time, text, &error)) {
        complain(s, error);
    }
    g_mutex_unlock(&s->keeping);
}

/* The parameters as they are now, for the beginning of a recording. */
static float *params_now(const session *s)
{
    const rp_image_header *image = s->engine.image;
    const rp_image_param *param = rp_image_at(image, RP_SECTION_PARAMS);
    const uint32_t params = rp_image_count(image, RP_SECTION_PARAMS);
    const uint64_t end = s->history ? rp_history_end(s->history) : 0;
    float *value = g_new0(float, params + 1);
    for (uint32_t i = 0; i < params; i++) {
        value[i] = end > 0 ? rp_history_value(s->history, (uint32_t)rp_history_slot(s->history, i), end - 1)
                           : param[i].initial;
    }
    return value;
}

bool session_record(session *s, const char *name, char **taken, GError **error)
{
    g_mutex_lock(&s->keeping);
    close_recorder(s, "complete");
    if (name) {
        g_autofree float *value = params_now(s);
        *taken = rp_recorder_free_name(name);
        s->recorder = rp_recorder_open(*taken, false, s->setup->rig, s->setup->seed, value, error);
    }
    const bool done = !name || s->recorder;
    g_mutex_unlock(&s->keeping);
    return done;
}

rp_lateness session_lateness(const session *s)
{
    return (rp_lateness){atomic_load(&s->late_sleeps), atomic_load(&s->late_p50), atomic_load(&s->late_p99),
                         atomic_load(&s->late_worst)};
}

bool session_is_recording(session *s)
{
    g_mutex_lock(&s->keeping);
    const bool recording = s->recorder != NULL;
    g_mutex_unlock(&s->keeping);
    return recording;
}

char *session_complaint(session *s)
{
    g_mutex_lock(&s->keeping);
    char *copy = g_strdup(s->complaint);
    g_mutex_unlock(&s->keeping);
    return copy;
}
