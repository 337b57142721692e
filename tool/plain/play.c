/* A run in plain lines, from its heading to how it ended. */
#include "play.h"

#include "live.h"
#include "runtime/event_line.h"
#include "runtime/ports.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static void print_begin(const rgp_door_setup *setup)
{
    const rgp_image_header *image = setup->rig->image;
    const bool real = rgp_ports_is_real(setup->rig);
    printf("rig %s on the %s port, every %g ms", rgp_image_text(image, RGP_NAME_RIG, 0, 0),
           real ? setup->rig->hookup->port : "simulated", image->tick_us / 1000.0);
    if (!real) {
        printf(", seed %" G_GUINT64_FORMAT, setup->seed);
    }
    if (setup->length_us) {
        printf(", for %g s", (double)setup->length_us / 1e6);
    }
    puts(setup->fast ? ", as fast as it goes" : setup->length_us ? "" : ", until Ctrl-C");
    if (setup->dry) {
        puts("a dry run: what is shown as driven is not driven, and everything rests");
    }
    if (setup->bound > 0.0f) {
        printf("nothing is driven further than %g %% of its travel\n", (double)setup->bound);
    }
    if (*setup->says) {
        puts(*setup->says);
    }
}

static void print_end(const rgp_door_setup *setup, const rgp_door_result *r, const live *l)
{
    printf("\n%s after %g s: %" G_GUINT64_FORMAT " ticks, %u %s%s\n",
           r->fault != RGP_OK ? "fault"
           : r->interrupted   ? "interrupted"
                              : "done",
           (double)r->end_us / 1e6, r->ticks, l->fired, l->fired == 1 ? "firing" : "firings",
           rgp_image_count(setup->rig->image, RGP_SECTION_ACTUATORS) > 0 ? "; actuators at rest" : "");
    if (l->faults) {
        printf("%u %s: what it concerns was left at rest\n", l->faults, l->faults == 1 ? "fault" : "faults");
    }
    if (r->fault != RGP_OK) {
        printf("the port is lost: %s\n", rgp_status_text(r->fault));
    }
    if (r->account) {
        puts(r->account);
    }
    if (r->delay.ticks) {
        printf("lateness of the ticks: half within %.3g ms, 99 %% within %.3g ms, worst %.3g ms\n",
               (double)r->delay.median * 1e-3, (double)r->delay.p99 * 1e-3, (double)r->delay.worst * 1e-3);
    }
    if (r->gaps) {
        printf("%" G_GUINT64_FORMAT " ticks are missing in the lines above%s: the machine was too slow to follow\n",
               r->gaps, setup->record ? " and in the recording" : "");
    }
    if (setup->record && !r->record_failed) {
        const char *name = setup->record;
        const int length = (int)strlen(name) - (g_str_has_suffix(name, ".csv") ? 4 : 0);
        printf("recorded %.*s.csv, .events.jsonl and .json; see it: rigpulse plot %.*s.csv -o %.*s.png\n", length, name,
               length, name, length, name);
    }
}

typedef struct playing {
    const rgp_door_setup *setup;
    play_style style;
    live lines;
    bool begun;
} playing;

static bool print_line(json_t *line)
{
    char *text = rgp_line_text(line);
    const bool printed = text && puts(text) != EOF;
    free(text);
    json_decref(line);
    return printed;
}

/* Commands, then events, as a recording has them; nothing else is printed. */
static bool print_lines(playing *p, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    const rgp_image_header *image = p->setup->rig->image;
    const rgp_event *event = rgp_frame_event(layout, frame);
    bool printed = true;
    for (uint32_t i = 0; i < frame->commands; i++) {
        printed = print_line(rgp_command_as_line(image, layout, frame, i)) && printed;
    }
    for (uint32_t i = 0; i < frame->events; i++) {
        printed = print_line(rgp_event_as_line(image, layout, frame, &event[i])) && printed;
        p->lines.faults += rgp_event_is_fault(&event[i]);
    }
    return printed && (frame->events == 0 || fflush(stdout) == 0);
}

static bool print_frame(void *self, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    playing *p = self;
    if (p->style == PLAY_JSON) {
        return print_lines(p, layout, frame);
    }
    if (!p->begun) {
        print_begin(p->setup);
        p->begun = true;
    }
    return live_frame(&p->lines, layout, frame);
}

int play(const command *self, rgp_door_setup *setup, play_style style)
{
    g_autofree char *says = NULL;
    playing p = {.setup = setup, .style = style};
    rgp_door_result result;
    g_autoptr(GError) error = NULL;
    int status = EXIT_USAGE;
    live_begin(&p.lines, setup->rig->image, style == PLAY_EVENTS);
    setup->says = &says;
    setup->frame = print_frame;
    setup->self = &p;
    if (rgp_door_run(setup, &result, &error)) {
        if (style != PLAY_JSON) {
            print_end(setup, &result, &p.lines);
        }
        rgp_door_result_clear(&result);
        status =
            result.fault != RGP_OK || result.record_failed || result.gaps || p.lines.faults ? EXIT_FAULT : EXIT_DONE;
    } else {
        fflush(stdout);
        command_refuse(self, "%s", error->message);
    }
    live_end(&p.lines);
    return fflush(stdout) == 0 ? status : EXIT_FAULT;
}
