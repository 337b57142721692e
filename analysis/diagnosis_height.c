/* The height of a harmonic, by pieces of some periods each. */
#include "diagnosis_parts.h"

#include <gsl/gsl_statistics_double.h>

#include <math.h>

double diagnosis_height(const double *value, size_t from, size_t count, double periods, double period, double k)
{
    const size_t piece = (size_t)fmax(periods * period, 1.0);
    const double turn = 2.0 * G_PI * k / period, cosine = cos(turn), sine = sin(turn); /* of a row */
    double sum = 0.0;
    size_t pieces = 0;
    for (size_t begin = from; begin + piece <= count; begin += piece, pieces++) {
        const double mean = gsl_stats_mean(value + begin, 1, piece);
        double a = 0.0, b = 0.0, c = 1.0, s = 0.0;
        for (size_t i = 0; i < piece; i++) {
            const double was = c;
            a += (value[begin + i] - mean) * c;
            b += (value[begin + i] - mean) * s;
            c = c * cosine - s * sine;
            s = s * cosine + was * sine;
        }
        sum += 2.0 * hypot(a, b) / (double)piece;
    }
    return pieces > 0 ? sum / (double)pieces : 0.0;
}
