/* rigpulse tune: gains changed while the loop runs, tests, figures, and back to any of the tries. */
#include "tool/port_option.h"
#include "tune.h"

#include "tool/begin.h"
#include "tool/names.h"
#include "runtime/interrupt.h"
#include "tool/rigfile.h"

#include "image/ops.h"
#include "explain/disassembly.h"
#include "explain/describe.h"

#include <math.h>
#include <string.h>
#include <unistd.h>

#define TICKS_OVER 1000.0 /* that a test is looked at, if not said */
#define OVER_MOST  36000.0
#define TRIES_MOST 50u

typedef struct tune_options {
    char *step, *push, *over, *within, *picture, *script, *seed, *pace;
    char **tries;
    gboolean disturb, json, anyway;
    int save;
} tune_options;

/* ---- the loop ---------------------------------------------------------------------------------------- */

/* The error that the loop's method leaves alone. */
static double tolerance_of(const tuning *t)
{
    rgp_decoded step;
    for (rgp_steps all = rgp_steps_of(t->image); rgp_steps_next(&all, &step);) {
        if (step.out != t->is->first) {
            continue;
        }
        switch (step.op) {
        case RGP_OP_PID:
            return (double)((const rgp_pid_loop_config *)rgp_decoded_config(&step))->pid.deadband;
        case RGP_OP_NUDGE:
            return (double)((const rgp_nudge_loop_config *)rgp_decoded_config(&step))->nudge.within;
        case RGP_OP_ONOFF:
            return (double)((const rgp_onoff_loop_config *)rgp_decoded_config(&step))->onoff.margin;
        default:
            break;
        }
    }
    return 0.0;
}

bool tune_find(tuning *t, rgp_rig *file, const char *name)
{
    t->file = file;
    t->image = file->image;
    if (!names_loop_or_refuse(t->self, t->image, t->path, name, &t->loop)) {
        return false;
    }
    t->is = rgp_image_loop_at(t->image, t->loop);
    t->name = rgp_image_text(t->image, RGP_NAME_LOOP, t->loop, 0);
    t->unit = rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->first + RGP_TERM_ERROR, 0);
    t->drive_unit = rgp_image_unit(t->image, RGP_NAME_SLOT, t->is->bias, 0);
    while (t->gains < TUNE_GAINS && t->is->gain[t->gains] != RGP_REF_NONE) {
        t->gains++;
    }
    t->settings = rgp_rig_loop_settings(t->file, t->name, t->setting);
    t->over = TICKS_OVER * t->image->tick_us / 1e6;
    t->tolerance = tolerance_of(t);
    return true;
}

static bool read_numbers(tuning *t, const tune_options *o)
{
    const char *wrong;
    g_autofree char *why = NULL;
    if (o->over && (!rgp_quantity_parse(o->over, "s", &t->over, &wrong) || !(t->over > 0.0 && t->over <= OVER_MOST))) {
        command_refuse(t->self, "--over %s: write a time up to 10 h, for instance --over 60s", o->over);
        return false;
    }
    if (t->over * 1e6 < 30.0 * t->image->tick_us) {
        command_refuse(t->self, "--over %s: that is less than 30 ticks of the rig", o->over);
        return false;
    }
    if (o->within && !(tune_parse_amount(t, TUNE_STEP, o->within, &t->band, &why) && t->band > 0.0)) {
        command_refuse(t->self, "--within %s: %s", o->within, why ? why : "it must be above 0");
        return false;
    }
    return begin_pace(t->self, o->pace, &t->pace) && command_seed(t->self, o->seed, &t->seed);
}

/* ---- tries     ------------------------------------------------------------------------------------- */

static void clear_try(void *self)
{
    tune_try *one = self;
    g_free(one->stopped);
    g_free(one->diagnosis);
    g_array_unref(one->rows);
}

void tune_begin(tuning *t, const command *self, const char *path)
{
    *t = (tuning){.self = self, .path = path, .seed = 1, .tries = g_array_new(FALSE, FALSE, sizeof(tune_try))};
    g_array_set_clear_func(t->tries, clear_try);
}

void tune_end(tuning *t)
{
    g_array_unref(t->tries);
}

/* ---- without a person -------------------------------------------------------------------------------- */

/* A rig that has only just begun, with these gains; NULL when that cannot be, which has been said. */
static tune_bench *begin_bench(tuning *t, const double *gain)
{
    g_autoptr(GError) error = NULL;
    tune_bench *b = tune_bench_new(t, gain, &error);
    if (!b) {
        command_refuse(t->self, "%s", error->message);
    }
    return b;
}

