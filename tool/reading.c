/* A recording read whole, with its progress shown where that takes long. */
#include "reading.h"

#include "runtime/moment.h"

#include <gio/gio.h>
#include <math.h>
#include <stdio.h>
#include <unistd.h>

#define LONG_US 300000 /* from here on it is told */

rgp_recording *reading_whole(const char *name, GError **error)
{
    const bool seen = isatty(STDERR_FILENO);
    bool told = false;
    rgp_recording *r = rgp_recording_open(name, error);
    while (r && rgp_recording_go_on(r, LONG_US)) {
        if (seen) {
            fprintf(stderr, "\rreading, %.0f %%", 100.0 * rgp_recording_share(r));
            told = true;
        }
    }
    if (told) {
        fputs("\r               \r", stderr);
    }
    if (r && r->rows == 0) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_FAILED, "%s was changed while it was read", name);
        rgp_recording_free(r);
        return NULL;
    }
    return r;
}

bool reading_moment(const command *self, const rgp_recording *r, const char *option, const char *text, uint64_t *row)
{
    double seconds;
    if (text && !rgp_moment_of(r->history, text, &seconds)) {
        return command_fails(
            self, "%s %s: it is no time, and the recording has no such mark and no such line that fired", option, text);
    }
    *row = text ? rgp_history_find(r->history, (uint64_t)llround(fmax(0.0, seconds) * 1e6)) : *row;
    return true;
}
