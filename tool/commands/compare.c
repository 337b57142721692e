/* rigpulse compare: runs side by side, recorded ones or simulated ones. */
#include "compare.h"

#include "tool/picture.h"

static void free_kind(void *self)
{
    rgp_run_kind *kind = self;
    g_free(kind->name);
    g_ptr_array_unref(kind->run);
}

static void free_course(void *course)
{
    rgp_course_free(course);
}

static bool fits(const compare_what *w, int runs)
{
    const compare_options *o = w->options;
    if (o->run && runs > 0) {
        command_refuse(w->self, "compare either recordings, or simulated runs (--run)");
        return false;
    }
    if (!o->run && (o->seeds || o->length || o->set)) {
        command_refuse(w->self, "--seeds, --for and --set go with --run FILE");
        return false;
    }
    if (o->picture && !picture_is_named(o->picture)) {
        command_refuse(w->self, "say where to, with -o NAME.png or -o NAME.svg");
        return false;
    }
    if (o->draw && !o->picture) {
        command_refuse(w->self, "--draw goes with -o FILE");
        return false;
    }
    const guint sides = o->run ? g_strv_length(o->run) : (guint)runs;
    if (sides < 2) {
        command_refuse(w->self, "it takes two or more; for example: %s", w->self->example);
        return false;
    }
    return true;
}

static int compare(compare_what *w, char **names, int runs)
{
    const compare_options *o = w->options;
    if (!fits(w, runs) || !(o->run ? compare_simulated(w) : compare_recordings(w, names))) {
        return EXIT_USAGE;
    }
    rgp_comparison *c =
        rgp_comparison_of((const rgp_run_kind *)(void *)w->kind->data, w->kind->len, w->paired, o->figure, o->all);
    const bool any = c->compared->len > 0;
    if (any && o->json) {
        compare_print_json(w, c);
    } else if (any) {
        compare_print(w, c);
    }
    rgp_comparison_free(c);
    if (!any) {
        return command_refuse(w->self, "there is no figure of that name that all of them have%s",
                              o->figure ? "; without --figure the main ones are shown, with --all all" : "");
    }
    return !o->picture || compare_draw(w) ? EXIT_DONE : EXIT_USAGE;
}

static int run_compare(const command *self, int argc, char **argv)
{
    compare_options o = {0};
    const GOptionEntry entries[] = {
        {"run", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.run,
         "simulate this rig file, with other values behind it: 'boiler.rig target=90'; again for each kind", "FILE"},
        {"seeds", 0, 0, G_OPTION_ARG_FILENAME, &o.seeds, "with --run: so many runs of each kind; 12 if not said",
         "NUMBER"},
        {"for", 0, 0, G_OPTION_ARG_FILENAME, &o.length, "with --run: how long each", "TIME"},
        {"set", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.set, "with --run: another value of a parameter, in all of them",
         "NAME=VALUE"},
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &o.from,
         "look at what comes behind a time, a mark or the first firing of 'line N'; else at all", "MOMENT"},
        {"over", 0, 0, G_OPTION_ARG_FILENAME, &o.over, "and for how long; else to the end of the shortest", "TIME"},
        {"figure", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.figure, "only figures with this in their name; again for more",
         "TEXT"},
        {"all", 0, 0, G_OPTION_ARG_NONE, &o.all, "also what describes signals: mean, spread, range, time in each band",
         NULL},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &o.picture,
         "draw the first run of each over each other, .png or .svg", "FILE"},
        {"draw", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.draw,
         "with -o: this value; else what the first loop measures and drives", "NAME"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 0, G_MAXINT - 1, &status)) {
        compare_what w = {.self = self,
                          .options = &o,
                          .kind = g_array_new(FALSE, TRUE, sizeof(rgp_run_kind)),
                          .course = g_ptr_array_new_with_free_func(free_course),
                          .says = g_string_new(NULL)};
        g_array_set_clear_func(w.kind, free_kind);
        status = compare(&w, argv + 1, argc - 1);
        g_array_unref(w.kind);
        g_ptr_array_unref(w.course);
        g_strfreev(w.drawn);
        g_string_free(w.says, TRUE);
    }
    g_strfreev(o.run);
    g_strfreev(o.set);
    g_strfreev(o.figure);
    g_strfreev(o.draw);
    g_free(o.picture);
    g_free(o.seeds);
    g_free(o.length);
    g_free(o.from);
    g_free(o.over);
    return status;
}

const command command_compare = {
    "compare", "[RECORDING...]", "says what differs between runs, and whether that is more than chance",
    "rigpulse compare --run examples/boiler.rig --run examples/boiler_onoff.rig --for 45min --from 25min", run_compare};
