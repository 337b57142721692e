/* rigpulse suggest: gains for a loop from a model of what it regulates, and what is to be expected of them. */
#include "proposal.h"

#include "tool/picture.h"

#include <stdio.h>

static int finish(proposal *p)
{
    const proposal_options *o = p->o;
    g_autoptr(GError) error = NULL;
    if (o->json) {
        proposal_print_json(p);
    } else {
        proposal_print(p);
    }
    if (o->picture) {
        g_autoptr(GString) script = proposal_script(p, o->picture);
        if (!picture_run(script, o->picture, &error)) {
            return command_refuse(p->s.self, "%s", error->message);
        }
    }
    if (proposal_broken(p)) { /* what has failed is not written */
        return o->write ? command_refuse(p->s.self, "nothing is written, since the trial was broken off: %s",
                                         proposal_broken(p)->stopped)
                        : EXIT_FAULT;
    }
    if (o->write) {
        g_autofree char *said = NULL;
        if (!tune_save(&p->t, p->side[PROPOSAL_SUGGESTED].gain, &said)) {
            return command_refuse(p->s.self, "%s", said);
        }
        fprintf(o->json ? stderr : stdout, "%s\n", said);
    }
    return EXIT_DONE;
}

static int suggest(const command *self, const proposal_options *o, const char *path, const char *loop)
{
    proposal p;
    int status;
    if (!picture_fits(self, o->picture)) {
        return EXIT_USAGE;
    }
    if (proposal_make(&p, self, o, path, loop, &status)) {
        status = o->try && !proposal_try(&p) ? EXIT_USAGE : finish(&p);
    }
    status = p.s.interrupted ? EXIT_DONE : status;
    proposal_clear(&p);
    return status;
}

static int run_suggest(const command *self, int argc, char **argv)
{
    proposal_options o = {.want = NULL};
    const GOptionEntry entries[] = {
        {"want", 0, 0, G_OPTION_ARG_FILENAME, &o.want, "gentle, calm, steady or quick; steady if not said", "WORD"},
        {"step", 0, 0, G_OPTION_ARG_FILENAME, &o.step, "the step of the setpoint that is rehearsed", "AMOUNT"},
        {"push", 0, 0, G_OPTION_ARG_FILENAME, &o.push, "so much more on the output, likewise", "AMOUNT"},
        {"try", 0, 0, G_OPTION_ARG_NONE, &o.try, "test them on the simulated rig, too", NULL},
        {"write", 0, 0, G_OPTION_ARG_NONE, &o.write, "write them into the rig file", NULL},
        SUBJECT_ENTRIES(&o.of),
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture, "draw it, as .png or .svg", "PICTURE"},
        PORT_ENTRIES,
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        status = suggest(self, &o, argv[1], argv[2]);
    }
    subject_options_clear(&o.of);
    char *const all[] = {o.want, o.step, o.push, o.picture};
    for (size_t i = 0; i < G_N_ELEMENTS(all); i++) {
        g_free(all[i]);
    }
    return status;
}

const command command_suggest = {
    "suggest", "FILE LOOP", "finds gains for a loop by a model of what it regulates, and says what to expect",
    "rigpulse suggest boiler.rig steam --at 40% --size 20% --each 5min --fast", run_suggest};
