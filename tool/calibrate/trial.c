/* Trials of an actuator: driven for stated times, what came out is told by the person, a line through it is fitted. */
#include "trial.h"

#include "runtime/interrupt.h"
#include "tool/rewrite.h"
#include "tool/stand.h"

#include "explain/describe.h"
#include "rigpulse/edit.h"

#include <gsl/gsl_fit.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define TRIALS_MOST 50u
#define TIME_MOST   600.0
#define REST_S      1.0 /* before and after each trial */
#define SAME        1e-9

typedef struct trials {
    const command *self;
    const trial_options *o;
    const char *path, *name, *unit;
    rgp_rig *file;
    uint16_t actuator;
    double power;
    guint count;
    double time[TRIALS_MOST], amount[TRIALS_MOST];
} trials;

static int32_t find_actuator(const rgp_image_header *image, const char *name)
{
    return rgp_image_find(image, RGP_FIND_ACTUATOR, name);
}

bool trial_is_meant(const char *name, const void *image)
{
    return find_actuator(image, name) >= 0;
}

/* ---- one trial --------------------------------------------------------------------------------------- */

/* There is nobody to weigh what came out of a simulated mechanism: it says itself what has changed. */
static void describe_truth(const trials *t, const rgp_door *door, const double *before)
{
    const rgp_hookup *hookup = t->file->hookup;
    for (uint32_t m = 0; m < hookup->mechanisms; m++) {
        const rgp_mechanism_item *item = &hookup->mechanism[m];
        const char *separator = "";
        if (item->actuator[0] != t->actuator) {
            continue;
        }
        printf("  in the simulation, of '%s': ", item->name);
        for (uint32_t i = 0; i < RGP_KIND_TERMINALS_MAX && item->kind->output[i].word; i++) {
            const rgp_terminal *o = &item->kind->output[i];
            g_autoptr(GString) by = g_string_new(NULL);
            double now = 0.0;
            rgp_door_truth(door, m, i, &now);
            const double change = now - before[m * RGP_KIND_TERMINALS_MAX + i];
            rgp_describe_number(round(change * 1e3) / 1e3, o->unit, by);
            printf("%s%s %s%s", separator, o->word, change > 0.0 ? "+" : "", by->str);
            separator = ", ";
        }
        puts("");
    }
}

static double *note_truth(const trials *t, const rgp_door *door)
{
    const rgp_hookup *hookup = t->file->hookup;
    double *truth = g_new0(double, (gsize)hookup->mechanisms *RGP_KIND_TERMINALS_MAX + 1);
    for (uint32_t m = 0; m < hookup->mechanisms; m++) {
        for (uint32_t i = 0; i < RGP_KIND_TERMINALS_MAX && hookup->mechanism[m].kind->output[i].word; i++) {
            rgp_door_truth(door, m, i, &truth[m * RGP_KIND_TERMINALS_MAX + i]);
        }
    }
    return truth;
}

static bool drive_it(const trials *t, double seconds)
{
    g_autoptr(GError) error = NULL;
    stand s;
    const bool begun = stand_begin(&s, t->file, &(stand_setup){.seed = t->o->seed, .fast = t->o->fast}, &error);
    if (begun) {
        stand_tick_for(&s, REST_S);
        g_autofree double *before = note_truth(t, s.door);
        stand_hand(&s, t->actuator, t->power);
        stand_tick_for(&s, seconds);
        stand_release(&s, t->actuator);
        stand_tick_for(&s, REST_S);
        if (!interrupt_asked()) {
            describe_truth(t, s.door, before);
        }
    } else {
        command_refuse(t->self, "%s", error->message);
    }
    stand_end(&s);
    return begun;
}

/* ---- what was measured --------------------------------------------------------------------------------- */

static bool read_time(const trials *t, const char *text, double *seconds)
{
    const char *why = "it must be above 0 and at most 600 s";
    if (!rgp_quantity_parse(text, "s", seconds, &why) || !(*seconds > 0.0 && *seconds <= TIME_MOST)) {
        command_refuse(t->self, "'%s': %s; write a time, for example 1.5s", text, why);
        return false;
    }
    return true;
}

static bool read_amount(const trials *t, const char *text, double *amount)
{
    char *end;
    *amount = g_ascii_strtod(text, &end);
    while (*end == ' ') {
        end++;
    }
    if (end == text || (*end && strcmp(end, t->unit) != 0) || !isfinite(*amount) || *amount < 0.0) {
        command_refuse(t->self, "'%s': write how many %s came out, for example 2.1", text, t->unit);
        return false;
    }
    return true;
}

static bool add_trial(trials *t, double seconds, double amount)
{
    if (t->count == TRIALS_MOST) {
        command_refuse(t->self, "more than %u trials", TRIALS_MOST);
        return false;
    }
    t->time[t->count] = seconds;
    t->amount[t->count++] = amount;
    return true;
}

static bool take_stated(trials *t)
{
    for (char **one = t->o->trial; *one; one++) {
        g_auto(GStrv) part = g_strsplit(*one, "=", 2);
        double seconds, amount;
        if (!part[0] || !part[1]) {
            command_refuse(t->self, "--trial %s: write TIME=AMOUNT, for example --trial 2s=2.1", *one);
            return false;
        }
        if (!read_time(t, g_strstrip(part[0]), &seconds) || !read_amount(t, g_strstrip(part[1]), &amount) ||
            !add_trial(t, seconds, amount)) {
            return false;
        }
    }
    return true;
}

/* One line, without its end; NULL at the end of the input. */
static char *ask(const char *question)
{
    char *line = NULL;
    size_t room = 0;
    fputs(question, stdout);
    fflush(stdout);
    if (getline(&line, &room, stdin) < 0) {
        free(line);
        return NULL;
    }
    char *answer = g_strdup(g_strstrip(line));
    free(line);
    return answer;
}

