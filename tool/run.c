/* rigpulse run: a rig on the simulated port. */
#include "play.h"
#include "rigfile.h"

#define LONGEST_S 1e7

typedef struct run_options {
    char *length, *record, *seed;
    char **set;
    gboolean fast, quiet;
} run_options;

static bool parse_setup(const command *self, const run_options *o, session_setup *setup)
{
    double length = 0.0;
    const char *why;
    if (o->length && !rp_quantity_parse(o->length, "s", &length, &why)) {
        command_refuse(self, "--for %s: %s; write a time, for example --for 60s", o->length, why);
        return false;
    }
    if (o->length && !(length > 0.0 && length <= LONGEST_S)) {
        command_refuse(self, "--for %s: it must be above 0 and at most %g s", o->length, LONGEST_S);
        return false;
    }
    if (o->fast && !o->length) {
        command_refuse(self, "--fast needs an end: --for 60s");
        return false;
    }
    if (!command_seed(self, o->seed, &setup->seed)) {
        return false;
    }
    setup->length_us = (uint64_t)(length * 1e6 + 0.5);
    setup->fast = o->fast;
    setup->record = o->record;
    setup->set = o->set;
    return true;
}

static int run_run(const command *self, int argc, char **argv)
{
    run_options o = {0};
    const GOptionEntry entries[] = {
        {"for", 0, 0, G_OPTION_ARG_STRING, &o.length, "how long; else until Ctrl-C", "TIME"},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "in simulated time, as fast as the machine can", NULL},
        {"seed", 0, 0, G_OPTION_ARG_STRING, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        {"record", 0, 0, G_OPTION_ARG_FILENAME, &o.record, "write a recording NAME.csv", "NAME"},
        {"set", 0, 0, G_OPTION_ARG_STRING_ARRAY, &o.set, "begin with another value of a parameter", "NAME=VALUE"},
        {"quiet", 0, 0, G_OPTION_ARG_NONE, &o.quiet, "events only, no readings", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    rp_rig *rig = NULL;
    session_setup setup = {0};
    if (command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        status = EXIT_USAGE;
        rig = parse_setup(self, &o, &setup) ? rigfile_load(self, argv[1]) : NULL;
    }
    if (rig) {
        setup.rig = rig;
        status = play(self, &setup, o.quiet);
        rp_rig_free(rig);
    }
    g_free(o.length);
    g_free(o.seed);
    g_free(o.record);
    g_strfreev(o.set);
    return status;
}

const command command_run = {"run", "FILE", "runs a rig on the simulated port and prints what happens",
                             "rigpulse run examples/basin.rig --for 60s --fast --record basin", run_run};
