/* The serial port: the contract, and the thread that reads. */
#include "serial.h"

#include "device.h"
#include "guardian.h"
#include "words.h"

#include <fcntl.h>
#include <glib-unix.h>
#include <poll.h>
#include <string.h>
#include <unistd.h>

#define FIRST_MS  1000 /* for the first line of each device */
#define LOOK_MS   5
#define AGAIN_MS  100      /* while a device is away, or is starting */
#define REPEAT_US 1000000u /* the engine writes each output at least so often: a device that has gone is noticed */

/* Of one sensor of the rig, by the thread that ticks. */
typedef struct taken {
    device_sensor *of;      /* NULL: not connected */
    device_reading reading; /* copied in gather() */
    uint32_t handed;        /* lines that had told it when it was handed out last */
    uint64_t time_us;       /* that was said then */
} taken;

struct rgp_serial {
    rgp_port port;
    const rgp_hookup *hookup;
    wall_clock clock;
    uint64_t now_ns; /* of the last time that was told */
    device *device;
    unsigned devices;
    taken *sensor;
    device_actuator **actuator; /* by number; NULL: not connected */
    device **driven;            /* likewise: by whom */
    uint32_t sensors, actuators;
    uint64_t passed_over; /* readings that a newer one of the same tick came behind */
    guardian guardian;
    GThread *reader;
    atomic_bool leaving;
    int wake[2];
};

/* ---- the thread that reads ------------------------------------------------------------------------- */

static void look_after(device *d, const struct pollfd *at, uint64_t now_ns)
{
    const bool lost = at->fd >= 0 && at->revents && (!device_read(d) || (at->revents & (POLLERR | POLLNVAL)));
    const bool hung_up = at->fd >= 0 && (at->revents & POLLHUP);
    if (lost || hung_up) {
        device_lose(d, now_ns);
    }
    device_try_again(d, now_ns);
}

static gpointer read_all(gpointer self)
{
    rgp_serial *s = self;
    g_autofree struct pollfd *at = g_new0(struct pollfd, s->devices + 1);
    while (!atomic_load(&s->leaving)) {
        bool waits = false;
        for (unsigned i = 0; i < s->devices; i++) {
            at[i] = (struct pollfd){.fd = atomic_load(&s->device[i].fd), .events = POLLIN};
            waits |= !atomic_load(&s->device[i].ready);
        }
        at[s->devices] = (struct pollfd){.fd = s->wake[0], .events = POLLIN};
        poll(at, s->devices + 1, waits ? AGAIN_MS : -1);
        for (unsigned i = 0; i < s->devices; i++) {
            look_after(&s->device[i], &at[i], clock_wall_ns());
        }
    }
    return NULL;
}

/* ---- the contract ---------------------------------------------------------------------------------- */

static uint64_t serial_now(void *self)
{
    rgp_serial *s = self;
    s->now_ns = clock_wall_ns();
    return clock_time_us(&s->clock, s->now_ns);
}

static rgp_status serial_sleep_until(void *self, uint64_t time_us)
{
    clock_sleep(&((rgp_serial *)self)->clock, time_us);
    return RGP_OK;
}

static void take_readings(rgp_serial *s, const device *d)
{
    for (uint32_t i = 0; i < s->sensors; i++) {
        taken *t = &s->sensor[i];
        if (t->of >= d->sensor && t->of < d->sensor + d->sensors) {
            t->reading = t->of->newest;
        }
    }
}

/* A device whose lock the other thread has is looked at in the next tick. */
static rgp_status serial_gather(void *self)
{
    rgp_serial *s = self;
    for (unsigned i = 0; i < s->devices; i++) {
        if (g_mutex_trylock(&s->device[i].lock)) {
            take_readings(s, &s->device[i]);
            g_mutex_unlock(&s->device[i].lock);
        }
    }
    return RGP_OK;
}

