/* The error of a calibrated signal, against what 'calibrate' promised: over many seeds, on mechanisms whose truth is
 * known. Prints a table in Markdown.
 *
 * Usage: evidence_calibration TOOL EXAMPLES SEEDS [LEAST]     with LEAST (percent): fails when less is within the
 * promise */
#include "sim/sim.h"
#include "rigpulse/engine.h"

#include <glib/gstdio.h>
#include <jansson.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

typedef struct study {
    const char *rig, *signal, *unit, *points;
    double from, to; /* where it is tried, in nine places */
    uint32_t output; /* of the mechanism: the truth */
    double learn;    /* seconds before the first place; of a sum, which then counts from 0 each time */
} study;

static const study studies[] = {
    {"basin", "depth", "cm", "-p 0cm -p 12cm", 0.5, 11.5, 0, 0.0},
    {"basin", "depth", "cm", "-p 0cm -p 4cm -p 8cm -p 12cm", 0.5, 11.5, 0, 0.0},
    {"beacon", "distance", "cm", "-p 50cm", 50, 150, 0, 0.0},
    {"beacon", "distance", "cm", "-p 50cm -p 100cm -p 150cm", 50, 150, 0, 0.0},
    {"lamp", "light", "lx", "-p 40lx -p 900lx", 50, 800, 0, 0.0},
    {"lamp", "light", "lx", "-p 40lx -p 100lx -p 200lx -p 400lx -p 900lx", 50, 800, 0, 0.0},
    {"vane", "turned", "deg", "-p 0deg -p 90deg", 0, 90, 1, 8.0},
    {"vane", "turned", "deg", "-p 0deg -p 90deg -p 180deg -p 0deg", 0, 180, 1, 8.0},
};

enum { PLACES = 9 };

#define SETTLE 4.0
#define LOOK   4.0

typedef struct tally {
    uint32_t calibrated, refused, places, within;
    double squares, worst, promised;
} tally;

/* ---- calibrating, as a user does -------------------------------------------------------------------- */

static double promise_of(const char *text)
{
    json_t *all = json_loads(text, 0, NULL);
    const double promise = json_number_value(json_object_get(all, "expected_error"));
    json_decref(all);
    return promise;
}

/* The file's new text; NULL when it was refused. */
static char *calibrate(const char *tool, const char *examples, const study *s, uint32_t seed, double *promise)
{
    g_autofree char *folder = g_dir_make_tmp("evidence-XXXXXX", NULL);
    g_autofree char *from = g_strdup_printf("%s/%s.rig", examples, s->rig), *to = g_strdup_printf("%s/x.rig", folder);
    g_autofree char *undo = g_strconcat(to, ".undo", NULL), *out = NULL, *err = NULL;
    g_autofree char *line =
        g_strdup_printf("%s calibrate %s %s %s --place --fast --json --seed %u", tool, to, s->signal, s->points, seed);
    char *text = NULL;
    gint status = 0;
    if (g_file_get_contents(from, &text, NULL, NULL) && g_file_set_contents(to, text, -1, NULL) &&
        g_spawn_command_line_sync(line, &out, &err, &status, NULL) && status == 0) {
        *promise = promise_of(out);
        g_free(text);
        g_file_get_contents(to, &text, NULL, NULL);
    } else {
        g_clear_pointer(&text, g_free);
    }
    g_unlink(to);
    g_unlink(undo);
    g_rmdir(folder);
    return text;
}

/* ---- trying it -------------------------------------------------------------------------------------- */

typedef struct trial {
    rgp_rig *rig;
    rgp_engine engine;
    void *memory;
    rgp_sim *sim;
    uint32_t slot;
    uint64_t now;
} trial;

static double tick_for(trial *t, double seconds)
{
    const rgp_image_header *image = t->rig->image;
    const rgp_port *port = rgp_sim_port(t->sim);
    const uint64_t end = t->now + (uint64_t)(seconds * 1e6);
    double sum = 0.0;
    uint32_t count = 0;
    for (; t->now < end; t->now += image->tick_us) {
        port->sleep_until(port->self, t->now);
        for (uint16_t i = 0; i < rgp_image_count(t->engine.image, RGP_SECTION_SENSORS); i++) {
            rgp_sample sample;
            port->read(port->self, i, &sample);
            rgp_engine_sense(&t->engine, i, &sample);
        }
        rgp_engine_step(&t->engine, t->now);
        const rgp_reading r = rgp_engine_value(&t->engine, t->slot);
        if (rgp_usable(r.quality)) {
            sum += (double)r.value;
            count++;
        }
    }
    return sum / count;
}

