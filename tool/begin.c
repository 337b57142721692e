/* The options with which a rig is set going, read and checked. */
#include "begin.h"

#include "rigfile.h"

#include <string.h>

#define SHORTEST_S 1e-6
#define LONGEST_S  1e7
#define PACE_LEAST 0.01
#define PACE_MOST  1000.0

static bool parse_length(const command *self, const begin_options *o, rgp_door_setup *setup)
{
    double length = 0.0;
    const char *why;
    if (o->length && !rgp_quantity_parse(o->length, "s", &length, &why)) {
        command_refuse(self, "--for %s: %s; write a time, for example --for 60s", o->length, why);
        return false;
    }
    if (o->length && !(length >= SHORTEST_S && length <= LONGEST_S)) {
        command_refuse(self, "--for %s: it must be from 1 us to %g s", o->length, LONGEST_S);
        return false;
    }
    if (o->fast && !o->length) {
        command_refuse(self, "--fast needs an end: --for 60s");
        return false;
    }
    setup->length_us = (uint64_t)(length * 1e6 + 0.5);
    return true;
}

static bool parse_power(const command *self, const begin_options *o, rgp_door_setup *setup)
{
    double percent = 0.0;
    const char *why = "it must be above 0 and at most 100";
    if (!o->power) {
        return true;
    }
    char *end;
    percent = g_ascii_strtod(o->power, &end);
    const bool bare = end != o->power && (*end == '\0' || strcmp(end, "%") == 0);
    if ((!bare && !rgp_quantity_parse(o->power, "%", &percent, &why)) || !(percent > 0.0 && percent <= 100.0)) {
        command_refuse(self, "--power %s: %s; write a share of the travel, for example --power 30", o->power, why);
        return false;
    }
    setup->bound = (float)percent;
    return true;
}

bool begin_pace(const command *self, const char *text, double *pace)
{
    char *end = NULL;
    *pace = text ? g_ascii_strtod(text, &end) : 0.0;
    if (text && (end == text || *end || !(*pace >= PACE_LEAST && *pace <= PACE_MOST))) {
        command_refuse(self, "--pace %s: write how many times as fast as the wall clock, from %g to %g", text,
                       PACE_LEAST, PACE_MOST);
        return false;
    }
    return true;
}

bool begin_parse(const command *self, const begin_options *o, rgp_door_setup *setup)
{
    if (o->overwrite && !o->record) {
        command_refuse(self, "--overwrite goes with --record NAME");
        return false;
    }
    if (o->dry && o->power) {
        command_refuse(self, "--dry drives nothing at all; leave out --power");
        return false;
    }
    if (o->pace && o->fast) {
        command_refuse(self, "--fast goes as fast as it can; leave out --pace");
        return false;
    }
    if (o->realtime && o->fast) {
        command_refuse(self, "--fast waits for no clock; leave out --realtime");
        return false;
    }
    if (!begin_pace(self, o->pace, &setup->pace) || !parse_length(self, o, setup) || !parse_power(self, o, setup) ||
        !command_seed(self, o->seed, &setup->seed)) {
        return false;
    }
    setup->fast = o->fast;
    setup->record = o->record;
    setup->overwrite = o->overwrite;
    setup->set = o->set;
    setup->retained = o->kept;
    setup->dry = o->dry;
    setup->realtime = o->realtime;
    return true;
}

bool begin_fits(const command *self, const begin_options *o, const rgp_rig *rig)
{
    return rigfile_fits_port(self, rig, o->fast, o->seed != NULL, o->pace != NULL);
}

bool begin_any_of_rig(const begin_options *o)
{
    return o->overwrite || o->length || o->record || o->seed || o->kept || o->power || o->set || o->fast || o->dry ||
           o->realtime;
}

void begin_clear(begin_options *o)
{
    g_free(o->length);
    g_free(o->record);
    g_free(o->seed);
    g_free(o->kept);
    g_free(o->power);
    g_free(o->pace);
    g_strfreev(o->set);
}