/* Behind a test that was broken off the rig begins anew. */
static bool run_test(tune_bench **b, tuning *t, const double *gain, tune_test test, double size, uint32_t disturbance)
{
    g_autofree char *why = NULL;
    const bool fell = t->tries->len > 0 && tune_try_at(t, t->tries->len - 1)->stopped && tune_bench_time(*b) > 0.0;
    if (fell && !interrupt_asked()) {
        tune_bench_free(*b);
        *b = begin_bench(t, gain);
    }
    if (!*b) {
        return false;
    }
    tune_bench_settle(*b);
    if (tune_bench_test(*b, test, size, disturbance, &why) == 0) {
        command_refuse(t->self, "%s", why);
        return false;
    }
    return true;
}

/* Each try on a rig of its own, so that none has anything of the one before. */
static bool run_try(tuning *t, const tune_options *o, const char *gains)
{
    g_autofree char *why = NULL;
    double gain[TUNE_VALUES], size = 0.0;
    tune_file_gains(t, gain);
    if (gains && !tune_parse_gains(t, gains, gain, &why)) {
        command_refuse(t->self, "--try: %s", why);
        return false;
    }
    tune_bench *b = begin_bench(t, gain);
    if (!b) {
        return false;
    }
    const struct {
        const char *amount, *option;
        tune_test test;
    } wanted[] = {{o->step, "--step", TUNE_STEP}, {o->push, "--push", TUNE_PUSH}};
    bool sound = true;
    for (size_t i = 0; i < G_N_ELEMENTS(wanted) && sound; i++) {
        if (wanted[i].amount && !tune_parse_amount(t, wanted[i].test, wanted[i].amount, &size, &why)) {
            command_refuse(t->self, "%s %s", wanted[i].option, why);
            sound = false;
        } else if (wanted[i].amount && !interrupt_asked()) {
            sound = run_test(&b, t, gain, wanted[i].test, size, 0);
        }
    }
    for (uint32_t k = 0; o->disturb && sound && k < tune_disturbances(t) && !interrupt_asked(); k++) {
        sound = run_test(&b, t, gain, TUNE_DISTURB, 0.0, tune_disturbance(t, k));
    }
    tune_bench_free(b);
    return sound;
}

static int finish(tuning *t, const tune_options *o)
{
    g_autofree char *said = NULL;
    g_autoptr(GError) error = NULL;
    bool broken = false;
    if (t->tries->len == 0) {
        puts("interrupted before the first test was over; everything is at rest");
        return EXIT_DONE;
    }
    for (guint i = 0; i < t->tries->len; i++) {
        broken |= tune_try_at(t, i)->stopped != NULL;
    }
    if (o->json) {
        tune_print_json(t);
    } else {
        tune_print(t);
    }
    if (o->picture && !tune_draw(t, o->picture, &error)) {
        command_refuse(t->self, "%s", error->message);
        return EXIT_FAULT;
    }
    if (o->picture && !o->json) {
        printf("\nthe picture: %s\n", o->picture);
    }
    if (o->save < 0 || (guint)o->save > t->tries->len) {
        return command_refuse(t->self, "--save %d: the tries go from 1 to %u", o->save, t->tries->len);
    }
    if (o->save > 0) {
        const tune_try *one = tune_try_at(t, (guint)o->save - 1);
        if (one->stopped && !o->anyway) {
            return command_refuse(t->self,
                                  "--save %d: that try was broken off (%s); --anyway writes its gains all the same",
                                  o->save, one->stopped);
        }
        if (!tune_save(t, one->gain, &said)) {
            return command_refuse(t->self, "%s", said);
        }
        fprintf(o->json ? stderr : stdout, "%s\n", said);
    }
    return broken && !interrupt_asked() ? EXIT_FAULT : EXIT_DONE;
}

static int by_options(tuning *t, const tune_options *o)
{
    const guint tries = o->tries ? g_strv_length(o->tries) : 0;
    if (!o->step && !o->push && !o->disturb) {
        return command_refuse(t->self, "say what to test with: --step AMOUNT, --push AMOUNT, --disturb");
    }
    if (o->disturb && tune_disturbances(t) == 0) {
        return command_refuse(t->self, "%s: the hook-up states no disturbance behind 0 s", t->path);
    }
    if (tries > TRIES_MOST) {
        return command_refuse(t->self, "at most %u tries at a time", TRIES_MOST);
    }
    for (guint i = 0; i < MAX(tries, 1) && !interrupt_asked(); i++) {
        if (!run_try(t, o, tries ? o->tries[i] : NULL)) {
            return EXIT_USAGE;
        }
    }
    return finish(t, o);
}

