/* One device on a wire: its beginning, its losses, its lines. */
#include "device.h"

#include "tty.h"
#include "words.h"

#include "ports/clock.h"

#include <errno.h>
#include <math.h>
#include <string.h>
#include <unistd.h>

#define TRY_NS       500000000u /* from one try to open it to the next */
#define UNREAD_SHOWN 60u        /* characters */
#define AMID_NS      250000000u /* what comes so soon after it was opened may begin in the middle of a line */

/* ---- beginning ------------------------------------------------------------------------------------- */

static bool is_switch_sensor(const rgp_rig *rig, uint32_t i)
{
    const rgp_image_sensor *s = rgp_image_at(rig->image, RGP_SECTION_SENSORS);
    return s[i].kind == RGP_SENSOR_SWITCH;
}

static void find_channels(device *d, const rgp_rig *rig, const rgp_hookup *h, uint32_t which)
{
    d->sensor = g_new0(device_sensor, h->sensors + 1);
    d->actuator = g_new0(device_actuator, h->actuators + 1);
    for (uint32_t i = 0; i < h->sensors; i++) {
        if (h->sensor[i].mechanism == which) {
            d->sensor[d->sensors++] = (device_sensor){.item = &h->sensor[i],
                                                      .is_switch = is_switch_sensor(rig, h->sensor[i].sensor),
                                                      .fresh.quality = RGP_MISSING,
                                                      .newest.quality = RGP_MISSING};
        }
    }
    const rgp_image_actuator *a = rgp_image_at(rig->image, RGP_SECTION_ACTUATORS);
    for (uint32_t i = 0; i < h->actuators; i++) {
        const rgp_image_actuator *of = &a[h->actuator[i].actuator];
        if (h->actuator[i].mechanism == which) {
            d->actuator[d->actuators++] =
                (device_actuator){.item = &h->actuator[i],
                                  .is_switch = of->kind == RGP_ACTUATOR_SWITCH,
                                  .rest = of->inverted ? of->low + of->high - of->rest : of->rest};
        }
    }
}

/* Begins with an end of line: what was on its way may have stopped in the middle. */
static char *rest_lines(const device *d)
{
    GString *all = g_string_new(d->line_end);
    for (unsigned i = 0; i < d->actuators; i++) {
        char line[ORDER_MOST];
        order_compose(d->actuator[i].item, d->actuator[i].is_switch, d->line_end, d->actuator[i].rest, line);
        g_string_append(all, line);
    }
    if (d->item->text[DEVICE_END]) {
        g_string_append_printf(all, "%s%s", d->item->text[DEVICE_END], d->line_end);
    }
    return g_string_free(all, FALSE);
}

void device_begin(device *d, const rgp_rig *rig, const rgp_hookup *h, uint32_t which, const char *folder)
{
    const rgp_mechanism_item *item = &h->mechanism[which];
    memset(d, 0, sizeof *d);
    d->item = item;
    d->path = g_canonicalize_filename(item->text[DEVICE_PATH], folder);
    d->speed = (unsigned)item->value[DEVICE_SPEED];
    d->line_end = serial_line_end(item->value);
    d->comment = item->text[DEVICE_COMMENT] ? item->text[DEVICE_COMMENT] : "#";
    find_channels(d, rig, h, which);
    d->rest = rest_lines(d);
    atomic_store(&d->fd, -1);
    line_begin(&d->cells, item->value[DEVICE_JSON] != 0.0);
    g_mutex_init(&d->lock);
}

void device_end(device *d)
{
    const int fd = atomic_exchange(&d->fd, -1);
    if (fd >= 0) {
        close(fd);
    }
    line_end(&d->cells);
    g_mutex_clear(&d->lock);
    g_free(d->path);
    g_free(d->sensor);
    g_free(d->actuator);
    g_free(d->rest);
    g_free(d->last_unread);
    g_free(d->trouble);
}

/* ---- opening and losing ---------------------------------------------------------------------------- */

static void set_trouble(device *d, const char *text)
{
    g_free(d->trouble);
    d->trouble = g_strdup(text);
}

