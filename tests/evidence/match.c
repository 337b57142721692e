/* The intervals of 'match' against mechanisms that are known: for each seed the settings of an example's mechanism are
 * drawn anew, within a third of what is written; that rig is recorded, and the example as it is written is matched to
 * the recording. Counted are the settings that were found, the intervals that hold what is true, and how many times
 * its noise the worst of the sensors is still off. Prints a table in Markdown.
 *
 * Usage: evidence_match RIGPULSE FOLDER_OF_EXAMPLES SEEDS [LEAST]     with LEAST (percent): fails when fewer of the
 * intervals hold */
#include "rigpulse/edit.h"
#include "runtime/ports.h"

#include <gsl/gsl_randist.h>
#include <gsl/gsl_rng.h>
#include <jansson.h>

#include <glib/gstdio.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define OFF     0.3 /* of a logarithm: how far the settings are drawn */
#define DRAWN   8
#define MATCHES 6

static const struct example {
    const char *name, *length;
    const char *drawn[DRAWN]; /* of the first mechanism; ends with NULL */
    const char *says;
} examples[] = {
    {"basin", "90s", {"inflow", "runup", "leak", "area", NULL}, "filled by a pump, with waves and spikes"},
    {"boiler", "20min", {"power", "holds", "lag", "dead", NULL}, "a loop on it, never below its noise"},
    {"boiler_bench", "20min", {"gain", "time", "dead", NULL}, "a lag behind a dead time, a loop on it"},
    {"pointer", "60s", {"swing", "lag", NULL}, "a servo on a base that rolls"},
    {"ferry", "60s", {"swing", "chop", "lag", "play", NULL}, "the same, with a play; four sensors"},
    {"lamp", "90s", {"clear", "thick", NULL}, "a light that fog comes and goes before"},
};

typedef struct counts {
    unsigned runs, drawn, found, held, refused;
    double worst[4096]; /* noises, by run */
} counts;

static uint32_t setting_of(const rgp_mechanism_kind *kind, const char *word)
{
    uint32_t i = 0;
    while (strcmp(kind->setting[i].word, word) != 0) {
        i++;
    }
    return i;
}

/* The example's text with other settings, which go to `truth` as they are written there. */
static char *other_world(const struct example *e, const char *path, gsl_rng *chance, double truth[DRAWN])
{
    g_autofree char *text = NULL;
    rgp_place place[DRAWN];
    const rgp_place *which[DRAWN];
    double number[DRAWN];
    uint32_t count = 0;
    if (!g_file_get_contents(path, &text, NULL, NULL)) {
        fprintf(stderr, "%s cannot be read\n", path);
        exit(2);
    }
    rgp_rig *rig = rgp_rig_compile(path, text, strlen(text), rgp_ports_catalog());
    for (; e->drawn[count]; count++) {
        const uint32_t setting = setting_of(rig->hookup->mechanism[0].kind, e->drawn[count]);
        rgp_rig_mechanism_place(rig, 0, setting, &place[count]);
        which[count] = &place[count];
        number[count] = place[count].value * exp(gsl_ran_flat(chance, -OFF, OFF));
        truth[count] = number[count] * place[count].gain + place[count].offset;
    }
    char *made = g_strdup(rgp_edit_places(rig, which, number, count));
    rgp_rig_free(rig);
    return made;
}

static char *call(const char *folder, const char *const *argv)
{
    char *out = NULL;
    g_spawn_sync(folder, (char **)argv, NULL, G_SPAWN_STDERR_TO_DEV_NULL, NULL, NULL, &out, NULL, NULL, NULL);
    return out;
}

static const json_t *told_of(const json_t *match, const char *word)
{
    size_t i;
    json_t *is;
    json_array_foreach(json_object_get(match, "settings"), i, is)
    {
        if (strcmp(json_string_value(json_object_get(is, "setting")), word) == 0) {
            return is;
        }
    }
    return NULL;
}

