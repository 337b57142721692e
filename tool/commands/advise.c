/* rigpulse advise: what is the matter with the loops of a recorded run, how sure that is, and what to try next. */
#include "advise.h"

#include "tool/names.h"
#include "tool/picture.h"
#include "tool/reading.h"

#include "analysis/diagnosis_words.h"
#include "analysis/figures/advice_figure.h"
#include "analysis/loop_advice.h"
#include "analysis/loop_plain.h"
#include "analysis/rule_advice.h"
#include "rigpulse/edit.h"
#include "rigpulse/image.h"

#include <math.h>
#include <stdio.h>

#define UNTOLD 4u /* sets of gains of each of which it is said that nothing is told */

typedef struct advising {
    const command *self;
    rgp_recording *from;
    uint64_t begin, until; /* rows */
    json_t *json;          /* an array, for a program; else NULL */
    const char *picture;   /* NULL: none */
    uint32_t told;
} advising;

typedef struct advised_loop {
    const char *name;
    rgp_trial_names names;
} advised_loop;

static advised_loop loop_of(const advising *a, uint32_t loop)
{
    const rgp_image_header *image = rgp_history_image(a->from->history);
    advised_loop is = {.name = rgp_image_text(image, RGP_NAME_LOOP, loop, 0)};
    is.names = rgp_trial_names_of(image, loop);
    return is;
}

static json_t *finite_or_null(double value)
{
    return isfinite(value) ? json_real(value) : json_null();
}

static json_t *falls(const rgp_diagnosis *d)
{
    return d->falls
               ? json_pack("{s:f, s:f, s:o, s:o}", "lag", d->model.lag.value, "gain", d->model.gain.value, "may grow",
                           finite_or_null(d->margins.up), "may shrink to", finite_or_null(d->margins.down))
               : json_null();
}

static json_t *as_json(const advised_loop *l, const rgp_loop_advice *one, const char *trial, double foreseen)
{
    const rgp_diagnosis *d = &one->diagnosis;
    const rgp_pid_gains g = rgp_trial_written(&l->names, &one->piece->pid.gain);
    json_t *is = json_pack("{s:s, s:f, s:f, s:{s:f, s:f, s:f}, s:i, s:i, s:i}", "loop", l->name, "begin", one->begin,
                           "end", one->end, "gains", "kp", (double)g.kp, "ki", (double)g.ki, "kd", (double)g.kd,
                           "parts", (int)one->judged, "parts with something the matter", (int)one->ailing,
                           "times that it did not drive on", (int)one->lost);
    json_object_set_new(is, "nothing is told since", d->unfit ? json_string(d->unfit) : json_null());
    if (!d->unfit) {
        json_t *chances = json_object();
        for (int c = 0; c < RGP_CAUSES; c++) {
            json_object_set_new(chances, rgp_cause_words[c], json_real(d->chance[c]));
        }
        json_object_set_new(is, "cause", json_string(rgp_cause_words[d->first]));
        json_object_set_new(is, "chances", chances);
        json_object_set_new(
            is, "leans", d->holds != 0.0 ? json_pack("{s:f, s:f}", "output", d->holds, "error", d->lean) : json_null());
        json_object_set_new(is, "falls", falls(d));
        json_object_set_new(is, "try", trial ? json_string(trial) : json_null());
        json_object_set_new(is, "foreseen", finite_or_null(foreseen));
    }
    return is;
}

static void print_one(const advised_loop *l, const rgp_loop_advice *one, const char *trial, double foreseen)
{
    const rgp_loop_run run = rgp_loop_piece_run(one->piece);
    const rgp_pid_gains written = rgp_trial_written(&l->names, &one->piece->pid.gain);
    g_autofree char *gains = rgp_gains_text(&written);
    printf("%s with %s, %.6g s to %.6g s\n", l->name, gains, one->begin, one->end);
    if (one->diagnosis.unfit) {
        printf("  nothing is told of it: %s\n", one->diagnosis.unfit);
        return;
    }
    g_autoptr(GString) says = g_string_new(NULL);
    rgp_diagnosis_say(&run, &one->diagnosis, &l->names, says);
    printf("  %s\n", says->str);
    if (one->parts > 1 && one->ailing == 0) {
        printf("  so it is in each of the %u parts that were looked at\n", one->judged);
    } else if (one->parts > 1) {
        printf("  that is from %.6g s to %.6g s; something is the matter in %u of %u parts\n", one->piece->begin,
               one->piece->end, one->ailing, one->judged);
    }
    if (one->lost > 0) {
        printf("  %u time%s it did not drive on: it cut out, or something else took the actuator\n", one->lost,
               one->lost == 1 ? "" : "s");
    }
    g_autofree char *leaning = rgp_diagnosis_leaning(&one->diagnosis, &l->names);
    if (leaning) {
        printf("  %s\n", leaning);
    }
    const char *remedy = rgp_diagnosis_remedy(&one->diagnosis);
    if (remedy) {
        printf("  %s\n", remedy);
    }
    if (trial) {
        printf("  next: rigpulse tune FILE %s --try '%s'\n", l->name, trial);
    }
    if (trial && isfinite(foreseen)) {
        g_string_truncate(says, 0);
        rgp_diagnosis_foretell(foreseen, says);
        printf("  %s\n", says->str);
    }
}

