/* rigpulse watch: a rig, or a recording, on the whole screen. */
#include "view.h"

#include "tool/begin.h"
#include "runtime/interrupt.h"
#include "tool/plain/play.h"
#include "tool/rigfile.h"
#include "tool/terminal/show.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include <math.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define DRAW_MS       80
#define NOTE_US       6000000
#define SPAN_S        20.0
#define ROWS_LEAST    8
#define COLUMNS_LEAST 40
#define WIDE_FROM     120
#define CHART_LEAST   10 /* rows, where there are 24 */

/* ---- what the parts of the view share -------------------------------------------------------------- */

const char *view_name(const view *v, const view_item *item)
{
    if (item->kind == ITEM_RULE) {
        static char line[32];
        const rp_image_name *name = rp_image_name_of(v->image, RP_NAME_RULE, item->index, 0);
        g_snprintf(line, sizeof line, "line %u", name ? name->line : 0);
        return line;
    }
    return rp_image_text(v->image, RP_NAME_SLOT, item->index, 0);
}

const char *view_unit(const view *v, const view_item *item)
{
    return item->kind == ITEM_RULE ? "" : rp_image_unit(v->image, RP_NAME_SLOT, item->index, 0);
}

void view_say(view *v, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_free(v->note);
    v->note = g_strdup_vprintf(format, arguments);
    v->note_until = g_get_monotonic_time() + NOTE_US;
    va_end(arguments);
}

void view_ask(view *v, bool (*take)(view *v, const char *answer), uint32_t which, const char *format, ...)
{
    va_list arguments;
    va_start(arguments, format);
    g_free(v->prompt.question);
    v->prompt.question = g_strdup_vprintf(format, arguments);
    g_clear_pointer(&v->note, g_free);
    v->prompt.take = take;
    v->prompt.which = which;
    g_string_truncate(v->prompt.answer, 0);
    va_end(arguments);
}

const rp_occurrence *view_last_firing(const view *v, uint32_t line)
{
    const GPtrArray *all = rp_history_occurrences(v->history);
    for (guint i = all->len; i-- > 0;) {
        const rp_occurrence *o = all->pdata[i];
        if (o->kind == RP_EVENT_FIRED && o->line == line && o->row <= v->row) {
            return o;
        }
    }
    return NULL;
}

/* ---- what there is to see -------------------------------------------------------------------------- */

static void add_item(view *v, item_kind kind, uint32_t index, int32_t column)
{
    const view_item item = {kind, index, (uint32_t)column, -1, 0};
    if (column >= 0) {
        g_array_append_val(v->item, item);
    }
}

/* `details`: those that a loop brings along, or the others. */
static void add_slots(view *v, item_kind kind, uint32_t from, uint32_t end, bool details)
{
    rp_step step;
    for (uint32_t slot = from; slot < end; slot++) {
        if (rp_image_is_detail(v->image, slot) != details) {
            continue;
        }
        const bool bands = kind == ITEM_SIGNAL && rp_program_writer(v->image, (uint16_t)slot, UINT32_MAX, &step) &&
                           step.op == RP_OP_BANDS;
        add_item(v, bands ? ITEM_BANDS : kind, slot, rp_history_slot(v->history, slot));
    }
}

/* As the data goes: what is read, what is made of it, what may be changed, what is driven, and by which rules; then the
 * terms and the gains of loops. */
static void find_items(view *v)
{
    const uint32_t sensors = rp_image_sensor_slot(v->image, 0), actuators = rp_image_actuator_slot(v->image, 0);
    const uint32_t computed = actuators + rp_image_count(v->image, RP_SECTION_ACTUATORS);
    v->item = g_array_new(FALSE, FALSE, sizeof(view_item));
    add_slots(v, ITEM_SENSOR, sensors, actuators, false);
    add_slots(v, ITEM_SIGNAL, computed, v->image->slots, false);
    add_slots(v, ITEM_PARAM, 0, sensors, false);
    add_slots(v, ITEM_ACTUATOR, actuators, computed, false);
    for (uint32_t i = 0; i < rp_image_count(v->image, RP_SECTION_RULES); i++) {
        add_item(v, ITEM_RULE, i, (int32_t)rp_history_rule(v->history, i));
    }
    add_slots(v, ITEM_SIGNAL, computed, v->image->slots, true);
    add_slots(v, ITEM_PARAM, 0, sensors, true);
}

/* The first loop's measured value, and its setpoint. */
static bool is_looped(const view *v, const view_item *is)
{
    const rp_image_loop *l = rp_image_at(v->image, RP_SECTION_LOOPS);
    return rp_image_count(v->image, RP_SECTION_LOOPS) > 0 &&
           (is->index == l->measured || is->index == (uint32_t)l->first + RP_TERM_TARGET);
}