static int try_to_open(device *d, GError **error)
{
    const int fd = tty_open(d->path, d->speed, d->item->value[DEVICE_RESTARTS] > 0.0, error);
    if (fd >= 0) {
        d->bytes = (line_buffer){.skips = false};
        d->opened_ns = clock_wall_ns();
        atomic_fetch_add(&d->openings, 1);
        d->ready_ns = clock_wall_ns() + (uint64_t)(d->item->value[DEVICE_RESTARTS] * 1e9);
        atomic_store(&d->fd, fd);
    }
    return fd;
}

/* It has started: from now on its lines count, and it may be driven. */
static void get_ready(device *d)
{
    const char *start = d->item->text[DEVICE_START];
    if (start) {
        g_autofree char *line = g_strconcat(start, d->line_end, NULL);
        const ssize_t ignored = write(atomic_load(&d->fd), line, strlen(line));
        (void)ignored; /* one that takes nothing says so at its first order */
    }
    g_mutex_lock(&d->lock);
    set_trouble(d, NULL);
    d->gone_ns = 0;
    g_mutex_unlock(&d->lock);
    atomic_store(&d->ready, true);
}

bool device_open(device *d, GError **error)
{
    if (try_to_open(d, error) < 0) {
        return false;
    }
    g_usleep((gulong)(d->item->value[DEVICE_RESTARTS] * 1e6));
    get_ready(d);
    return true;
}

void device_lose(device *d, uint64_t now_ns)
{
    const int fd = atomic_exchange(&d->fd, -1);
    atomic_store(&d->ready, false);
    g_mutex_lock(&d->lock);
    close(fd); /* under the lock: whoever sends holds it, too */
    for (unsigned i = 0; i < d->sensors; i++) {
        d->sensor[i].newest.quality = RGP_MISSING;
        d->sensor[i].newest.stamp_ns = now_ns;
        d->sensor[i].newest.lines++;
        d->sensor[i].fresh = d->sensor[i].newest;
    }
    d->away += d->gone_ns == 0;
    d->gone_ns = d->gone_ns ? d->gone_ns : now_ns;
    g_autofree char *text = g_strdup_printf("%s (%s) is gone; it is looked for", d->item->name, d->path);
    set_trouble(d, text);
    g_mutex_unlock(&d->lock);
    d->try_ns = now_ns + TRY_NS;
}

void device_try_again(device *d, uint64_t now_ns)
{
    g_autoptr(GError) error = NULL;
    if (atomic_load(&d->fd) < 0 && now_ns >= d->try_ns && try_to_open(d, &error) < 0) {
        d->try_ns = now_ns + TRY_NS;
        g_mutex_lock(&d->lock);
        g_autofree char *text = g_strdup_printf("%s: %s", d->item->name, error->message);
        set_trouble(d, text);
        g_mutex_unlock(&d->lock);
    }
    if (atomic_load(&d->fd) >= 0 && !atomic_load(&d->ready) && now_ns >= d->ready_ns) {
        get_ready(d);
    }
}

/* ---- lines ----------------------------------------------------------------------------------------- */

static bool is_one_of(const char *text, const char *const *words)
{
    while (*words && g_ascii_strcasecmp(text, *words) != 0) {
        words++;
    }
    return *words != NULL;
}

static bool read_switch(const device_sensor *s, const char *text, const char **why)
{
    static const char *const on[] = {"1", "on", "true", "high", NULL}, *const off[] = {"0", "off", "false", "low",
                                                                                       NULL};
    const char *says_on = s->item->text[TAKES_ON], *says_off = s->item->text[TAKES_OFF];
    const bool is_on = says_on ? strcmp(text, says_on) == 0 : is_one_of(text, on),
               is_off = says_off ? strcmp(text, says_off) == 0 : is_one_of(text, off);
    *why = is_on || is_off ? *why : "a switch says neither on nor off; what it says stands behind on and off";
    return is_on;
}

static int32_t read_count(const device_sensor *s, const char *text, const char **why)
{
    double number;
    if (!line_number(text, &number)) {
        *why = strchr(text, ',') ? "a number has a decimal comma; a point is what is read" : "a number is expected";
        return 0;
    }
    number = round(number * s->item->value[TAKES_TIMES] + s->item->value[TAKES_PLUS]);
    if (!(fabs(number) < 2147483648.0)) {
        *why = "a number is larger than a reading can be; bring it down by 'times'";
        return 0;
    }
    return (int32_t)number;
}

