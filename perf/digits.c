/* Numbers of a recording's rows as text: as the recorder writes them, and as printf() would, which needs nine digits to
 * be sure that they read back; and by hand, in fixed point, by whoever knows beforehand how many places are wanted.
 *
 * Usage: perf_digits recorder|printf|fixed|none ROWS   (of 16 mixed channels) */
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

/* So many places behind the point, as a tuned writer for just these channels has it: two digits at a time. */
static char *put_fixed(char *to, float value, uint32_t places)
{
    static const uint32_t ten_to[] = {1, 10, 100, 1000, 10000, 100000, 1000000, 10000000, 100000000};
    static char pairs[200];
    if (!*pairs) {
        for (int i = 0; i < 100; i++) {
            pairs[2 * i] = (char)('0' + i / 10);
            pairs[2 * i + 1] = (char)('0' + i % 10);
        }
    }
    *to = '-';
    to += value < 0.0f;
    uint64_t all = (uint64_t)(fabs((double)value) * ten_to[places] + 0.5);
    char text[48], *end = text + 24, *at = end;
    uint32_t front = (uint32_t)(all / ten_to[places]), behind = (uint32_t)(all % ten_to[places]);
    for (uint32_t i = 0; i + 1 < places; i += 2, behind /= 100) {
        at -= 2;
        memcpy(at, pairs + behind % 100 * 2, 2);
    }
    if (places % 2) {
        *--at = (char)('0' + behind);
    }
    if (places) {
        *--at = '.';
    }
    for (; front >= 100; front /= 100) {
        at -= 2;
        memcpy(at, pairs + front % 100 * 2, 2);
    }
    at -= front >= 10 ? 2 : 1;
    memcpy(at, front >= 10 ? pairs + front * 2 : pairs + front * 2 + 1, 2);
    memcpy(to, at, 16);
    return to + (end - at);
}

int main(int argc, char **argv)
{
    if (argc != 3) {
        return 2;
    }
    const uint32_t rows = (uint32_t)strtoul(argv[2], NULL, 10);
    const bool recorder = strcmp(argv[1], "recorder") == 0, print = strcmp(argv[1], "printf") == 0,
               fixed = strcmp(argv[1], "fixed") == 0;
    static const uint32_t places[] = {7, 0, 8, 0}; /* of nine digits, as the recorder needs them for most */
    char line[CHANNELS * RGP_DIGITS_ROOM];
    FILE *to = fopen("/dev/null", "wb");
    float sum = 0.0f;
    for (uint32_t row = 0; to && row < rows; row++) {
        char *end = line;
        for (uint32_t channel = 0; channel < CHANNELS; channel++) {
            const float value = value_of(row, channel);
            if (recorder) {
                end = rgp_digits_float(end, value);
            } else if (fixed) {
                end = put_fixed(end, value, places[channel % 4]);
            } else if (print) {
                fprintf(to, "%.9g", (double)value);
            }
            sum += value;
        }
        fwrite(line, 1, (size_t)(end - line), to);
    }
    return !to || fclose(to) != 0 || sum == 1.0f;
}
