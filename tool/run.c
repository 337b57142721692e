/* rigpulse run: a rig on the simulated port. */
#include "live.h"
#include "rigfile.h"
#include "session.h"

#include "record/tell.h"

#include <errno.h>
#include <stdio.h>
#include <string.h>

#define LONGEST_S 1e7

typedef struct run_options {
    char *length, *record, *seed;
    char **set;
    gboolean fast, quiet;
} run_options;

static bool print_frame(void *self, const rp_frame_shape *shape, const rp_frame *frame)
{
    return live_frame(self, shape, frame);
}

static bool parse_seed(const char *text, uint64_t *seed)
{
    char *end;
    errno = 0;
    *seed = text ? g_ascii_strtoull(text, &end, 10) : 1;
    return !text || (errno == 0 && *end == '\0' && g_ascii_isdigit(*text));
}

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
    if (!parse_seed(o->seed, &setup->seed)) {
        command_refuse(self, "--seed %s: it must be a whole number, 0 or more", o->seed);
        return false;
    }
    setup->length_us = (uint64_t)(length * 1e6 + 0.5);
    setup->fast = o->fast;
    setup->record = o->record;
    setup->set = o->set;
    return true;
}

static void print_begin(const session_setup *setup)
{
    const rp_image_header *image = setup->rig->image;
    printf("rig %s on the simulated port, every %g ms, seed %" G_GUINT64_FORMAT, rp_image_text(image, RP_NAME_RIG, 0, 0),
           image->tick_us / 1000.0, setup->seed);
    if (setup->length_us) {
        printf(", for %g s", (double)setup->length_us * 1e-6);
    }
    puts(setup->fast ? ", as fast as it goes" : setup->length_us ? "" : ", until Ctrl-C");
}

static void print_end(const session_setup *setup, const session_result *r, const live *l)
{
    printf("\n%s after %g s: %" G_GUINT64_FORMAT " ticks, %u %s fired; actuators at rest\n",
           r->fault != RP_OK ? "fault" : r->interrupted ? "interrupted" : "done", (double)r->end_us * 1e-6, r->ticks,
           l->fired, l->fired == 1 ? "rule" : "rules");
    if (r->fault != RP_OK) {
        printf("the port is lost: %s\n", rp_status_text(r->fault));
    }
    if (r->lateness.sleeps) {
        printf("lateness of the ticks: half within %.3g ms, 99 %% within %.3g ms, worst %.3g ms\n",
               (double)r->lateness.p50 * 1e-3, (double)r->lateness.p99 * 1e-3, (double)r->lateness.worst * 1e-3);
    }
    if (r->gaps) {
        printf("%" G_GUINT64_FORMAT " ticks are missing in the lines above%s: the machine was too slow to follow\n", r->gaps,
               setup->record ? " and in the recording" : "");
    }
    if (setup->record && !r->record_failed) {
        const char *name = setup->record;
        const int length = (int)strlen(name) - (g_str_has_suffix(name, ".csv") ? 4 : 0);
        printf("recorded %.*s.csv, .events.jsonl and .json; see it: rigpulse plot %.*s.csv -o %.*s.png\n", length, name,
               length, name, length, name);
    }
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
    session_setup setup = {.frame = print_frame};
    if (command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        status = EXIT_USAGE;
        rig = parse_setup(self, &o, &setup) ? rigfile_load(self, argv[1]) : NULL;
    }
    if (rig) {
        live lines;
        session_result result;
        g_autoptr(GError) error = NULL;
        setup.rig = rig;
        setup.self = &lines;
        live_begin(&lines, rig->image, o.quiet);
        print_begin(&setup);
        if (session_run(&setup, &result, &error)) {
            print_end(&setup, &result, &lines);
            status = result.fault != RP_OK || result.record_failed || result.gaps ? EXIT_FAULT : EXIT_DONE;
        } else {
            command_refuse(self, "%s", error->message);
        }
        live_end(&lines);
        rp_rig_free(rig);
    }
    g_free(o.length);
    g_free(o.seed);
    g_free(o.record);
    g_strfreev(o.set);
    return fflush(stdout) == 0 ? status : EXIT_FAULT;
}

const command command_run = {"run", "FILE", "runs a rig on the simulated port and prints what happens",
                             "rigpulse run examples/basin.rig --for 60s --fast --record basin", run_run};