static void open_trial(trial *t, const study *s, const char *text, uint32_t seed)
{
    *t = (trial){.rig = rgp_rig_compile("x.rig", text, strlen(text), rgp_sim_catalog())};
    const rgp_image_header *image = t->rig->image;
    t->memory = g_malloc0(image->memory);
    rgp_engine_open(&t->engine, image, t->rig->image_size, t->memory, image->memory);
    rgp_engine_stop(&t->engine);
    t->sim = rgp_sim_new(t->rig, seed, false, NULL);
    while (strcmp(rgp_image_text(image, RGP_NAME_SLOT, t->slot, 0), s->signal) != 0) {
        t->slot++;
    }
}

static double read_at(trial *t, double place)
{
    rgp_sim_place(t->sim, 0, place);
    tick_for(t, SETTLE);
    return tick_for(t, LOOK);
}

/* In nine places, with other noise than the calibration saw. */
static void try_out(const study *s, const char *text, uint32_t seed, double promise, tally *to)
{
    trial t;
    open_trial(&t, s, text, seed + 1000000);
    rgp_sim_place(t.sim, 0, s->learn > 0.0 ? 0.0 : s->from);
    tick_for(&t, s->learn);
    for (int i = 0; i < PLACES; i++) {
        const double start = s->learn > 0.0 ? read_at(&t, 0.0) : 0.0;
        const double read = read_at(&t, s->from + (s->to - s->from) * i / (PLACES - 1));
        const double error = fabs(read - start - rgp_sim_truth(t.sim, 0, s->output));
        to->places++;
        to->within += error <= promise;
        to->squares += error * error;
        to->worst = fmax(to->worst, error);
    }
    to->promised += promise;
    to->calibrated++;
    rgp_sim_free(t.sim);
    rgp_rig_free(t.rig);
    g_free(t.memory);
}

static double run_study(const char *tool, const char *examples, const study *s, uint32_t seeds)
{
    tally all = {0};
    for (uint32_t seed = 1; seed <= seeds; seed++) {
        double promise = 0.0;
        g_autofree char *text = calibrate(tool, examples, s, seed, &promise);
        if (text) {
            try_out(s, text, seed, promise, &all);
        } else {
            all.refused++;
        }
    }
    const double within = 100.0 * all.within / MAX(all.places, 1);
    const bool promises = all.promised > 0.0;
    g_autofree char *promise =
        promises ? g_strdup_printf("%.2g %s", all.promised / all.calibrated, s->unit) : g_strdup("nothing");
    g_autofree char *kept = promises ? g_strdup_printf("%.0f %%", within) : g_strdup("");
    printf("| `%s` | `%s` | %u | %u | %s | %.2g %s | %.2g %s | %s |\n", s->signal, s->points, all.calibrated,
           all.refused, promise, sqrt(all.squares / MAX(all.places, 1)), s->unit, all.worst, s->unit, kept);
    return all.calibrated && promises ? within : all.calibrated ? 100.0 : 0.0;
}

int main(int argc, char **argv)
{
    if (argc < 4) {
        fprintf(stderr, "usage: %s TOOL EXAMPLES SEEDS [LEAST]\n", argv[0]);
        return 2;
    }
    const double least = argc > 4 ? g_ascii_strtod(argv[4], NULL) : 0.0;
    bool kept = true;
    puts("| signal | points | calibrations | refused | promised, mean | error, rms | error, worst | within the promise "
         "|");
    puts("|---|---|---|---|---|---|---|---|");
    for (size_t i = 0; i < G_N_ELEMENTS(studies); i++) {
        kept &= run_study(argv[1], argv[2], &studies[i], (uint32_t)atoi(argv[3])) >= least;
    }
    return kept ? 0 : 1;
}
