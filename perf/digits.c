/* Numbers of a recording's rows as text: as the recorder writes them, and as printf() would, which needs nine digits to
 * be sure that they read back.
 *
 * Usage: perf_digits recorder|printf|none ROWS   (of 16 mixed channels) */
#include "runtime/digits.h"

#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define CHANNELS 16u

/* Depths with noise, powers, counts, small rates, and what rests. */
static float value_of(uint32_t row, uint32_t channel)
{
    const double noise = sin(0.37 * row + channel), slow = sin(0.001 * row + channel);
    switch (channel % 4) {
    case 0:
        return (float)(6.0 + 3.0 * slow + 0.01 * noise);
    case 1:
        return (float)lround(1500.0 + 800.0 * slow + 6.0 * noise);
    case 2:
        return (float)(0.02 * noise);
    default:
        return row / 100 % 2 ? 80.0f : 0.0f;
    }
}

int main(int argc, char **argv)
{
    if (argc != 3) {
        return 2;
    }
    const uint32_t rows = (uint32_t)strtoul(argv[2], NULL, 10);
    const bool recorder = strcmp(argv[1], "recorder") == 0, print = strcmp(argv[1], "printf") == 0;
    g_autoptr(GString) line = g_string_sized_new(1024);
    FILE *to = fopen("/dev/null", "wb");
    float sum = 0.0f;
    for (uint32_t row = 0; to && row < rows; row++) {
        g_string_truncate(line, 0);
        for (uint32_t channel = 0; channel < CHANNELS; channel++) {
            const float value = value_of(row, channel);
            char text[RGP_DIGITS_ROOM];
            if (recorder) {
                g_string_append_len(line, text, rgp_digits_float(text, value) - text);
            } else if (print) {
                fprintf(to, "%.9g", (double)value);
            }
            sum += value;
        }
        fwrite(line->str, 1, line->len, to);
    }
    return !to || fclose(to) != 0 || sum == 1.0f;
}
