/* The other end of a wire, on a pseudo-terminal. */
#include "standin.h"

#include "line.h"
#include "order.h"
#include "words.h"

#include "rigpulse/image.h"

#include <errno.h>
#include <fcntl.h>
#include <gio/gio.h>
#include <math.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

#define HEADING_LINES 50u /* from one heading to the next */

struct rgp_standin {
    const rgp_rig *rig;
    const rgp_hookup *hookup;
    uint32_t which;
    const rgp_mechanism_item *item;
    char *path;
    int fd; /* the other end of what is opened there */
    bool open;
    uint64_t lines;
    line_buffer bytes;
    float *value; /* while it listens */
};

static bool fail(const char *path, GError **error)
{
    g_set_error(error, G_IO_ERROR, g_io_error_from_errno(errno), "%s: %s", path, g_strerror(errno));
    return false;
}

/* The end that is opened begins raw, and is opened and closed once: from then on it tells whether somebody has it open.
 */
static bool begin_terminal(rgp_standin *s, GError **error)
{
    s->fd = posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (s->fd < 0 || grantpt(s->fd) != 0 || unlockpt(s->fd) != 0) {
        return fail("a pseudo-terminal", error);
    }
    const char *name = ptsname(s->fd);
    const int end = open(name, O_RDWR | O_NOCTTY | O_CLOEXEC);
    struct termios line;
    if (end < 0 || tcgetattr(end, &line) != 0) {
        return fail(name, error);
    }
    line.c_iflag = line.c_oflag = line.c_lflag = 0;
    tcsetattr(end, TCSANOW, &line);
    close(end);
    return true;
}

/* A link of an earlier stand-in, that leads nowhere any more, is taken over. */
static bool begin_link(const rgp_standin *s, GError **error)
{
    const char *name = ptsname(s->fd);
    if (symlink(name, s->path) == 0) {
        return true;
    }
    g_autofree char *leads = errno == EEXIST ? g_file_read_link(s->path, NULL) : NULL;
    if (leads && g_str_has_prefix(leads, "/dev/pts/") && access(s->path, F_OK) != 0 && unlink(s->path) == 0 &&
        symlink(name, s->path) == 0) {
        return true;
    }
    if (errno == EEXIST) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_EXISTS,
                    "%s: something is there already; a stand-in that runs, or a device", s->path);
        return false;
    }
    return fail(s->path, error);
}

rgp_standin *rgp_standin_new(const rgp_rig *rig, const rgp_hookup *hookup, uint32_t which, GError **error)
{
    const rgp_mechanism_item *item = &hookup->mechanism[which];
    g_autofree char *folder = g_path_get_dirname(rig->file);
    g_autofree char *from = g_canonicalize_filename(folder, NULL);
    rgp_standin *s = g_new0(rgp_standin, 1);
    *s = (rgp_standin){.rig = rig, .hookup = hookup, .which = which, .item = item, .fd = -1};
    char *path = g_canonicalize_filename(item->text[DEVICE_PATH], from);
    s->path = path;
    if (!begin_terminal(s, error) || !begin_link(s, error)) {
        s->path = NULL; /* what is there is not its own */
        g_free(path);
        rgp_standin_free(s);
        return NULL;
    }
    return s;
}

void rgp_standin_free(rgp_standin *s)
{
    if (!s) {
        return;
    }
    if (s->path) {
        unlink(s->path);
        g_free(s->path);
    }
    if (s->fd >= 0) {
        close(s->fd);
    }
    g_free(s);
}

const char *rgp_standin_path(const rgp_standin *s)
{
    return s->path;
}

void rgp_standin_write(rgp_standin *s, const char *bytes)
{
    const ssize_t ignored = write(s->fd, bytes, strlen(bytes)); /* for nobody, when nobody takes it */
    (void)ignored;
}

/* ---- what it prints -------------------------------------------------------------------------------- */

static bool is_switch(const rgp_standin *s, const rgp_sensor_item *item)
{
    return ((const rgp_image_sensor *)rgp_image_at(s->rig->image, RGP_SECTION_SENSORS))[item->sensor].kind ==
           RGP_SENSOR_SWITCH;
}

static void put_reading(const rgp_standin *s, const rgp_sensor_item *item, double raw, GString *to)
{
    char number[G_ASCII_DTOSTR_BUF_SIZE];
    if (isnan(raw)) {
        return;
    }
    if (is_switch(s, item)) {
        const char *says = item->text[raw != 0.0 ? TAKES_ON : TAKES_OFF];
        g_string_append(to, says ? says : raw != 0.0 ? "1" : "0");
        return;
    }
    g_string_append(to, g_ascii_formatd(number, sizeof number, "%.10g",
                                        (raw - item->value[TAKES_PLUS]) / item->value[TAKES_TIMES]));
}