/* The moment is that at which the line was whole; a clock that was moved on takes it along. */
static rgp_status serial_read(void *self, uint16_t sensor, rgp_sample *sample)
{
    rgp_serial *s = self;
    if (sensor >= s->sensors) {
        return RGP_E_INDEX;
    }
    taken *t = &s->sensor[sensor];
    const device_reading *r = &t->reading;
    if (!t->of || r->lines == 0) {
        *sample = (rgp_sample){.time_us = serial_now(s), .quality = RGP_MISSING};
        return RGP_OK;
    }
    const uint32_t fresh = r->lines - t->handed;
    s->passed_over += fresh > 1 ? fresh - 1 : 0;
    if (fresh > 0) {
        const uint64_t time_us = clock_time_us(&s->clock, r->stamp_ns);
        t->time_us = MAX(time_us, t->time_us);
        t->handed = r->lines;
    }
    *sample = (rgp_sample){.time_us = t->time_us, .raw = r->raw, .quality = r->quality, .same = fresh == 0};
    return RGP_OK;
}

static rgp_status serial_write(void *self, uint16_t actuator, float value)
{
    const rgp_serial *s = self;
    if (actuator >= s->actuators) {
        return RGP_E_INDEX;
    }
    return s->actuator[actuator] ? device_write(s->driven[actuator], s->actuator[actuator], value, clock_wall_ns())
                                 : RGP_OK;
}

static rgp_status serial_commit(void *self)
{
    const rgp_serial *s = self;
    for (unsigned i = 0; i < s->devices; i++) {
        device_send(&s->device[i], clock_wall_ns());
    }
    return RGP_OK;
}

static void serial_rest_now(void *self)
{
    const rgp_serial *s = self;
    for (unsigned i = 0; i < s->devices; i++) {
        device_rest_now(&s->device[i]);
    }
}

/* ---- beginning and ending -------------------------------------------------------------------------- */

static void connect_channels(rgp_serial *s)
{
    for (unsigned i = 0; i < s->devices; i++) {
        device *d = &s->device[i];
        for (unsigned k = 0; k < d->sensors; k++) {
            s->sensor[d->sensor[k].item->sensor].of = &d->sensor[k];
        }
        for (unsigned k = 0; k < d->actuators; k++) {
            s->actuator[d->actuator[k].item->actuator] = &d->actuator[k];
            s->driven[d->actuator[k].item->actuator] = d;
        }
    }
}

static void begin_devices(rgp_serial *s, const rgp_rig *rig)
{
    g_autofree char *folder = g_path_get_dirname(rig->file);
    g_autofree char *from = g_canonicalize_filename(folder, NULL);
    s->devices = s->hookup->mechanisms;
    s->device = g_new0(device, s->devices);
    for (unsigned i = 0; i < s->devices; i++) {
        device_begin(&s->device[i], rig, s->hookup, i, from);
    }
    s->sensors = rgp_image_count(rig->image, RGP_SECTION_SENSORS);
    s->actuators = rgp_image_count(rig->image, RGP_SECTION_ACTUATORS);
    s->sensor = g_new0(taken, s->sensors + 1);
    s->actuator = g_new0(device_actuator *, s->actuators + 1);
    s->driven = g_new0(device *, s->actuators + 1);
    connect_channels(s);
}

static bool open_devices(rgp_serial *s, const rgp_rig *rig, GError **error)
{
    for (unsigned i = 0; i < s->devices; i++) {
        if (!device_open(&s->device[i], error)) {
            g_prefix_error(error, "%s:%u: ", rig->file, s->device[i].item->line);
            return false;
        }
    }
    return true;
}

static bool begin_wake(rgp_serial *s, GError **error)
{
    return g_unix_open_pipe(s->wake, FD_CLOEXEC, error);
}

static bool all_have_spoken(rgp_serial *s)
{
    bool all = true;
    for (unsigned i = 0; i < s->devices; i++) {
        device *d = &s->device[i];
        g_mutex_lock(&d->lock);
        all &= d->lines > 0 || d->sensors == 0;
        g_mutex_unlock(&d->lock);
    }
    return all;
}

/* So that the first tick has readings, where they come at once. */
static void wait_for_lines(rgp_serial *s)
{
    for (int waited = 0; waited < FIRST_MS && !all_have_spoken(s); waited += LOOK_MS) {
        g_usleep(LOOK_MS * 1000);
    }
}