static bool ask_for_trials(trials *t)
{
    g_autofree char *question = g_strdup_printf("how many %s came out? ", t->unit);
    printf("%s is driven with %g %s for a time that you say; then say how much came out. Take a short, a middle and a "
           "long time.\nAn empty line or 'done' ends it.\n",
           t->name, t->power,
           rgp_image_unit(t->file->image, RGP_NAME_SLOT, rgp_image_actuator_slot(t->file->image, t->actuator), 0));
    for (;;) {
        double seconds, amount;
        g_autofree char *time = ask("\nfor how long? ");
        if (!time || !*time || strcmp(time, "done") == 0) {
            return true;
        }
        if (!read_time(t, time, &seconds)) {
            continue;
        }
        if (!drive_it(t, seconds)) {
            return false;
        }
        g_autofree char *much = interrupt_asked() ? NULL : ask(question);
        if (!much) {
            return true;
        }
        if (read_amount(t, much, &amount) && !add_trial(t, seconds, amount)) {
            return true;
        }
    }
}

/* ---- what comes of it ---------------------------------------------------------------------------------- */

/* time = lead + each amount, by least squares; a lead below 0 is none. A trial in which nothing came out only says that
 * the lead was not over. */
static bool fit(const trials *t, double *each, double *lead, double *worst)
{
    double time[TRIALS_MOST], amount[TRIALS_MOST], cov00, cov01, cov11, sum;
    guint n = 0;
    bool differ = false;
    for (guint i = 0; i < t->count; i++) {
        if (t->amount[i] > 0.0) {
            time[n] = t->time[i];
            amount[n] = t->amount[i];
            differ |= fabs(amount[n] - amount[0]) > SAME;
            n++;
        }
    }
    if (n < 2 || !differ) {
        return false;
    }
    gsl_fit_linear(amount, 1, time, 1, n, lead, each, &cov00, &cov01, &cov11, &sum);
    if (*lead < 0.0) {
        gsl_fit_mul(amount, 1, time, 1, n, each, &cov11, &sum);
        *lead = 0.0;
    }
    *worst = 0.0;
    for (guint i = 0; i < n; i++) {
        *worst = fmax(*worst, fabs((time[i] - *lead) / *each - amount[i]));
    }
    return *each > 0.0;
}

static int conclude(const trials *t)
{
    g_autoptr(GError) error = NULL;
    double each, lead, worst;
    if (!fit(t, &each, &lead, &worst)) {
        return command_refuse(t->self, "it takes at least two trials with different amounts; %s is as it was", t->path);
    }
    printf("\n%u trials: 1 %s in %.3g s, after %.3g s in which nothing comes\n", t->count, t->unit, each, lead);
    if (t->count > 2 && worst < 1e-6) {
        puts("the trials fit");
    } else if (t->count > 2) {
        printf("the trials are off that by at most %.2g %s\n", worst, t->unit);
    } else {
        puts("two trials always fit; a third one tells how well");
    }
    const char *text = rgp_edit_portion(t->file, t->name, t->unit, each, lead);
    g_autoptr(GPtrArray) changed = text ? rewrite_differences(t->file->source, text) : NULL;
    for (guint i = 0; changed && i < changed->len; i++) {
        const rewrite_hunk *h = changed->pdata[i];
        printf("line %-4u was   %sline %-4u is    %s", h->line, h->before, h->line, h->after);
    }
    if (t->o->dry_run || !text) {
        return EXIT_DONE;
    }
    if (!rewrite_file(t->path, t->file->source, text, "calibrate by trial", &error)) {
        return command_refuse(t->self, "%s", error->message);
    }
    printf("%s is written; 'rigpulse calibrate %s --undo' takes it back\n", t->path, t->path);
    return EXIT_DONE;
}

static bool find_power(trials *t)
{
    const rgp_image_header *image = t->file->image;
    const rgp_image_actuator *a = (const rgp_image_actuator *)rgp_image_at(image, RGP_SECTION_ACTUATORS) + t->actuator;
    const char *u = rgp_image_unit(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, t->actuator), 0), *why = "";
    char *end;
    t->power = (double)a->high;
    if (t->o->power) {
        t->power = g_ascii_strtod(t->o->power, &end);
        if (end == t->o->power || (*end && !rgp_quantity_parse(t->o->power, u, &t->power, &why)) ||
            !(t->power >= (double)a->low && t->power <= (double)a->high)) {
            command_refuse(t->self, "--power %s: '%s' can be driven from %g to %g %s", t->o->power, t->name,
                           (double)a->low, (double)a->high, u);
            return false;
        }
    }
    return true;
}

int trial_run(const command *self, const trial_options *o, const char *path, rgp_rig *file, const char *actuator)
{
    trials t = {.self = self, .o = o, .path = path, .name = actuator, .file = file};
    t.actuator = (uint16_t)find_actuator(file->image, actuator);
    t.unit = rgp_rig_portion_unit(file, actuator);
    if (!t.unit && !o->unit) {
        return command_refuse(self, "in which unit does '%s' give? Say it with --unit, for example --unit ml",
                              actuator);
    }
    t.unit = t.unit ? t.unit : o->unit;
    if (!find_power(&t)) {
        return EXIT_USAGE;
    }
    if (o->trial) {
        return take_stated(&t) ? conclude(&t) : EXIT_USAGE;
    }
    interrupt_catch();
    const bool taken = ask_for_trials(&t);
    int status = EXIT_USAGE;
    if (interrupt_asked()) {
        printf("\ninterrupted; %s is at rest, and %s as it was\n", t.name, path);
        status = EXIT_DONE;
    } else if (taken) {
        status = conclude(&t);
    }
    return status;
}
