/* Places of a replay as a file of the user's cache. */
#include "places.h"

#include "rigpulse/version.h"

#include <glib/gstdio.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define SUM_BYTES  32
#define FILES_MOST 32u

typedef struct head {
    char what[8];
    uint32_t bits, places;
    uint64_t replay, trace; /* bytes of each place */
} head;

static const char magic[8] = "rgplace";

static void clear_place(void *data)
{
    const rgp_place_kept *p = data;
    rgp_replay_place_free(p->replay);
    rgp_trace_free(p->trace);
}

GArray *rgp_places_new(void)
{
    GArray *places = g_array_new(FALSE, FALSE, sizeof(rgp_place_kept));
    g_array_set_clear_func(places, clear_place);
    return places;
}

/* ---- the file -------------------------------------------------------------------------------------- */

static bool add_file(GChecksum *sum, const char *name, const char *ending)
{
    g_autofree char *path = g_strconcat(name, ending, NULL), *text = NULL;
    gsize length = 0;
    const bool read = g_file_get_contents(path, &text, &length, NULL);
    g_checksum_update(sum, (const guchar *)(read ? text : ""), (gssize)length);
    return read;
}

/* The program that runs: another build may lay out its memory in another way. */
static bool add_build(GChecksum *sum)
{
    struct stat is;
    const bool known = stat("/proc/self/exe", &is) == 0;
    const int64_t build[] = {(int64_t)is.st_size, (int64_t)is.st_mtim.tv_sec, (int64_t)is.st_mtim.tv_nsec};
    g_checksum_update(sum, (const guchar *)build, known ? (gssize)sizeof build : 0);
    return known;
}

char *rgp_places_file(const rgp_recording *from, const rgp_image_header *image)
{
    g_autoptr(GChecksum) sum = g_checksum_new(G_CHECKSUM_SHA256);
    if (!add_file(sum, from->name, ".index") || !add_build(sum)) {
        return NULL;
    }
    add_file(sum, from->name, ".events.jsonl");
    add_file(sum, from->name, ".json");
    g_checksum_update(sum, (const guchar *)image, image->size);
    return g_strdup_printf("%s/rigpulse/%s.places", g_get_user_cache_dir(), g_checksum_get_string(sum));
}

/* Nobody else can have written it. */
static bool is_own(const char *file)
{
    struct stat is;
    return g_lstat(file, &is) == 0 && S_ISREG(is.st_mode) && is.st_uid == geteuid() &&
           (is.st_mode & (S_IWGRP | S_IWOTH)) == 0;
}

static void sum_of(const uint8_t *bytes, gsize length, uint8_t to[SUM_BYTES])
{
    g_autoptr(GChecksum) sum = g_checksum_new(G_CHECKSUM_SHA256);
    gsize size = SUM_BYTES;
    g_checksum_update(sum, bytes, (gssize)length);
    g_checksum_get_digest(sum, to, &size);
}

static bool is_sound(const uint8_t *bytes, gsize length, const head *wanted)
{
    uint8_t sum[SUM_BYTES];
    head is;
    if (length < sizeof is + SUM_BYTES) {
        return false;
    }
    memcpy(&is, bytes, sizeof is);
    sum_of(bytes, length - SUM_BYTES, sum);
    return memcmp(is.what, magic, sizeof magic) == 0 && is.bits == wanted->bits && is.replay == wanted->replay &&
           is.trace == wanted->trace &&
           length == sizeof is + SUM_BYTES + is.places * (sizeof(uint32_t) + is.replay + is.trace) &&
           memcmp(sum, bytes + length - SUM_BYTES, SUM_BYTES) == 0;
}

static head head_for(const rgp_replay *replay, const rgp_trace *trace)
{
    head h = {.bits = RGP_BITS, .replay = rgp_replay_place_size(replay), .trace = rgp_trace_size(trace)};
    memcpy(h.what, magic, sizeof magic);
    return h;
}

void rgp_places_load(const char *file, const rgp_replay *replay, const rgp_image_header *image, GArray *to)
{
    g_autofree char *text = NULL;
    gsize length = 0;
    rgp_trace *trace = rgp_trace_new(image);
    head h = head_for(replay, trace);
    const bool sound =
        is_own(file) && g_file_get_contents(file, &text, &length, NULL) && is_sound((const uint8_t *)text, length, &h);
    rgp_trace_free(trace);
    if (!sound) {
        return;
    }
    memcpy(&h, text, sizeof h);
    const uint8_t *at = (const uint8_t *)text + sizeof h;
    for (uint32_t i = 0; i < h.places; i++) {
        rgp_place_kept p = {.trace = rgp_trace_new(image)};
        memcpy(&p.row, at, sizeof p.row);
        p.replay = rgp_replay_place_load(replay, at + sizeof p.row);
        rgp_trace_load(p.trace, at + sizeof p.row + h.replay);
        g_array_append_val(to, p);
        at += sizeof p.row + h.replay + h.trace;
    }
}

/* ---- the cache ------------------------------------------------------------------------------------- */

static gint64 age_of(const char *path)
{
    GStatBuf is;
    return g_stat(path, &is) == 0 ? (gint64)is.st_mtime : 0;
}

/* Takes out the oldest file as long as there are too many. */
static void make_room(const char *folder)
{
    g_autoptr(GDir) dir = g_dir_open(folder, 0, NULL);
    g_autofree char *oldest = NULL;
    guint count = 0;
    for (const char *name; dir && (name = g_dir_read_name(dir));) {
        g_autofree char *path = g_build_filename(folder, name, NULL);
        if (g_str_has_suffix(name, ".places")) {
            count++;
            if (!oldest || age_of(path) < age_of(oldest)) {
                g_free(oldest);
                oldest = g_steal_pointer(&path);
            }
        }
    }
    if (count > FILES_MOST) {
        g_unlink(oldest);
    }
}

void rgp_places_save(const char *file, const rgp_replay *replay, const GArray *places)
{
    g_autofree char *folder = g_path_get_dirname(file);
    if (places->len == 0 || g_mkdir_with_parents(folder, 0700) != 0) {
        return;
    }
    head h = head_for(replay, g_array_index(places, rgp_place_kept, 0).trace);
    h.places = places->len;
    const gsize each = sizeof(uint32_t) + h.replay + h.trace, length = sizeof h + each * h.places + SUM_BYTES;
    g_autofree uint8_t *bytes = g_malloc0(length);
    memcpy(bytes, &h, sizeof h);
    for (guint i = 0; i < places->len; i++) {
        const rgp_place_kept *p = &g_array_index(places, rgp_place_kept, i);
        uint8_t *at = bytes + sizeof h + each * i;
        memcpy(at, &p->row, sizeof p->row);
        rgp_replay_place_save(replay, p->replay, at + sizeof p->row);
        rgp_trace_save(p->trace, at + sizeof p->row + h.replay);
    }
    sum_of(bytes, length - SUM_BYTES, bytes + length - SUM_BYTES);
    if (g_file_set_contents_full(file, (const char *)bytes, (gssize)length, G_FILE_SET_CONTENTS_CONSISTENT, 0600,
                                 NULL)) {
        make_room(folder);
    }
}