static void tell_one(advising *a, const advised_loop *l, const rgp_loop_advice *one)
{
    const rgp_loop_run run = rgp_loop_piece_run(one->piece);
    double foreseen = NAN;
    g_autofree char *trial =
        one->diagnosis.unfit ? NULL : rgp_diagnosis_trial(&run, &one->diagnosis, &l->names, &foreseen);
    if (a->json) {
        json_array_append_new(a->json, as_json(l, one, trial, foreseen));
    } else {
        print_one(l, one, trial, foreseen);
    }
    a->told++;
}

static bool draw(const advising *a, uint32_t loop, const GPtrArray *pieces, const GArray *all)
{
    const rgp_image_header *image = rgp_history_image(a->from->history);
    const rgp_image_loop *l = rgp_image_loop_at(image, loop);
    const rgp_advice_picture what = {
        rgp_image_text(image, RGP_NAME_LOOP, loop, 0),
        rgp_image_unit(image, RGP_NAME_SLOT, l->first + RGP_TERM_TARGET, 0),
        rgp_image_unit(image, RGP_NAME_SLOT, rgp_image_actuator_slot(image, l->actuator), 0)};
    g_autoptr(GString) script = rgp_advice_script(pieces, all, &what, a->picture);
    g_autoptr(GError) error = NULL;
    return picture_run(script, a->picture, &error) || command_fails(a->self, "%s", error->message);
}

static void print_plain(const advised_loop *l, const rgp_plain_advice *is)
{
    if (!is->says) {
        printf("%s never drove\n", l->name);
        return;
    }
    printf("%s, %.6g s to %.6g s\n  %s\n", l->name, is->begin, is->end, is->says->str);
    if (is->remedy) {
        printf("  %s\n", is->remedy);
    }
    if (is->next) {
        printf("  next: rigpulse tune FILE %s --try '%s'\n", l->name, is->next);
    }
}

/* Of a loop whose course is not known. */
static void tell_nothing(advising *a, const advised_loop *l, uint32_t loop)
{
    const rgp_image_header *image = rgp_history_image(a->from->history);
    const char *why = rgp_loop_predict(image, loop) && !rgp_loop_pid(image, loop)
                          ? "it acts on its 'predict' line, and what it measures has no name: put 'signal it = ...' "
                            "before the loop, and measure 'it'"
                          : "its setpoint and error are not recorded";
    if (a->json) {
        json_array_append_new(a->json, json_pack("{s:s, s:s}", "loop", l->name, "nothing is told since", why));
        return;
    }
    printf("%s: nothing is told of it, since %s\n", l->name, why);
}

/* Of a loop that has no gains to tell of. */
static void tell_plain(advising *a, const advised_loop *l, uint32_t loop)
{
    rgp_plain_advice is;
    const bool known = rgp_plain_advice_of(a->from->history, loop, a->begin, a->until, &is);
    if (a->json && known && is.says) {
        json_array_append_new(a->json,
                              json_pack("{s:s, s:f, s:f, s:s, s:s?, s:s?}", "loop", l->name, "begin", is.begin, "end",
                                        is.end, "says", is.says->str, "remedy", is.remedy, "try", is.next));
    } else if (!a->json && known) {
        print_plain(l, &is);
    } else if (!known) {
        tell_nothing(a, l, loop);
    }
    a->told += known && is.says ? 1 : 0;
    rgp_plain_advice_clear(&is);
}

