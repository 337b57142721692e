/* One column of a recording as a sound: a sample a tick, as 32-bit floats. Of a sensor silence is the middle of its
 * range, and full scale its ends, as `plays` reads it back; of other values the middle of what they were. */
#include "exports.h"

#include "files/files.h"

#include <gio/gio.h>
#include <glib/gstdio.h>
#include <gmodule.h>
#include <math.h>
#include <sndfile.h>
#include <string.h>

#define SNDFILE_LIBRARY "libsndfile.so.1" /* loaded when it is needed: it brings many others along */
#define PIECE           4096u
#define RATE_MOST       1000000.0

typedef struct sound_writer {
    GModule *library;
    SNDFILE *(*open)(const char *path, int mode, SF_INFO *info);
    sf_count_t (*write)(SNDFILE *file, const float *sample, sf_count_t count);
    int (*close)(SNDFILE *file);
} sound_writer;

static bool load(sound_writer *w, GError **error)
{
    w->library = g_module_open(SNDFILE_LIBRARY, G_MODULE_BIND_LAZY | G_MODULE_BIND_LOCAL);
    const bool loaded = w->library && g_module_symbol(w->library, "sf_open", (gpointer *)(void *)&w->open) &&
                        g_module_symbol(w->library, "sf_write_float", (gpointer *)(void *)&w->write) &&
                        g_module_symbol(w->library, "sf_close", (gpointer *)(void *)&w->close);
    if (!loaded) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "to write a sound libsndfile is needed: %s",
                    g_module_error());
    }
    return loaded;
}

static const rgp_export_column *find_column(const GArray *columns, const rgp_export *ask, GError **error)
{
    g_autoptr(GString) all = g_string_new(NULL);
    for (guint i = 0; i < columns->len; i++) {
        const rgp_export_column *c = &g_array_index(columns, rgp_export_column, i);
        if (strcmp(c->name, ask->column) == 0) {
            return c;
        }
        g_string_append_printf(all, "%s%s", i ? ", " : "", c->name);
    }
    g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "there is no column '%s' in this recording; there are: %s",
                ask->column, all->str);
    return NULL;
}

/* Of a sensor what it can say, of others what they said. */
static void find_scale(const rgp_recording *r, const rgp_export_column *c, double *low, double *high)
{
    const rgp_image_sensor *sensor = rgp_image_at(r->image, RGP_SECTION_SENSORS);
    const uint32_t first = rgp_image_sensor_slot(r->image, 0);
    if (c->slot >= first && c->slot < first + rgp_image_count(r->image, RGP_SECTION_SENSORS)) {
        *low = sensor[c->slot - first].supervision.low;
        *high = sensor[c->slot - first].supervision.high;
        return;
    }
    const rgp_extent is = rgp_history_extent(r->history, c->column, 0, r->rows);
    *low = is.usable ? (double)is.least : 0.0;
    *high = is.usable && is.greatest > is.least ? (double)is.greatest : *low + 1.0;
}

/* Rows where time has leapt are no steady rate. */
static uint32_t uneven_rows(const rgp_recording *r)
{
    uint32_t uneven = 0;
    for (uint32_t row = 1; row < r->rows; row++) {
        const uint64_t passed = rgp_recording_time_us(r, row) - rgp_recording_time_us(r, row - 1);
        uneven += passed > r->image->tick_us + r->image->tick_us / 2 || passed < r->image->tick_us / 2;
    }
    return uneven;
}

/* A sample that is not to be used is filled with the one before it. */
static bool put_samples(const sound_writer *w, SNDFILE *to, const rgp_export *ask, const rgp_export_column *c)
{
    const rgp_recording *r = ask->recording;
    float piece[PIECE];
    double low, high;
    uint32_t filled = 0, count = 0;
    float before = 0.0f;
    bool sound = true;
    find_scale(r, c, &low, &high);
    for (uint32_t row = 0; row < r->rows && sound; row++) {
        const bool usable = rgp_usable(rgp_history_quality(r->history, c->column, row));
        const double value = (double)rgp_history_value(r->history, c->column, row);
        before = usable ? (float)fmax(-1.0, fmin(1.0, 2.0 * (value - low) / (high - low) - 1.0)) : before;
        filled += !usable;
        piece[count++] = before;
        if (count == PIECE || row + 1 == r->rows) {
            sound = w->write(to, piece, count) == count;
            count = 0;
        }
    }
    g_string_append_printf(ask->says, "%s: %g to %g %s from end to end of the scale\n", c->name, low, high, c->unit);
    if (filled) {
        g_string_append_printf(ask->says, "%u samples were not to be used, and repeat the one before\n", filled);
    }
    return sound;
}

static bool write_sound(const sound_writer *w, const rgp_export *ask, const rgp_export_column *c, GError **error)
{
    const rgp_recording *r = ask->recording;
    const double rate = 1e6 / r->image->tick_us;
    SF_INFO info = {.samplerate = (int)lround(rate), .channels = 1, .format = SF_FORMAT_WAV | SF_FORMAT_FLOAT};
    g_autofree char *beside = rgp_file_temporary(ask->path);
    const uint32_t uneven = uneven_rows(r);
    if (rate < 1.0 || rate > RATE_MOST) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_SUPPORTED, "a tick of %g ms is no rate that a sound can have",
                    r->image->tick_us / 1e3);
        return false;
    }
    if (fabs(rate - info.samplerate) > 1e-6) {
        g_string_append_printf(ask->says, "a sound has a whole rate: %d instead of %.6g samples a second\n",
                               info.samplerate, rate);
    }
    if (uneven) {
        g_string_append_printf(ask->says,
                               "%u rows are not a tick behind the one before them, which a sound cannot say\n", uneven);
    }
    rgp_file_sweep(ask->path);
    SNDFILE *to = w->open(beside, SFM_WRITE, &info);
    bool written = to && put_samples(w, to, ask, c);
    written = to && w->close(to) == 0 && written && g_rename(beside, ask->path) == 0;
    if (!written) {
        g_unlink(beside);
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s cannot be written", ask->path);
    }
    return written;
}

bool rgp_export_wav(const rgp_export *ask, GError **error)
{
    sound_writer w = {0};
    g_autoptr(GArray) columns = rgp_export_columns(ask->recording);
    const rgp_export_column *c = find_column(columns, ask, error);
    const bool written = c && load(&w, error) && write_sound(&w, ask, c, error);
    if (w.library) {
        g_module_close(w.library);
    }
    return written;
}