/* To begin with the chart shows what a loop measures and is to come to, or what limits look at, and what is driven in
 * percent. */
static void choose_series(view *v)
{
    int series = 0;
    for (int pass = 0; pass < 3; pass++) {
        for (guint i = 0; i < v->item->len && series < 3; i++) {
            view_item *is = view_item_at(v, i);
            rp_limit_step limit;
            const bool watched =
                is->kind == ITEM_SIGNAL && (rp_image_count(v->image, RP_SECTION_LOOPS) > 0
                                                ? is_looped(v, is)
                                                : rp_program_limits(v->image, (uint16_t)is->index, &limit, 1) > 0);
            const bool driven = is->kind == ITEM_ACTUATOR && strcmp(view_unit(v, is), "%") == 0;
            const bool any = series == 0 && (is->kind == ITEM_SIGNAL || is->kind == ITEM_SENSOR);
            if (is->series < 0 && (pass == 0 ? watched : pass == 1 ? driven : any)) {
                is->series = series++;
            }
        }
    }
}

/* ---- drawing --------------------------------------------------------------------------------------- */

static void put_state(const view *v, GString *to)
{
    const bool over = rp_door_over(v->door), recorded = v->door->ending != NULL;
    const uint64_t end = rp_history_end(v->history);
    g_string_append_printf(to, " %s  ", rp_image_text(v->image, RP_NAME_RIG, 0, 0));
    if (v->frozen) {
        g_string_append_printf(to, "FROZEN at %.3f s", view_time(v, v->row));
        if (!over) {
            g_string_append_printf(to, ", %.1f s ago; it runs on", view_time(v, end - 1) - view_time(v, v->row));
        }
    } else if (!over || recorded) {
        g_string_append_printf(to, "%s %.1f s", over ? "at" : recorded ? "played" : "live", view_time(v, v->row));
    }
    if (over && recorded) {
        g_string_append_printf(to, " of %.1f s, recorded, %s", view_time(v, end - 1), v->door->ending);
    } else if (over) {
        g_string_append_printf(to, "%sended after %.1f s", v->frozen ? "; " : "", view_time(v, end - 1));
    }
}

static void put_ms(GString *to, const char *label, uint64_t us)
{
    const double ms = (double)us / 1e3;
    g_string_append_printf(to, ms < 9.95 ? "%s%.2g" : "%s%.0f", label, ms);
}

static void put_pace(view *v, GString *to)
{
    if (v->recording) {
        g_string_append_printf(to, "  REC %s", v->recording);
    }
    g_string_append_printf(to, "  tick %g ms", v->image->tick_us / 1000.0);
    if (v->pace != 1.0) {
        g_string_append_printf(to, ", pace %g", v->pace);
    }
    if (v->door->ending) {
        return;
    }
    const rp_delay late = rp_door_delay(v->door);
    if (late.ticks == 0) {
        g_string_append(to, ", not paced");
        return;
    }
    put_ms(to, ", late: median ", late.median);
    put_ms(to, ", 99 % ", late.p99);
    g_autoptr(GString) worst = g_string_new(NULL);
    put_ms(worst, ", worst ", late.worst);
    const glong with = g_utf8_strlen(to->str, -1) + g_utf8_strlen(worst->str, -1) + (glong)strlen(" ms");
    g_string_append(to, with <= screen_columns() ? worst->str : "");
    g_string_append(to, " ms");
}

static void draw_header(view *v)
{
    g_autoptr(GString) text = g_string_new(NULL);
    put_state(v, text);
    put_pace(v, text);
    screen_fill(0, 0, screen_columns(), INK_HEAD, text->str);
}

static void draw_bottom(view *v)
{
    const int row = screen_rows() - 1, width = screen_columns();
    if (v->prompt.question) {
        g_autofree char *valid = g_utf8_make_valid(v->prompt.answer->str, -1);
        g_autofree char *text = g_strdup_printf("%s: %s_", v->prompt.question, valid);
        const int length = (int)g_utf8_strlen(text, -1);
        const char *shown = length > width ? g_utf8_offset_to_pointer(text, length - width) : text;
        screen_fill(row, 0, width, INK_STRONG, shown);
        if (v->note && g_get_monotonic_time() < v->note_until) { /* the reason why it was refused, above it */
            screen_fill(row - 1, 0, width, INK_WARN, v->note);
        }
    } else if (v->note && g_get_monotonic_time() < v->note_until) {
        screen_fill(row, 0, width, INK_WARN, v->note);
    } else {
        view_draw_hints(v, row, width);
    }
}

