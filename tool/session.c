#include "session.h"

#include "record/ring.h"

#include <gio/gio.h>
#include <pthread.h>
#include <signal.h>
#include <stdatomic.h>
#include <stdio.h>
#include <string.h>

#define RING_SECONDS      4u
#define RING_FRAMES_LEAST 256u
#define RING_FRAMES_MOST  65536u
#define FLUSH_US          (500 * 1000)
#define IDLE_US           2000

struct session {
    const session_setup *setup;
    rp_engine engine;
    void *memory;
    rp_sim *sim;
    rp_frame_shape shape;
    rp_ring *ring;
    rp_frame *open;  /* the frame of the tick that is being computed */
    rp_frame *spare; /* takes its place when the ring is full */
    rp_recorder *recorder;
    atomic_bool stop, ticked_out;
    session_result *result;
};

static volatile sig_atomic_t interrupted;

static void interrupt(int number)
{
    (void)number;
    interrupted = 1;
}

static void take_event(void *self, const rp_event *event)
{
    session *s = self;
    rp_frame_add_event(&s->shape, s->open, event);
}

/* ---- the thread that ticks ----------------------------------------------------------------------- */

/* A place for the next frame. Simulated time can wait for one; a real clock cannot. */
static rp_frame *next_frame(session *s)
{
    rp_frame *frame = rp_ring_begin(s->ring);
    while (!frame && s->setup->fast && !atomic_load(&s->stop)) {
        g_usleep(200);
        frame = rp_ring_begin(s->ring);
    }
    *s->spare = (rp_frame){0};
    return frame ? frame : s->spare;
}

static gpointer tick_all(gpointer self)
{
    session *s = self;
    const rp_port *port = rp_sim_port(s->sim);
    const uint64_t tick = s->engine.image->tick_us, end = s->setup->length_us;
    sigset_t wake;
    sigemptyset(&wake);
    sigaddset(&wake, SIGINT);
    sigaddset(&wake, SIGTERM);
    sigaddset(&wake, SIGHUP);
    pthread_sigmask(SIG_UNBLOCK, &wake, NULL);

    for (uint64_t n = 0; (end == 0 || n * tick < end) && !atomic_load(&s->stop); n++) {
        port->sleep_until(port->self, n * tick);
        if (interrupted) {
            s->result->interrupted = true;
            break;
        }
        s->open->number = n;
        s->result->fault = rp_engine_tick(&s->engine, port);
        rp_frame_take(&s->shape, s->open, &s->engine);
        s->result->ticks++;
        s->result->end_us = (n + 1) * tick;
        if (s->open == s->spare) {
            s->result->gaps++;
        } else {
            rp_ring_commit(s->ring);
        }
        s->open = next_frame(s);
        if (s->result->fault != RP_OK) {
            break;
        }
    }
    rp_engine_rest(&s->engine, port);
    atomic_store(&s->ticked_out, true);
    return NULL;
}

/* ---- the thread that records --------------------------------------------------------------------- */

static void complain(session *s, GError **error)
{
    fflush(stdout);
    fprintf(stderr, "rigpulse: %s; the run goes on\n", (*error)->message);
    g_clear_error(error);
    s->result->record_failed = true;
}

static void take_frame(session *s, const rp_frame *frame)
{
    g_autoptr(GError) error = NULL;
    if (s->recorder && !rp_recorder_frame(s->recorder, frame, &error)) {
        complain(s, &error);
    }
    if (!s->setup->frame(s->setup->self, &s->shape, frame)) {
        atomic_store(&s->stop, true);
    }
}

static void record_all(session *s)
{
    gint64 flushed = g_get_monotonic_time();
    for (;;) {
        const bool last = atomic_load(&s->ticked_out);
        const rp_frame *frame;
        while ((frame = rp_ring_peek(s->ring))) {
            take_frame(s, frame);
            rp_ring_drop(s->ring);
        }
        const gint64 now = g_get_monotonic_time();
        if (now - flushed > FLUSH_US) {
            flushed = now;
            fflush(stdout);
            g_autoptr(GError) error = NULL;
            if (s->recorder && !rp_recorder_flush(s->recorder, &error)) {
                complain(s, &error);
            }
        }
        if (last) {
            return;
        }
        g_usleep(IDLE_US);
    }
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
    if (s->setup->record) {
        s->recorder = rp_recorder_open(s->setup->record, rig, s->setup->seed, s->engine.value, error);
    }
    s->shape = rp_frame_shape_of(image);
    s->ring = rp_ring_new(s->shape.bytes,
                          CLAMP(RING_SECONDS * 1000000u / image->tick_us, RING_FRAMES_LEAST, RING_FRAMES_MOST));
    s->spare = g_malloc0(s->shape.bytes);
    s->open = next_frame(s);
    rp_engine_listen(&s->engine, take_event, s);
    return !s->setup->record || s->recorder;
}

static void end(session *s)
{
    g_autoptr(GError) error = NULL;
    if (s->recorder) {
        const char *ending = s->result->fault != RP_OK ? "fault" : s->result->interrupted ? "interrupted" : "complete";
        if (!rp_recorder_close(s->recorder, s->result->gaps, ending, &error)) {
            s->result->record_failed = true;
            if (error) {
                fprintf(stderr, "rigpulse: %s\n", error->message);
            }
        }
    }
    rp_ring_free(s->ring);
    rp_sim_free(s->sim);
    g_free(s->spare);
    g_free(s->memory);
}

/* Signals reach the thread that ticks, so that one ends its sleep. */
static void catch_signals(void)
{
    struct sigaction action = {.sa_handler = interrupt};
    sigset_t block;
    interrupted = 0;
    sigemptyset(&block);
    const int numbers[] = {SIGINT, SIGTERM, SIGHUP};
    for (size_t i = 0; i < G_N_ELEMENTS(numbers); i++) {
        sigaction(numbers[i], &action, NULL);
        sigaddset(&block, numbers[i]);
    }
    pthread_sigmask(SIG_BLOCK, &block, NULL);
}

bool session_run(const session_setup *setup, session_result *result, GError **error)
{
    session s = {.setup = setup, .result = result};
    *result = (session_result){0};
    const bool begun = begin(&s, error);
    if (begun) {
        catch_signals();
        GThread *ticker = g_thread_new("tick", tick_all, &s);
        record_all(&s);
        g_thread_join(ticker);
        result->lateness = rp_sim_lateness(s.sim);
    }
    end(&s);
    return begun;
}