static void count_match(const struct example *e, const json_t *match, const double *truth, counts *to)
{
    size_t i;
    json_t *sensor;
    double worst = 0.0;
    to->refused += json_array_size(json_object_get(match, "doubts")) > 0;
    for (uint32_t k = 0; e->drawn[k]; k++) {
        const json_t *is = told_of(match, e->drawn[k]);
        const bool found = strcmp(json_string_value(json_object_get(is, "fate")), "found") == 0;
        to->drawn++;
        to->found += found;
        to->held += found && json_number_value(json_object_get(is, "low")) <= truth[k] &&
                    json_number_value(json_object_get(is, "high")) >= truth[k];
    }
    json_array_foreach(json_object_get(match, "sensors"), i, sensor)
    {
        worst = fmax(worst, json_number_value(json_object_get(sensor, "after")) /
                                json_number_value(json_object_get(sensor, "noise")));
    }
    to->worst[to->runs++ % G_N_ELEMENTS(to->worst)] = worst;
}

static void run_seed(const struct example *e, const char *tool, const char *examples_folder, const char *folder,
                     unsigned seed, counts *to)
{
    double truth[DRAWN];
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(chance, 1000u * (unsigned)(e - examples) + seed);
    g_autofree char *path = g_strdup_printf("%s/%s.rig", examples_folder, e->name);
    g_autofree char *world = other_world(e, path, chance, truth), *at = g_build_filename(folder, "world.rig", NULL);
    g_autofree char *number = g_strdup_printf("%u", seed + 1);
    g_file_set_contents(at, world, -1, NULL);
    g_free(call(folder, (const char *[]){tool, "run", "world.rig", "--for", e->length, "--fast", "--seed", number,
                                         "--record", "r", "--overwrite", "--quiet", NULL}));
    g_autofree char *said = call(folder, (const char *[]){tool, "match", path, "r", "--json", NULL});
    json_t *match = json_loads(said, 0, NULL);
    if (match) {
        count_match(e, match, truth, to);
    }
    json_decref(match);
    gsl_rng_free(chance);
}

static int rising(const void *a, const void *b)
{
    const double x = *(const double *)a, y = *(const double *)b;
    return (x > y) - (x < y);
}

int main(int argc, char **argv)
{
    if (argc < 4) {
        fprintf(stderr, "usage: evidence_match RIGPULSE FOLDER_OF_EXAMPLES SEEDS [LEAST]\n");
        return 2;
    }
    const unsigned seeds = (unsigned)strtoul(argv[3], NULL, 10);
    const double least = argc > 4 ? strtod(argv[4], NULL) : 0.0;
    g_autofree char *tool = g_canonicalize_filename(argv[1], NULL), *from = g_canonicalize_filename(argv[2], NULL);
    g_autofree char *folder = g_dir_make_tmp("evidence-XXXXXX", NULL);
    double share = 100.0;
    printf("| example | mechanism | drawn | settings found | intervals that hold | called bad | worst sensor, in its "
           "noise "
           "|\n|---|---|---|---|---|---|---|\n");
    for (size_t i = 0; i < G_N_ELEMENTS(examples); i++) {
        const struct example *e = &examples[i];
        static counts c;
        c = (counts){.runs = 0};
        for (unsigned seed = 0; seed < seeds; seed++) {
            run_seed(e, tool, from, folder, seed, &c);
        }
        g_autofree char *drawn = g_strjoinv(", ", (char **)e->drawn);
        qsort(c.worst, MIN(c.runs, G_N_ELEMENTS(c.worst)), sizeof *c.worst, rising);
        share = fmin(share, c.found > 0 ? 100.0 * c.held / c.found : 0.0);
        printf("| `%s` | %s | %s | %.0f %% | %.0f %% | %.0f %% | %.2f |\n", e->name, e->says, drawn,
               100.0 * c.found / c.drawn, 100.0 * c.held / MAX(1u, c.found), 100.0 * c.refused / MAX(1u, c.runs),
               c.runs > 0 ? c.worst[MIN(c.runs, G_N_ELEMENTS(c.worst)) / 2] : 0.0);
        fflush(stdout);
    }
    g_autofree char *clean = g_strdup_printf("rm -r '%s'", folder);
    return system(clean) != 0 || share < least ? 1 : 0;
}
