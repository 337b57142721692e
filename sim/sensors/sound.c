/* A played sound, read at once. */
#include "sound.h"

#include <gio/gio.h>
#include <gmodule.h>
#include <math.h>
#include <sndfile.h>

struct sound {
    float *sample;
    int64_t length, rate;
};

#define SNDFILE_LIBRARY "libsndfile.so.1"
#define LONGEST         ((sf_count_t)1 << 28) /* samples */

/* Of libsndfile, which is loaded when a sound is played: linking it and all that it needs takes as long as the rest of
 * the start. */
typedef struct sound_library {
    GModule *module;
    SNDFILE *(*open)(const char *path, int mode, SF_INFO *info);
    const char *(*strerror)(SNDFILE *file);
    sf_count_t (*readf)(SNDFILE *file, float *to, sf_count_t frames);
    int (*close)(SNDFILE *file);
} sound_library;

static bool load(sound_library *l, GError **error)
{
    const struct {
        const char *name;
        gpointer *to;
    } call[] = {{"sf_open", (gpointer *)&l->open},
                {"sf_strerror", (gpointer *)&l->strerror},
                {"sf_readf_float", (gpointer *)&l->readf},
                {"sf_close", (gpointer *)&l->close}};
    l->module = g_module_open(SNDFILE_LIBRARY, G_MODULE_BIND_LAZY | G_MODULE_BIND_LOCAL);
    bool whole = l->module != NULL;
    for (size_t i = 0; whole && i < G_N_ELEMENTS(call); i++) {
        whole = g_module_symbol(l->module, call[i].name, call[i].to);
    }
    if (!whole) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_NOT_FOUND, "to play a sound libsndfile is needed: %s",
                    g_module_error());
        l->module = NULL;
    }
    return whole;
}

static sound *read_sound(const sound_library *l, SNDFILE *file, const SF_INFO *info)
{
    g_autofree float *all = g_new0(float, (gsize)(info->frames * info->channels));
    sound *s = g_new0(sound, 1);
    s->length = l->readf(file, all, info->frames);
    s->rate = info->samplerate;
    s->sample = g_new0(float, (gsize)info->frames);
    for (int64_t i = 0; i < s->length; i++) {
        s->sample[i] = all[i * info->channels];
    }
    return s;
}

sound *sound_new(const char *path, GError **error)
{
    static sound_library library; /* once it is loaded it stays */
    SF_INFO info = {0};
    if (!library.module && !load(&library, error)) {
        return NULL;
    }
    SNDFILE *file = library.open(path, SFM_READ, &info);
    const bool fits = file && info.channels >= 1 && info.frames >= 1 && info.frames <= LONGEST;
    if (!fits) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: %s", path,
                    file ? "this sound is empty or too long" : library.strerror(NULL));
    }
    sound *s = fits ? read_sound(&library, file, &info) : NULL;
    if (file) {
        library.close(file);
    }
    return s;
}

void sound_free(sound *s)
{
    if (s) {
        g_free(s->sample);
        g_free(s);
    }
}

/* In whole numbers, so that none is missed or taken twice for a rounding. */
int64_t sound_samples_by(const sound *s, uint64_t time_us)
{
    return (int64_t)time_us * s->rate / 1000000 + 1;
}

double sound_mean(const sound *s, uint64_t time_us, double lasting)
{
    const int64_t at = sound_samples_by(s, time_us) - 1;
    const int64_t many = MIN(at + 1, MAX(1, llround(lasting * (double)s->rate)));
    double sum = 0.0;
    for (int64_t i = at - many + 1; i <= MIN(at, s->length - 1); i++) {
        sum += (double)s->sample[i];
    }
    return sum / (double)many;
}

double sound_pace(const sound *s)
{
    return 1.0 / (double)s->rate;
}
