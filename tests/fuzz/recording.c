/* The files of a recording, one behind the other with a zero byte between them -> read, marked, drawn, replayed through
 * the text in it, compared. */
#include "fuzz.h"

#include "analysis/differences.h"
#include "analysis/figures/figure.h"
#include "runtime/marks.h"
#include "runtime/replay.h"

#include <glib.h>
#include <glib/gstdio.h>
#include <string.h>

static void put(const char *ending, const uint8_t *data, size_t size)
{
    char *path = g_strconcat(fuzz_folder(), "/r", ending, NULL);
    g_unlink(path); /* else what was longer before would stand behind it: nothing is cut off */
    fuzz_insist(g_file_set_contents_full(path, (const char *)data, (gssize)size, G_FILE_SET_CONTENTS_NONE, 0644, NULL));
    g_free(path);
}

static size_t part(const uint8_t *data, size_t size)
{
    const uint8_t *end = memchr(data, 0, size);
    return end ? (size_t)(end - data) : size;
}

static void replay(const rgp_recording *r)
{
    rgp_replay *again = rgp_replay_new(r->rig, r, NULL, NULL);
    rgp_history *h = rgp_history_new(r->image, 0);
    const rgp_frame *frame;
    while ((frame = rgp_replay_next(again))) {
        rgp_history_frame(h, rgp_replay_layout(again), frame);
    }
    rgp_differences_free(rgp_differences_of(r, r->rig, h, 1.0));
    fuzz_insist(g_utf8_validate(rgp_replay_says(again), -1, NULL));
    rgp_history_free(h);
    rgp_replay_free(again);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static const char *const endings[] = {".json", ".csv", ".events.jsonl", ".marks.jsonl"};
    for (size_t i = 0; i < G_N_ELEMENTS(endings); i++) {
        const size_t length = size ? part(data, size) : 0, step = length < size ? length + 1 : length;
        put(endings[i], data, length);
        data += step;
        size -= step;
    }
    GError *error = NULL;
    char *name = g_strconcat(fuzz_folder(), "/r", NULL);
    rgp_recording *r = rgp_recording_read(name, &error);
    fuzz_insist((r == NULL) == (error != NULL));
    if (r) {
        g_free(rgp_recording_complaint(r));
        const double from = (double)rgp_recording_time_us(r, 0) / 1e6;
        rgp_mark_change_one(r, &(rgp_mark_change){RGP_MARK_PUT, 0, "x", from, from}, NULL);
        g_string_free(rgp_figure_script(r, &(rgp_figure){"x.png", 640, 400}), TRUE);
        fuzz_insist(g_utf8_validate(r->ending, -1, NULL));
        replay(r);
    }
    rgp_recording_free(r);
    g_clear_error(&error);
    g_free(name);
    return 0;
}