rgp_serial *rgp_serial_new(const rgp_rig *rig, bool guard, GError **error)
{
    if (!rgp_serial_check(rig, rig->hookup, error)) {
        return NULL;
    }
    rgp_serial *s = g_new0(rgp_serial, 1);
    s->hookup = rig->hookup;
    s->wake[0] = s->wake[1] = -1;
    s->port = (rgp_port){.version = RGP_PORT_VERSION,
                         .self = s,
                         .now = serial_now,
                         .sleep_until = serial_sleep_until,
                         .read = serial_read,
                         .write = serial_write,
                         .rest_now = serial_rest_now,
                         .gather = serial_gather,
                         .commit = serial_commit,
                         .repeat_us = REPEAT_US};
    begin_devices(s, rig);
    if ((guard && !guardian_begin(&s->guardian, s->device, s->devices, error)) || !open_devices(s, rig, error) ||
        !begin_wake(s, error)) {
        rgp_serial_free(s);
        return NULL;
    }
    s->reader = g_thread_new("wire", read_all, s);
    wait_for_lines(s);
    clock_begin_at(&s->clock, 0);
    return s;
}

void rgp_serial_free(rgp_serial *s)
{
    if (!s) {
        return;
    }
    if (s->reader) {
        atomic_store(&s->leaving, true);
        const ssize_t ignored = write(s->wake[1], "", 1);
        (void)ignored;
        g_thread_join(s->reader);
    }
    for (unsigned i = 0; i < s->devices; i++) {
        device_finish(&s->device[i]);
        device_end(&s->device[i]);
    }
    guardian_end(&s->guardian);
    for (int i = 0; i < 2; i++) {
        if (s->wake[i] >= 0) {
            close(s->wake[i]);
        }
    }
    g_free(s->device);
    g_free(s->sensor);
    g_free(s->actuator);
    g_free(s->driven);
    g_free(s);
}

const rgp_port *rgp_serial_port(rgp_serial *s)
{
    return &s->port;
}

rgp_lateness rgp_serial_lateness(const rgp_serial *s)
{
    return clock_lateness(&s->clock);
}

void rgp_serial_catch_up(rgp_serial *s)
{
    clock_begin_at(&s->clock, clock_time_us(&s->clock, s->now_ns));
}

/* ---- telling --------------------------------------------------------------------------------------- */

char *rgp_serial_trouble(rgp_serial *s)
{
    char *text = NULL;
    for (unsigned i = 0; i < s->devices && !text; i++) {
        device *d = &s->device[i];
        g_mutex_lock(&d->lock);
        if (d->trouble) {
            text = g_strdup(d->trouble);
        } else if (d->unread * 2 > d->lines) {
            text = g_strdup_printf("%s: lines cannot be read, %s", d->item->name, d->last_unread);
        }
        g_mutex_unlock(&d->lock);
    }
    return text;
}

static void tell_device(device *d, GString *to)
{
    g_mutex_lock(&d->lock);
    g_string_append_printf(to, "%s%s: %" G_GUINT64_FORMAT " lines", to->len ? "\n" : "", d->item->name, d->lines);
    if (d->unread) {
        g_string_append_printf(to, ", %" G_GUINT64_FORMAT " could not be read, last %s", d->unread, d->last_unread);
    }
    if (d->away) {
        g_string_append_printf(to, "; it was gone %" G_GUINT64_FORMAT " %s", d->away, d->away == 1 ? "time" : "times");
    }
    if (d->trouble) {
        g_string_append_printf(to, "; %s", d->trouble);
    }
    g_mutex_unlock(&d->lock);
}

char *rgp_serial_account(rgp_serial *s)
{
    GString *all = g_string_new(NULL);
    for (unsigned i = 0; i < s->devices; i++) {
        tell_device(&s->device[i], all);
    }
    if (s->passed_over) {
        g_string_append_printf(all,
                               "\n%" G_GUINT64_FORMAT " readings came with a newer one in the same tick, which "
                               "counted in their stead",
                               s->passed_over);
    }
    return g_string_free(all, FALSE);
}