static void draw_line(int row, int column, int width)
{
    for (int i = 0; i < width; i++) {
        screen_put(row, column + i, 1, INK_DIM, "─");
    }
}

/* The number of lines of the list that do not fit, on either side. */
static void draw_hidden(const view *v, int row, int shown)
{
    const int above = (int)v->top, below = (int)v->item->len - above - shown;
    if (above > 0 && below > 0) {
        screen_printf(row, 2, 30, INK_PLAIN, " %d more above, %d below ", above, below);
    } else if (above + below > 0) {
        screen_printf(row, 2, 30, INK_PLAIN, " %d more %s ", above + below, above > 0 ? "above" : "below");
    }
}

/* Side by side where there is room, else below one another. */
static void draw_body(view *v)
{
    const int rows = screen_rows() - 2, columns = screen_columns(), items = (int)v->item->len;
    const bool wide = columns >= WIDE_FROM;
    const int events = CLAMP(rows / 6, 2, 10);
    const int list = MIN(items, wide ? (rows - events - 2) / 2 : rows - events - 2 - MAX(CHART_LEAST, rows * 2 / 5));
    view_draw_list(v, 1, list, columns);
    draw_line(1 + list, 0, columns);
    draw_hidden(v, 1 + list, list);
    view_draw_chart(v, 2 + list, 0, rows - list - events - 2, columns);
    draw_line(rows - events, 0, columns);
    const int chosen = view_draw_chosen(v, rows - events + 1, events, columns);
    view_draw_events(v, rows - events + 1 + chosen, 0, events - chosen, columns);
}

static void draw(view *v)
{
    screen_clear();
    if (screen_rows() < ROWS_LEAST || screen_columns() < COLUMNS_LEAST) {
        screen_put(0, 0, screen_columns(), INK_PLAIN, "too small");
        screen_put(1, 0, screen_columns(), INK_DIM, "q leaves");
    } else if (v->help) {
        view_draw_help();
        draw_bottom(v);
    } else if (rp_history_end(v->history) == 0) {
        screen_put(0, 0, screen_columns(), INK_PLAIN, "waiting for the first tick");
    } else {
        draw_header(v);
        draw_body(v);
        draw_bottom(v);
    }
}

/* ---- the loop -------------------------------------------------------------------------------------- */

/* Follows the newest row unless frozen; keeps a frozen one among those that are still kept. */
static void follow(view *v)
{
    const uint64_t end = rp_history_end(v->history);
    if (end == 0) {
        return;
    }
    if (!v->frozen) {
        v->row = end - 1;
        v->right_us = rp_history_time_us(v->history, v->row);
    }
    v->row = CLAMP(v->row, rp_history_first(v->history), end - 1);
}

static void tell_complaint(view *v)
{
    g_autofree char *complaint = rp_door_complaint(v->door);
    if (complaint && !v->complained) {
        v->complained = true;
        view_say(v, v->door->ending ? "%s" : "%s; the run goes on", complaint);
        g_clear_pointer(&v->recording, g_free);
    }
}

static void show_look(void *self)
{
    view *v = self;
    tell_complaint(v);
    v->history = rp_door_look(v->door);
    follow(v);
}

static void show_look_away(void *self)
{
    rp_door_look_away(((view *)self)->door);
}

static bool show_over(void *self)
{
    return ((const view *)self)->leaving;
}

static void show_draw(void *self)
{
    draw(self);
}

static void show_key(void *self, int key)
{
    view *v = self;
    if (rp_history_end(v->history) > 0 || key == 'q') {
        view_key(v, key);
    }
}

static void watch_all(view *v)
{
    show_run(&(show){v, v->door, DRAW_MS, show_look, show_look_away, show_over, show_draw, show_key});
}

static void begin_view(view *v)
{
    v->span = SPAN_S;
    v->was_row = UINT64_MAX;
    v->pace = v->pace > 0.0 ? v->pace : 1.0;
    v->prompt.answer = g_string_new(NULL);
    v->changed = g_new0(bool, rp_image_count(v->image, RP_SECTION_PARAMS) + 1);
    find_items(v);
    choose_series(v);
}

static void end_view(view *v)
{
    g_array_unref(v->item);
    g_string_free(v->prompt.answer, TRUE);
    g_free(v->prompt.question);
    g_free(v->changed);
    g_free(v->recording);
    g_free(v->note);
    rp_rig_free(v->file);
}

/* ---- the command ----------------------------------------------------------------------------------- */