static bool says_nothing(const char *text)
{
    static const char *const nothing[] = {"", "nan", "null", "-", NULL};
    return is_one_of(text, nothing);
}

/* False when the line has none of it. *why is left alone when all is well. */
static bool read_cell(device *d, device_sensor *s, const char **why)
{
    const char *none;
    const char *text = line_cell(&d->cells, (unsigned)s->item->constant, s->item->column, &none);
    if (!text) {
        return false;
    }
    const bool nothing = says_nothing(text);
    const char *wrong = NULL;
    if (!nothing) {
        s->fresh.raw = s->is_switch ? read_switch(s, text, &wrong) : read_count(s, text, &wrong);
    }
    s->fresh.quality = nothing || wrong ? RGP_MISSING : RGP_GOOD;
    s->fresh.lines++;
    *why = wrong ? wrong : *why;
    return true;
}

static bool names_a_column(const device *d)
{
    for (unsigned i = 0; i < d->sensors && !d->cells.json; i++) {
        const char *name = d->sensor[i].item->column;
        if (name && g_ptr_array_find_with_equal_func(d->cells.cell, name, g_str_equal, NULL)) {
            return true;
        }
    }
    return false;
}

/* Only this thread changes the newest ones. */
static void forget_fresh(device *d)
{
    for (unsigned i = 0; i < d->sensors; i++) {
        d->sensor[i].fresh = d->sensor[i].newest;
    }
}

/* Cells that are wrong make their readings missing, and the line one that could not be read; of a heading nothing is
 * expected. */
static void read_cells(device *d, const char **why)
{
    const bool heading = !d->cells.json && line_is_heading(&d->cells);
    if (heading && names_a_column(d)) {
        line_name_columns(&d->cells);
        return;
    }
    unsigned taken = 0;
    for (unsigned i = 0; i < d->sensors; i++) {
        taken += read_cell(d, &d->sensor[i], why);
    }
    if (heading && *why) {
        *why = NULL;
        forget_fresh(d);
    } else if (!heading && taken == 0 && d->sensors > 0) {
        line_cell(&d->cells, (unsigned)d->sensor[0].item->constant, d->sensor[0].item->column, why);
    }
}

static void keep_unread(device *d, const char *line, const char *why)
{
    g_autofree char *valid = g_utf8_make_valid(line ? line : "", -1);
    g_autofree char *shown = g_utf8_substring(valid, 0, MIN(g_utf8_strlen(valid, -1), UNREAD_SHOWN));
    g_free(d->last_unread);
    d->last_unread = g_strdup_printf("'%s': %s", rgp_make_printable(shown, false), why);
    d->unread++;
}

static void take_line(void *self, const char *line)
{
    device *d = self;
    const char *why = line ? NULL : "a line has more than 4096 characters";
    if (line && g_str_has_prefix(line, d->comment)) {
        return;
    }
    if (line && line_split(&d->cells, line, &why)) {
        read_cells(d, &why);
    }
    if (!atomic_load(&d->ready)) { /* of what it prints while it starts, the heading counts */
        forget_fresh(d);
        return;
    }
    const uint64_t now_ns = clock_wall_ns();
    g_mutex_lock(&d->lock);
    d->lines++;
    for (unsigned i = 0; i < d->sensors; i++) {
        device_sensor *s = &d->sensor[i];
        if (s->fresh.lines != s->newest.lines) {
            s->fresh.stamp_ns = now_ns;
            s->newest = s->fresh;
        }
    }
    if (why) {
        keep_unread(d, line, why);
    }
    g_mutex_unlock(&d->lock);
}

/* A half line that comes first is left aside without a word. */
bool device_read(device *d)
{
    char bytes[1024];
    ssize_t got;
    while ((got = read(atomic_load(&d->fd), bytes, sizeof bytes)) > 0) {
        if (d->opened_ns) {
            d->bytes.skips = clock_wall_ns() - d->opened_ns < AMID_NS;
            d->opened_ns = 0;
        }
        line_take_bytes(&d->bytes, bytes, (gsize)got, take_line, d);
    }
    return got < 0 && (errno == EAGAIN || errno == EINTR);
}