/* The sensor of a column, from 1; where columns have names, they stand in the order of the hook-up. NULL: there is
 * none.
 */
static const rgp_sensor_item *sensor_of(const rgp_standin *s, uint32_t column)
{
    uint32_t named = 0;
    for (uint32_t i = 0; i < s->hookup->sensors; i++) {
        const rgp_sensor_item *is = &s->hookup->sensor[i];
        named += is->mechanism == s->which && is->column;
        if (is->mechanism == s->which && (is->column ? named : is->constant) == column) {
            return is;
        }
    }
    return NULL;
}

static uint32_t last_column(const rgp_standin *s)
{
    double last = 0.0;
    uint32_t named = 0;
    for (uint32_t i = 0; i < s->hookup->sensors; i++) {
        const rgp_sensor_item *is = &s->hookup->sensor[i];
        if (is->mechanism == s->which) {
            named += is->column != NULL;
            last = is->column ? last : MAX(last, is->constant);
        }
    }
    return MAX((uint32_t)last, named);
}

static bool put_row(const rgp_standin *s, const double *raw, GString *to)
{
    const uint32_t columns = last_column(s);
    bool named = false;
    for (uint32_t i = 1; i <= columns; i++) {
        const rgp_sensor_item *is = sensor_of(s, i);
        g_string_append(to, i > 1 ? "," : "");
        if (is && raw) {
            put_reading(s, is, raw[is->sensor], to);
        } else if (is && is->column) {
            g_string_append(to, is->column);
            named = true;
        }
    }
    g_string_append_c(to, '\n');
    return named || raw;
}

static void put_object(const rgp_standin *s, const double *raw, GString *to)
{
    json_t *object = json_object();
    for (uint32_t i = 0; i < s->hookup->sensors; i++) {
        const rgp_sensor_item *is = &s->hookup->sensor[i];
        if (is->mechanism == s->which && !isnan(raw[is->sensor])) {
            g_autoptr(GString) text = g_string_new(NULL);
            double number;
            put_reading(s, is, raw[is->sensor], text);
            json_object_set_new(object, is->column,
                                line_number(text->str, &number) ? json_real(number) : json_string(text->str));
        }
    }
    char *line = json_dumps(object, JSON_COMPACT | JSON_REAL_PRECISION(10));
    g_string_append_printf(to, "%s\n", line);
    free(line);
    json_decref(object);
}

/* A reader that opens it finds a heading first, where it has one. */
void rgp_standin_print(rgp_standin *s, const double *raw)
{
    struct pollfd at = {.fd = s->fd, .events = POLLOUT};
    g_autoptr(GString) line = g_string_new(NULL);
    const bool open = poll(&at, 1, 0) >= 0 && !(at.revents & POLLHUP);
    s->lines = open && s->open ? s->lines + 1 : 0;
    s->open = open;
    if (!open || !(at.revents & POLLOUT)) {
        return;
    }
    if (s->item->value[DEVICE_JSON] != 0.0) {
        put_object(s, raw, line);
    } else {
        if (s->lines % HEADING_LINES == 1 && !put_row(s, NULL, line)) {
            g_string_truncate(line, 0);
        }
        put_row(s, raw, line);
    }
    rgp_standin_write(s, line->str);
}

/* ---- what it is told ------------------------------------------------------------------------------- */

static void take_order(void *self, const char *line)
{
    const rgp_standin *s = self;
    const rgp_image_actuator *a = rgp_image_at(s->rig->image, RGP_SECTION_ACTUATORS);
    for (uint32_t i = 0; line && i < s->hookup->actuators; i++) {
        const rgp_actuator_item *is = &s->hookup->actuator[i];
        const float value =
            is->mechanism == s->which ? order_read(is, a[is->actuator].kind == RGP_ACTUATOR_SWITCH, line) : NAN;
        if (!isnan(value)) {
            s->value[is->actuator] = CLAMP(value, a[is->actuator].low, a[is->actuator].high);
        }
    }
}

void rgp_standin_listen(rgp_standin *s, float *value)
{
    char bytes[1024];
    ssize_t got;
    s->value = value;
    while ((got = read(s->fd, bytes, sizeof bytes)) > 0) {
        line_take_bytes(&s->bytes, bytes, (gsize)got, take_order, s);
    }
}
