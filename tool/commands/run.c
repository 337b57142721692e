/* rigpulse run: a rig on its port. */
#include "advise.h"

#include "tool/begin.h"
#include "tool/plain/play.h"
#include "tool/rigfile.h"

static int run_run(const command *self, int argc, char **argv)
{
    begin_options o = {0};
    gboolean quiet = FALSE, json = FALSE, advice = FALSE;
    const GOptionEntry entries[] = {
        BEGIN_ENTRIES(&o),
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "in simulated time, as fast as the machine can", NULL},
        {"quiet", 0, 0, G_OPTION_ARG_NONE, &quiet, "events only, no readings", NULL},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "events as JSON Lines, as a recording has them", NULL},
        {"advise", 0, 0, G_OPTION_ARG_NONE, &advice, "afterwards what is the matter; it needs --record", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    rgp_rig *rig = NULL;
    rgp_door_setup setup = {0};
    if (command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        status = EXIT_USAGE;
        rig = begin_parse(self, &o, &setup) ? rigfile_load(self, argv[1]) : NULL;
    }
    if (rig && advice && (!setup.record || json)) {
        status = command_refuse(self, setup.record ? "--advise: it is no event, so it cannot stand beside --json"
                                                   : "--advise needs --record NAME, which it looks at afterwards");
    } else if (rig && begin_fits(self, &o, rig)) {
        setup.rig = rig;
        status = play(self, &setup, json ? PLAY_JSON : quiet ? PLAY_EVENTS : PLAY_ALL);
        if (advice && status != EXIT_USAGE) {
            const int told = advise_recording(self, setup.record);
            status = MAX(status, told);
        }
    }
    rgp_rig_free(rig);
    begin_clear(&o);
    return status;
}

const command command_run = {"run", "FILE", "runs a rig on its port and prints what happens",
                             "rigpulse run examples/basin.rig --for 60s --fast --record basin", run_run};
