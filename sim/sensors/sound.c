/* A played sound, read at once. */
#include "sound.h"

#include <gio/gio.h>
#include <math.h>
#include <sndfile.h>

struct sound {
    float *sample;
    int64_t length, rate;
};

#define LONGEST ((sf_count_t)1 << 28) /* samples */

sound *sound_new(const char *path, GError **error)
{
    SF_INFO info = {0};
    SNDFILE *file = sf_open(path, SFM_READ, &info);
    if (!file || info.channels < 1 || info.frames < 1 || info.frames > LONGEST) {
        g_set_error(error, G_IO_ERROR, G_IO_ERROR_INVALID_DATA, "%s: %s", path,
                    file ? "this sound is empty or too long" : sf_strerror(NULL));
        if (file) {
            sf_close(file);
        }
        return NULL;
    }
    g_autofree float *all = g_new0(float, (gsize)(info.frames * info.channels));
    sound *s = g_new0(sound, 1);
    s->length = sf_readf_float(file, all, info.frames);
    s->rate = info.samplerate;
    s->sample = g_new0(float, (gsize)info.frames);
    for (int64_t i = 0; i < s->length; i++) {
        s->sample[i] = all[i * info.channels];
    }
    sf_close(file);
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
