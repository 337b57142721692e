/* rigpulse list: what a recording holds. */
#include "tool/command.h"
#include "tool/reading.h"

#include "runtime/recording.h"
#include "explain/describe.h"

#include <jansson.h>
#include <stdio.h>

static void find_extremes(const rgp_recording *r, uint32_t slot, float *least, float *greatest, uint32_t *bad)
{
    const rgp_extent all = rgp_history_extent(r->history, (uint32_t)rgp_history_slot(r->history, slot), 0, r->rows);
    *least = all.least;
    *greatest = all.greatest;
    *bad = r->rows - (uint32_t)all.usable;
}

static double length_of(const rgp_recording *r)
{
    return (double)(rgp_recording_time_us(r, r->rows - 1) - rgp_recording_time_us(r, 0)) / 1e6 +
           r->image->tick_us / 1e6;
}

static void print_columns(const rgp_recording *r)
{
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        if (!r->has[slot]) {
            continue;
        }
        float least, greatest;
        uint32_t bad;
        g_autoptr(GString) from = g_string_new(NULL), to = g_string_new(NULL);
        find_extremes(r, slot, &least, &greatest, &bad);
        rgp_describe_value(r->image, slot, least, from);
        rgp_describe_value(r->image, slot, greatest, to);
        printf("  %-14s %s to %s", rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0), from->str, to->str);
        printf(bad ? "; not to be trusted in %u rows\n" : "\n", bad);
    }
}

static void print_events(const rgp_recording *r)
{
    const GPtrArray *all = rgp_history_occurrences(r->history);
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *e = all->pdata[i];
        printf("  %10.3f s  %s\n", e->time, e->says);
    }
}

static void print_json(const rgp_recording *r)
{
    json_t *columns = json_array(), *events = json_array();
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        float least, greatest;
        uint32_t bad;
        if (r->has[slot]) {
            find_extremes(r, slot, &least, &greatest, &bad);
            json_array_append_new(columns,
                                  json_pack("{s:s, s:s, s:f, s:f, s:i}", "name",
                                            rgp_image_text(r->image, RGP_NAME_SLOT, slot, 0), "unit",
                                            rgp_image_unit(r->image, RGP_NAME_SLOT, slot, 0), "least", (double)least,
                                            "greatest", (double)greatest, "bad_rows", (int)bad));
        }
    }
    for (guint i = 0; i < rgp_history_occurrences(r->history)->len; i++) {
        const rgp_occurrence *e = rgp_history_occurrences(r->history)->pdata[i];
        json_array_append_new(events, json_pack("{s:f, s:s, s:s, s:s}", "t", e->time, "event", rgp_event_word(e->kind),
                                                "of", e->of, "says", e->says));
    }
    json_t *all =
        json_pack("{s:s, s:s, s:i, s:f, s:I, s:I, s:o, s:o}", "rig", rgp_image_text(r->image, RGP_NAME_RIG, 0, 0),
                  "ending", r->ending, "rows", (int)r->rows, "seconds", length_of(r), "seed", (json_int_t)r->seed,
                  "gaps", (json_int_t)r->gaps, "columns", columns, "events", events);
    command_print_json(all);
}

static int run_list(const command *self, int argc, char **argv)
{
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    g_autoptr(GError) error = NULL;
    if (!command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        return status;
    }
    rgp_recording *r = reading_whole(argv[1], &error);
    if (!r) {
        return command_refuse(self, "%s", error->message);
    }
    if (json) {
        print_json(r);
    } else {
        printf("recording of rig %s: %g s, %u rows, seed %" G_GUINT64_FORMAT ", %s\n",
               rgp_image_text(r->image, RGP_NAME_RIG, 0, 0), length_of(r), r->rows, r->seed, r->ending);
        print_columns(r);
        puts("events");
        print_events(r);
        g_autofree char *complaint = rgp_recording_complaint(r);
        if (complaint) {
            puts(complaint);
        }
    }
    status = r->torn_rows || r->gaps || r->foreign ? EXIT_FAULT : EXIT_DONE;
    rgp_recording_free(r);
    return status;
}

const command command_list = {"list", "RECORDING", "lists what a recording holds", "rigpulse list basin.csv", run_list};