static int by_script(tuning *t, const tune_options *o)
{
    if (o->step || o->push || o->disturb || o->tries || o->save) {
        return command_refuse(t->self, "with --script the orders say what to do; leave the other options out");
    }
    FILE *from = strcmp(o->script, "-") == 0 ? stdin : fopen(o->script, "r");
    if (!from) {
        return command_refuse(t->self, "%s cannot be read", o->script);
    }
    const int status = tune_script(t, from);
    if (from != stdin) {
        fclose(from);
    }
    const int judged = t->tries->len > 0 ? finish(t, o) : EXIT_DONE; /* what was tried is not lost */
    return status != EXIT_DONE ? status : judged;
}

/* ---- the command ------------------------------------------------------------------------------------- */

static int tune_it(tuning *t, rgp_rig *file, const tune_options *o, const char *loop)
{
    interrupt_catch();
    if (!tune_find(t, file, loop) || !read_numbers(t, o)) {
        return EXIT_USAGE;
    }
    if (o->script) {
        return by_script(t, o);
    }
    const bool any = o->step || o->push || o->disturb || o->tries || o->save || o->json || o->picture;
    return any || !isatty(STDIN_FILENO) || !isatty(STDOUT_FILENO) ? by_options(t, o) : tune_by_keys(t);
}

static int run_tune(const command *self, int argc, char **argv)
{
    tune_options o = {0};
    const GOptionEntry entries[] = {
        {"try", 0, 0, G_OPTION_ARG_FILENAME_ARRAY, &o.tries,
         "gains and settings to try, such as 'kp 8, ki 0.1'; again for more", "GAINS"},
        {"step", 0, 0, G_OPTION_ARG_FILENAME, &o.step, "test with a step of the setpoint", "AMOUNT"},
        {"push", 0, 0, G_OPTION_ARG_FILENAME, &o.push, "test with so much more on the output", "AMOUNT"},
        {"disturb", 0, 0, G_OPTION_ARG_NONE, &o.disturb, "test with each disturbance that the hook-up states", NULL},
        {"over", 0, 0, G_OPTION_ARG_FILENAME, &o.over, "how long a test is looked at; 1000 ticks if not said", "TIME"},
        {"within", 0, 0, G_OPTION_ARG_FILENAME, &o.within, "an error that counts as settled", "AMOUNT"},
        {"picture", 0, 0, G_OPTION_ARG_FILENAME, &o.picture, "draw the tries, .png or .svg", "FILE"},
        {"save", 0, 0, G_OPTION_ARG_INT, &o.save, "write the gains of that try into the rig file", "NUMBER"},
        {"anyway", 0, 0, G_OPTION_ARG_NONE, &o.anyway, "with --save: also the gains of a try that was broken off",
         NULL},
        {"script", 0, 0, G_OPTION_ARG_FILENAME, &o.script, "orders line by line, - for standard input", "FILE"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program", NULL},
        {"pace", 0, 0, G_OPTION_ARG_FILENAME, &o.pace, "on the whole screen: so many times as fast as the wall clock",
         "NUMBER"},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        PORT_ENTRIES,
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        return status;
    }
    tuning t;
    tune_begin(&t, self, argv[1]);
    rgp_rig *file = rigfile_load(self, argv[1]);
    status = file && rigfile_fits_port(self, file, false, o.seed != NULL, o.pace != NULL)
                 ? tune_it(&t, file, &o, argv[2])
                 : EXIT_USAGE;
    rgp_rig_free(file);
    tune_end(&t);
    char **const texts[] = {&o.step, &o.push, &o.over, &o.within, &o.picture, &o.script, &o.seed, &o.pace};
    for (size_t i = 0; i < G_N_ELEMENTS(texts); i++) {
        g_free(*texts[i]);
    }
    g_strfreev(o.tries);
    return status;
}

const command command_tune = {"tune", "FILE LOOP", "tries gains on a running loop, tests it and says how it answers",
                              "rigpulse tune examples/boiler.rig steam --step 2K --try 'kp 10, ki 0.1'", run_tune};
