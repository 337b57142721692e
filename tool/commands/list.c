/* rigpulse list: what a recording holds. */
#include "tool/command.h"

#include "runtime/recording.h"
#include "explain/describe.h"

#include <jansson.h>
#include <stdio.h>

static void find_extremes(const rp_recording *r, uint32_t slot, float *least, float *greatest, uint32_t *bad)
{
    const rp_extent all = rp_history_extent(r->history, (uint32_t)rp_history_slot(r->history, slot), 0, r->rows);
    *least = all.least;
    *greatest = all.greatest;
    *bad = r->rows - (uint32_t)all.usable;
}

static double length_of(const rp_recording *r)
{
    return (double)(rp_recording_time_us(r, r->rows - 1) - rp_recording_time_us(r, 0)) / 1e6 + r->image->tick_us / 1e6;
}

static void print_columns(const rp_recording *r)
{
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        if (!r->has[slot]) {
            continue;
        }
        float least, greatest;
        uint32_t bad;
        g_autoptr(GString) from = g_string_new(NULL), to = g_string_new(NULL);
        find_extremes(r, slot, &least, &greatest, &bad);
        rp_tell_value(r->image, slot, least, from);
        rp_tell_value(r->image, slot, greatest, to);
        printf("  %-14s %s to %s", rp_image_text(r->image, RP_NAME_SLOT, slot, 0), from->str, to->str);
        printf(bad ? "; not to be trusted in %u rows\n" : "\n", bad);
    }
}

static void print_events(const rp_recording *r)
{
    const GPtrArray *all = rp_history_occurrences(r->history);
    for (guint i = 0; i < all->len; i++) {
        const rp_occurrence *e = all->pdata[i];
        printf("  %10.3f s  %s\n", e->time, e->says);
    }
}

static void print_json(const rp_recording *r)
{
    json_t *columns = json_array(), *events = json_array();
    for (uint32_t slot = 0; slot < r->image->slots; slot++) {
        float least, greatest;
        uint32_t bad;
        if (r->has[slot]) {
            find_extremes(r, slot, &least, &greatest, &bad);
            json_array_append_new(
                columns, json_pack("{s:s, s:s, s:f, s:f, s:i}", "name", rp_image_text(r->image, RP_NAME_SLOT, slot, 0),
                                   "unit", rp_image_unit(r->image, RP_NAME_SLOT, slot, 0), "least", (double)least,
                                   "greatest", (double)greatest, "bad_rows", (int)bad));
        }
    }
    for (guint i = 0; i < rp_history_occurrences(r->history)->len; i++) {
        const rp_occurrence *e = rp_history_occurrences(r->history)->pdata[i];
        json_array_append_new(events, json_pack("{s:f, s:s, s:s, s:s}", "t", e->time, "event", rp_event_word(e->kind),
                                                "of", e->of, "says", e->says));
    }
    json_t *all =
        json_pack("{s:s, s:s, s:i, s:f, s:I, s:I, s:o, s:o}", "rig", rp_image_text(r->image, RP_NAME_RIG, 0, 0),
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
    rp_recording *r = rp_recording_read(argv[1], &error);
    if (!r) {
        return command_refuse(self, "%s", error->message);
    }
    if (json) {
        print_json(r);
    } else {
        printf("recording of rig %s: %g s, %u rows, seed %" G_GUINT64_FORMAT ", %s\n",
               rp_image_text(r->image, RP_NAME_RIG, 0, 0), length_of(r), r->rows, r->seed, r->ending);
        print_columns(r);
        puts("events");
        print_events(r);
        g_autofree char *complaint = rp_recording_complaint(r);
        if (complaint) {
            puts(complaint);
        }
    }
    status = r->torn_rows || r->gaps ? EXIT_FAULT : EXIT_DONE;
    rp_recording_free(r);
    return status;
}

const command command_list = {"list", "RECORDING", "lists what a recording holds", "rigpulse list basin.csv", run_list};