/* False when its picture could not be drawn. */
static bool tell_loop(advising *a, uint32_t loop)
{
    const advised_loop l = loop_of(a, loop);
    g_autoptr(GPtrArray) pieces = rgp_loop_pieces(a->from->history, loop, a->begin, a->until);
    if (!pieces) {
        tell_plain(a, &l, loop);
        return !a->picture || command_fails(a->self, "-o: there is nothing of '%s' to draw", l.name);
    }
    g_autoptr(GArray) all = rgp_loop_advices(pieces);
    guint untold = 0;
    for (guint i = 0; i < all->len; i++) {
        const rgp_loop_advice *one = &g_array_index(all, rgp_loop_advice, i);
        const bool tells = a->json || !one->diagnosis.unfit || all->len <= UNTOLD;
        untold += !tells;
        if (tells) {
            tell_one(a, &l, one);
        }
    }
    if (untold > 0) {
        printf("%s: of %u of the %u gains that it ran with nothing is told: too short, or too few good readings\n",
               l.name, untold, all->len);
    }
    if (all->len == 0 && !a->json) {
        printf("%s never drove\n", l.name);
    }
    return !a->picture || draw(a, loop, pieces, all);
}

/* Rules, guards, actuators and sequences. */
static void tell_hints(advising *a)
{
    g_autoptr(GPtrArray) hints = rgp_hints_of(a->from);
    for (guint i = 0; i < hints->len; i++) {
        const rgp_hint *h = hints->pdata[i];
        if (a->json) {
            json_array_append_new(a->json, json_pack("{s:s, s:s?}", "hint", h->says, "next", h->next));
        } else {
            printf("%s%s%s\n", h->says, h->next ? "\n  " : "", h->next ? h->next : "");
        }
    }
    a->told += hints->len;
}

static int advise(advising *a, const char *name)
{
    const rgp_image_header *image = rgp_history_image(a->from->history);
    const uint32_t loops = rgp_image_count(image, RGP_SECTION_LOOPS);
    uint32_t one = 0;
    if (name && !names_loop_or_refuse(a->self, image, "the recording", name, &one)) {
        return EXIT_USAGE;
    }
    if (a->picture && !name && loops != 1) {
        return command_refuse(a->self, loops > 0 ? "-o: which loop is to be drawn? Name it behind the recording"
                                                 : "-o: the rig of this recording has no loop to draw");
    }
    for (uint32_t loop = name ? one : 0; loop < (name ? one + 1 : loops); loop++) {
        if (!tell_loop(a, loop)) {
            return EXIT_USAGE;
        }
    }
    if (!name) {
        tell_hints(a);
    }
    if (a->told == 0 && !a->json) {
        puts(loops > 0 ? "nothing else is the matter"
                       : "its rig has no loop, and nothing is the matter with its rules");
    }
    return EXIT_DONE;
}

int advise_recording(const command *self, const char *recording)
{
    g_autoptr(GError) error = NULL;
    advising a = {.self = self, .from = reading_whole(recording, &error)};
    if (!a.from) {
        return command_refuse(self, "%s", error->message);
    }
    a.until = a.from->rows;
    const int status = advise(&a, NULL);
    rgp_recording_free(a.from);
    return status;
}

static int run(const command *self, int argc, char **argv)
{
    g_autofree char *begin = NULL, *until = NULL, *picture = NULL;
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"begin", 0, 0, G_OPTION_ARG_FILENAME, &begin, "from a time, a mark or 'line N' on", "MOMENT"},
        {"until", 0, 0, G_OPTION_ARG_FILENAME, &until, "and up to another", "MOMENT"},
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &picture, "draw it, as .png or .svg", "PICTURE"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a program to read", NULL},
        G_OPTION_ENTRY_NULL};
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 2, &status)) {
        return status;
    }
    if (!picture_fits(self, picture)) {
        return EXIT_USAGE;
    }
    g_autoptr(GError) error = NULL;
    advising a = {
        .self = self, .from = reading_whole(argv[1], &error), .json = json ? json_array() : NULL, .picture = picture};
    status = EXIT_USAGE;
    if (!a.from) {
        command_refuse(self, "%s", error->message);
        json_decref(a.json);
        return status;
    }
    a.until = a.from->rows;
    if (reading_moment(self, a.from, "--begin", begin, &a.begin) &&
        reading_moment(self, a.from, "--until", until, &a.until)) {
        status = a.until > a.begin ? advise(&a, argc > 2 ? argv[2] : NULL)
                                   : command_refuse(self, "there is nothing between --begin and --until");
    }
    if (a.json && status == EXIT_DONE) {
        command_print_json(a.json);
    } else {
        json_decref(a.json);
    }
    rgp_recording_free(a.from);
    return status;
}

const command command_advise = {"advise", "RECORDING [LOOP]",
                                "says what is the matter with loops and rules, how sure that is, and what to try next",
                                "rigpulse advise run.csv steam", run};