/* The run's end in words; of a recording there is nothing to say. */
static int tell_end(const view *v, const rp_door_result *r)
{
    const bool fault = r->fault != RP_OK || r->record_failed || r->gaps > 0;
    printf("%s after %g s: %" G_GUINT64_FORMAT " ticks; actuators at rest\n",
           r->fault != RP_OK ? "fault"
           : r->interrupted  ? "interrupted"
                             : "left",
           (double)r->end_us / 1e6, r->ticks);
    if (r->fault != RP_OK) {
        printf("the port is lost: %s\n", rp_status_text(r->fault));
    }
    if (r->gaps > 0) {
        printf("%" G_GUINT64_FORMAT " ticks are missing in what was shown and recorded\n", r->gaps);
    }
    if (r->complaint) {
        printf("%s\n", r->complaint);
    } else if (v->recording) {
        printf("recorded %s.csv, .events.jsonl and .json\n", v->recording);
    }
    return fault ? EXIT_FAULT : EXIT_DONE;
}

static void say_beginning(view *v, const rp_door_setup *setup)
{
    char *says = setup->says ? *setup->says : NULL;
    if (says || setup->dry) {
        view_say(v, "%s%s", setup->dry ? "a dry run: nothing is driven. " : "",
                 says ? g_strdelimit(says, "\n", ' ') : "");
    }
}

/* `path`: of the rig file; NULL: of a recording. */
static int watch_door(const command *self, const char *path, rp_door_setup *setup)
{
    g_autoptr(GError) error = NULL;
    g_autofree char *says = NULL;
    setup->history = true;
    setup->says = &says;
    interrupt_catch();
    rp_door *door = rp_door_open(setup, &error);
    if (!door) {
        return command_refuse(self, "%s", error->message);
    }
    view v = {.rig = door->rig,
              .image = door->rig->image,
              .door = door,
              .path = path,
              .recording = g_strdup(setup->record),
              .pace = setup->pace,
              .frozen = rp_door_over(door) && door->ending};
    rp_door_result result;
    v.history = rp_door_look(door);
    begin_view(&v);
    if (v.frozen) {
        v.row = rp_history_end(v.history) - 1;
        v.right_us = rp_history_time_us(v.history, v.row);
    }
    rp_door_look_away(door);
    const bool shown = screen_begin();
    say_beginning(&v, setup);
    if (shown) {
        watch_all(&v);
        screen_end();
    }
    const bool recorded = door->ending != NULL;
    rp_door_stop(door);
    rp_door_end(door, &result);
    const char *term = g_getenv("TERM");
    const int status =
        !shown && recorded ? command_refuse(self, "this is no terminal that can be written on; see 'rigpulse list %s'",
                                            setup->recording)
        : !shown
            ? command_refuse(self, "this terminal ('%s') cannot be written on; try 'rigpulse run'", term ? term : "")
        : recorded ? (result.record_failed ? EXIT_FAULT : EXIT_DONE)
                   : tell_end(&v, &result);
    g_free(result.complaint);
    end_view(&v);
    return status;
}

static int watch_file(const command *self, const char *path, rp_door_setup *setup)
{
    rp_rig *rig = rigfile_load(self, path);
    if (!rig) {
        return EXIT_USAGE;
    }
    setup->rig = rig;
    const bool screen = isatty(STDIN_FILENO) && isatty(STDOUT_FILENO);
    const int status = screen ? watch_door(self, path, setup) : play(self, setup, false);
    rp_rig_free(rig);
    return status;
}

static int watch_recording(const command *self, const char *name, const begin_options *o, rp_door_setup *setup)
{
    setup->recording = name;
    return begin_pace(self, o->pace, &setup->pace) ? watch_door(self, NULL, setup) : EXIT_USAGE;
}

static int run_watch(const command *self, int argc, char **argv)
{
    begin_options o = {0};
    g_autofree char *from = NULL;
    rp_door_setup setup = {0};
    const GOptionEntry entries[] = {
        BEGIN_ENTRIES(&o),
        {"from", 0, 0, G_OPTION_ARG_FILENAME, &from, "look at a recording instead; with --pace as if it ran",
         "RECORDING"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (command_options(self, entries, &argc, &argv, 0, 1, &status)) {
        status = EXIT_USAGE;
        if ((argc > 1) == (from != NULL)) {
            command_refuse(self, "it needs a rig FILE, or --from RECORDING; for example: %s", self->example);
        } else if (from && begin_any_of_rig(&o)) {
            command_refuse(self,
                           "a recording is only looked at, or played with --pace; the other options are for a rig");
        } else if (from) {
            status = watch_recording(self, from, &o, &setup);
        } else if (begin_parse(self, &o, &setup)) {
            status = watch_file(self, argv[1], &setup);
        }
    }
    begin_clear(&o);
    return status;
}

const command command_watch = {"watch", "FILE",
                               "runs a rig on the whole screen: values, curves, events, changes by hand",
                               "rigpulse watch examples/basin.rig", run_watch};
