/* rigpulse divider: which fixed resistor goes with a resistive sensor. */
#include "tool/command.h"

#include "rigpulse/condition.h"
#include "rigpulse/lang.h"

#include <math.h>
#include <stdio.h>

/* The E12 series of resistors (IEC 60063). */
static const double series[] = {1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2, 10.0};

static double nearest_resistor(double ohms)
{
    const double decade = pow(10.0, floor(log10(ohms)));
    double best = decade;
    for (size_t i = 0; i < G_N_ELEMENTS(series); i++) {
        const double candidate = decade * series[i];
        best = fabs(log(candidate / ohms)) < fabs(log(best / ohms)) ? candidate : best;
    }
    return best;
}

static const char *shown(double ohms, char *text, gulong room)
{
    const char *const unit = ohms >= 1e6 ? "Mohm" : ohms >= 1e3 ? "kohm" : "ohm";
    g_snprintf(text, room, "%.3g %s", ohms >= 1e6 ? ohms / 1e6 : ohms >= 1e3 ? ohms / 1e3 : ohms, unit);
    return text;
}

static bool parse_ohms(const command *self, const char *text, double *ohms)
{
    const char *why;
    if (!rgp_quantity_parse(text, "ohm", ohms, &why)) {
        command_refuse(self, "%s: %s; write a resistance, for example 4.7kohm", text, why);
        return false;
    }
    if (!(*ohms >= 1e-3 && *ohms <= 1e12)) {
        command_refuse(self, "%s: it must be from 1 mohm to 1e12 ohm", text);
        return false;
    }
    return true;
}

static int run_divider(const command *self, int argc, char **argv)
{
    double least, greatest;
    char text[3][40];
    int status;
    if (!command_options(self, NULL, &argc, &argv, 2, 2, &status)) {
        return status;
    }
    if (!parse_ohms(self, argv[1], &least) || !parse_ohms(self, argv[2], &greatest)) {
        return EXIT_USAGE;
    }
    if (!(greatest > least)) {
        return command_refuse(self, "the second resistance must be greater than the first");
    }
    const double best = (double)rgp_divider_best((float)least, (float)greatest), fixed = nearest_resistor(best);
    printf("sensor from %s to %s\n", shown(least, text[0], sizeof text[0]), shown(greatest, text[1], sizeof text[1]));
    printf("best fixed resistor %s, to be had as %s\n", shown(best, text[0], sizeof text[0]),
           shown(fixed, text[1], sizeof text[1]));
    const double share = (double)rgp_divider_share((float)fixed, (float)least, (float)greatest);
    printf("with it the sensor uses %.0f %% of the converter's range: about %.0f of 4096 counts\n", 100.0 * share,
           4096.0 * share);
    printf("in the rig file: divider %s above, full 4095\n", shown(fixed, text[0], sizeof text[0]));
    return EXIT_DONE;
}

const command command_divider = {"divider", "LEAST GREATEST", "recommends the fixed resistor for a resistive sensor",
                                 "rigpulse divider 2kohm 50kohm", run_divider};
