/* A sound that a sensor plays: the first channel of a file, silence behind its end. */
#ifndef SIM_SENSORS_SOUND_H
#define SIM_SENSORS_SOUND_H

#include <glib.h>
#include <stdbool.h>
#include <stdint.h>

typedef struct sound sound;

/* NULL with *error when it cannot be read, or is empty or too long. */
sound *sound_new(const char *path, GError **error);
void sound_free(sound *s);

/* The number of samples that have begun by then, from 1; behind the end it goes on. */
int64_t sound_samples_by(const sound *s, uint64_t time_us);

/* The mean over so long before it, from -1 to 1; of 0 s, the sample that has begun. */
double sound_mean(const sound *s, uint64_t time_us, double lasting);

/* Seconds from one sample to the next. */
double sound_pace(const sound *s);

#endif
