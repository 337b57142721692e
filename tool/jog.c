/* rigpulse jog: one actuator by hand, with nothing else driven, and which sensors answer. */
#include "jog.h"

#include "interrupt.h"
#include "rewrite.h"
#include "rigfile.h"

#include "port/sim/sim.h"
#include "record/tell.h"
#include "rigpulse/edit.h"

#include <math.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#define REST_S     3.0 /* looked at before driving */
#define AFTER_S    1.0
#define HOLD_S     1.5
#define HOLD_MOST  60.0
#define STEPS_MOST 2.0  /* counts that rounding can do */
#define COARSE     10.0 /* percent, to begin with */
#define FINE       1.0

const rp_image_actuator *jog_actuator(const jog *j)
{
    return (const rp_image_actuator *)rp_image_at(j->rig->image, RP_SECTION_ACTUATORS) + j->actuator;
}

const char *jog_name(const jog *j)
{
    return rp_image_text(j->rig->image, RP_NAME_SLOT, rp_image_actuator_slot(j->rig->image, j->actuator), 0);
}

static bool is_number(const jog *j, uint32_t sensor)
{
    return ((const rp_image_sensor *)rp_image_at(j->rig->image, RP_SECTION_SENSORS))[sensor].kind == RP_SENSOR_NUMBER;
}

double jog_least_change(const jog *j, uint32_t sensor)
{
    return is_number(j, sensor) ? STEPS_MOST : 0.5;
}

const char *jog_guard_at(const jog *j, const rp_history *h, uint64_t row)
{
    const GPtrArray *all = rp_history_occurrences(h);
    const rp_image_guard *guard = rp_image_at(j->rig->image, RP_SECTION_GUARDS);
    if ((uint16_t)rp_history_value(h, rp_history_owner(h, j->actuator), row) != RP_OWNER_GUARD) {
        return "";
    }
    for (guint i = all->len; i-- > 0;) {
        const rp_occurrence *o = all->pdata[i];
        for (uint32_t g = 0; o->kind == RP_EVENT_GUARD && g < rp_image_count(j->rig->image, RP_SECTION_GUARDS); g++) {
            const rp_image_name *name = rp_image_name_of(j->rig->image, RP_NAME_GUARD, g, 0);
            if (o->row <= row && guard[g].actuator == j->actuator && name && name->line == o->line) {
                return o->of;
            }
        }
    }
    return "driven for its longest, its duty, or for nothing";
}

void jog_tell_answer(const jog *j, uint32_t sensor, const rp_answer *a, GString *to)
{
    const char *unit = rp_image_unit(j->rig->image, RP_NAME_SLOT, rp_image_sensor_slot(j->rig->image, sensor), 0);
    if (!a->known) {
        g_string_append(to, "no readings to compare with");
    } else if (!a->answered) {
        g_string_append(to, "does not answer");
    } else if (!is_number(j, sensor)) {
        g_string_append_printf(to, "changes, from %.2f s on", a->after);
    } else {
        g_string_append_printf(to, "%s by ", a->change > 0.0 ? "up" : "down");
        rp_tell_number(fabs(a->change), unit, to);
        if (a->noise > 0.0) {
            g_string_append_printf(to, ", %.0f times its noise", fabs(a->change) / a->noise);
        }
        g_string_append_printf(to, ", from %.2f s on", a->after);
    }
}

bool jog_write_least(const jog *j, char **why)
{
    g_autoptr(GError) error = NULL;
    rp_place place;
    const rp_place *const which = &place;
    if (!rp_rig_least_place(j->file, jog_name(j), &place)) {
        *why = g_strdup("its line has no place for a least power");
        return false;
    }
    const char *text = rp_edit_places(j->file, &which, &j->least, 1);
    if (!rewrite_file(j->path, j->file->source, text, "jog", &error)) {
        *why = g_strdup(error->message);
        return false;
    }
    return true;
}

/* ---- by a script ----------------------------------------------------------------------------------- */

typedef struct stand {
    const jog *j;
    rp_engine engine;
    void *memory;
    rp_sim *sim;
    rp_frame_shape shape;
    rp_frame *frame;
    rp_history *history;
    uint64_t ticks;
} stand;

static void take_event(void *self, const rp_event *event)
{
    stand *s = self;
    rp_frame_add_event(&s->shape, s->frame, event);
}

static bool stand_begin(stand *s, const jog *j, bool fast, GError **error)
{
    const rp_image_header *image = j->rig->image;
    *s = (stand){.j = j, .memory = g_malloc0(image->memory), .shape = rp_frame_shape_of(image)};
    rp_engine_open(&s->engine, image, j->rig->image_size, s->memory, image->memory);
    s->frame = g_malloc0(s->shape.bytes);
    rp_engine_hand_only(&s->engine, true);
    rp_engine_listen(&s->engine, take_event, s);
    s->history = rp_history_new(image, 0);
    s->sim = rp_sim_new(j->rig, j->seed, !fast, error);
    if (s->sim) {
        interrupt_catch();
        interrupt_guard(rp_sim_port(s->sim));
    }
    return s->sim != NULL;
}

static void stand_end(stand *s)
{
    if (s->sim) {
        rp_engine_rest(&s->engine, rp_sim_port(s->sim));
        interrupt_guard(NULL);
    }
    rp_sim_free(s->sim);
    rp_history_free(s->history);
    g_free(s->frame);
    g_free(s->memory);
}

static void tick_for(stand *s, double seconds)
{
    const rp_port *port = rp_sim_port(s->sim);
    const uint64_t tick_us = s->engine.image->tick_us, end = s->ticks + (uint64_t)ceil(seconds * 1e6 / (double)tick_us);
    for (; s->ticks < end && !interrupt_asked(); s->ticks++) {
        port->sleep_until(port->self, s->ticks * tick_us);
        rp_engine_tick(&s->engine, port);
        rp_frame_take(&s->shape, s->frame, &s->engine);
        rp_history_frame(s->history, &s->shape, s->frame);
        s->frame->events = 0;
    }
}

/* Looks at rest, drives, and lets go. How many sensors answered; what they said goes to `told`, if wanted. */
static uint32_t try_power(stand *s, double power, double hold, GString *told)
{
    const rp_image_header *image = s->engine.image;
    const uint64_t rest = s->ticks;
    uint32_t answered = 0;
    tick_for(s, REST_S);
    const uint64_t from = s->ticks;
    rp_engine_hand(&s->engine, (uint16_t)s->j->actuator, (float)power);
    tick_for(s, hold);
    const char *guard = jog_guard_at(s->j, s->history, s->ticks - 1);
    if (told && *guard) {
        g_string_append_printf(told, "  kept from it: %s\n", guard);
    }
    rp_engine_release(&s->engine, (uint16_t)s->j->actuator);
    for (uint32_t i = 0; i < rp_image_count(image, RP_SECTION_SENSORS); i++) {
        const uint32_t slot = rp_image_sensor_slot(image, i);
        const rp_answer a = rp_answer_of(s->history, (uint32_t)rp_history_slot(s->history, slot),
                                         jog_least_change(s->j, i), rest, from, s->ticks);
        answered += a.answered;
        if (told) {
            g_string_append_printf(told, "  %-12s ", rp_image_text(image, RP_NAME_SLOT, slot, 0));
            jog_tell_answer(s->j, i, &a, told);
            g_string_append_c(told, '\n');
        }
    }
    tick_for(s, AFTER_S);
    return answered;
}

static int tell_interrupted(const stand *s)
{
    printf("interrupted; %s is at rest\n", jog_name(s->j));
    return EXIT_DONE;
}

static int move_once(stand *s, double power, double hold)
{
    const rp_image_actuator *a = jog_actuator(s->j);
    g_autoptr(GString) told = g_string_new(NULL), value = g_string_new(NULL);
    rp_tell_value(s->engine.image, rp_image_actuator_slot(s->engine.image, s->j->actuator), (float)power, value);
    if (!(power >= (double)a->low && power <= (double)a->high)) {
        return command_refuse(s->j->self, "--to: %s can go from %g to %g", jog_name(s->j), (double)a->low,
                              (double)a->high);
    }
    const uint32_t answered = try_power(s, power, hold, told);
    if (interrupt_asked()) {
        return tell_interrupted(s);
    }
    printf("%s %s for %g s, by hand; everything else at rest\n%s", jog_name(s->j), value->str, hold, told->str);
    puts(answered ? "back at rest"
                  : "back at rest; nothing answered: more power, a longer --hold, or look at the wires");
    return EXIT_DONE;
}

/* In coarse steps up to where something answers, then in fine ones from the last that did nothing. */
static double find_least(stand *s, double hold)
{
    const double most = (double)jog_actuator(s->j)->high;
    double quiet = 0.0;
    for (double power = COARSE; power < most + COARSE && !interrupt_asked(); power += COARSE) {
        if (try_power(s, fmin(power, most), hold, NULL) > 0) {
            break;
        }
        quiet = fmin(power, most);
    }
    for (double power = quiet + FINE; power <= most && !interrupt_asked(); power += FINE) {
        const uint32_t first = try_power(s, power, hold, NULL);
        const uint32_t again = first > 0 ? try_power(s, power, hold, NULL) : 0;
        if (again > 0) {
            return power;
        }
    }
    return -1.0;
}

static int search_least(stand *s, jog *j, double hold, bool write)
{
    g_autofree char *why = NULL;
    if (jog_actuator(j)->kind == RP_ACTUATOR_SWITCH || !(jog_actuator(j)->high > 0.0f)) {
        return command_refuse(j->self, "%s has no power to be found: it is on or off", jog_name(j));
    }
    j->least = find_least(s, hold);
    if (interrupt_asked()) {
        return tell_interrupted(s);
    }
    if (j->least < 0.0) {
        return command_refuse(j->self, "nothing answers %s up to %g %%; take a longer --hold, or look at the wires",
                              jog_name(j), (double)jog_actuator(j)->high);
    }
    printf("the least power that moves something is %g %%; at %g %% nothing answered within %g s\n", j->least,
           j->least - FINE, hold);
    if (write && !jog_write_least(j, &why)) {
        return command_refuse(j->self, "%s", why);
    }
    if (write) {
        printf("%s is written: %s, least %g %%; 'rigpulse calibrate %s --undo' takes it back\n", j->path, jog_name(j),
               j->least, j->path);
    }
    return EXIT_DONE;
}

/* ---- the command ----------------------------------------------------------------------------------- */

/* With no least power that would raise small ones. */
static rp_rig *bare_rig(rp_rig *file, const char *name)
{
    rp_place place;
    const rp_place *const which = &place;
    const double none = 0.0;
    const bool raises = rp_rig_least_place(file, name, &place) && place.written;
    const char *text = raises ? rp_edit_places(file, &which, &none, 1) : file->source;
    return text ? rp_rig_compile(file->file, text, strlen(text), rp_sim_catalog()) : NULL;
}

static bool find_actuator(jog *j, const char *name)
{
    const rp_image_header *image = j->file->image;
    const uint32_t count = rp_image_count(image, RP_SECTION_ACTUATORS);
    g_autofree const char **names = g_new0(const char *, count + 1);
    for (uint32_t i = 0; i < count; i++) {
        names[i] = rp_image_text(image, RP_NAME_SLOT, rp_image_actuator_slot(image, i), 0);
        if (strcmp(names[i], name) == 0) {
            j->actuator = i;
            return true;
        }
    }
    g_autofree char *all = g_strjoinv(", ", (char **)(void *)names);
    command_refuse(j->self, "%s: there is no actuator '%s'; there %s %s", j->path, name, count == 1 ? "is" : "are",
                   count ? all : "none");
    return false;
}

typedef struct jog_options {
    char *to, *hold, *seed;
    gboolean least, write, fast;
} jog_options;

static int by_script(jog *j, const jog_options *o, double power, double hold)
{
    g_autoptr(GError) error = NULL;
    stand s;
    int status;
    if (!stand_begin(&s, j, o->fast, &error)) {
        status = command_refuse(j->self, "%s", error->message);
    } else {
        status = o->least ? search_least(&s, j, hold, o->write) : move_once(&s, power, hold);
    }
    stand_end(&s);
    return status;
}

static bool read_power(const jog *j, const char *text, double *power)
{
    const rp_image_header *image = j->file->image;
    const uint32_t slot = rp_image_actuator_slot(image, j->actuator);
    const char *unit = rp_image_unit(image, RP_NAME_SLOT, slot, 0), *why;
    uint32_t parts = 0;
    for (; rp_image_name_of(image, RP_NAME_PART, slot, parts); parts++) {
        if (strcmp(rp_image_text(image, RP_NAME_PART, slot, parts), text) == 0) {
            *power = parts;
            return true;
        }
    }
    if (parts > 0) {
        command_refuse(j->self, "--to %s: it has no such name; write for instance --to %s", text,
                       rp_image_text(image, RP_NAME_PART, slot, parts - 1));
        return false;
    }
    if (!rp_quantity_parse(text, unit, power, &why)) {
        command_refuse(j->self, "--to %s: %s; write for instance --to '30 %s'", text, why, unit);
        return false;
    }
    return true;
}

static int jog_it(jog *j, const jog_options *o, const char *actuator)
{
    double power = 0.0, hold = HOLD_S;
    const char *why;
    if (!command_seed(j->self, o->seed, &j->seed)) {
        return EXIT_USAGE;
    }
    if (o->hold && (!rp_quantity_parse(o->hold, "s", &hold, &why) || !(hold >= 0.1 && hold <= HOLD_MOST))) {
        return command_refuse(j->self, "--hold %s: write a time from 0.1 s to %g s", o->hold, HOLD_MOST);
    }
    if ((o->to && o->least) || (o->write && !o->least)) {
        return command_refuse(j->self, "take one of --to and --least; --write goes with --least");
    }
    if (!find_actuator(j, actuator) || (o->to && !read_power(j, o->to, &power))) {
        return EXIT_USAGE;
    }
    const uint32_t slot = rp_image_actuator_slot(j->file->image, j->actuator);
    const char *unit = rp_image_unit(j->file->image, RP_NAME_SLOT, slot, 0);
    if (o->least && *unit && strcmp(unit, "%") != 0) {
        return command_refuse(j->self, "'%s' is not driven in percent: there is no least power to find", actuator);
    }
    j->rig = bare_rig(j->file, actuator);
    if (!j->rig || !j->rig->image) {
        return command_refuse(j->self, "%s cannot be taken without its least power", j->path);
    }
    if (o->to || o->least) {
        return by_script(j, o, power, hold);
    }
    return isatty(STDIN_FILENO) && isatty(STDOUT_FILENO)
               ? jog_by_keys(j)
               : command_refuse(j->self, "this is no terminal; say what to do with --to VALUE or --least");
}

static int run_jog(const command *self, int argc, char **argv)
{
    jog_options o = {0};
    const GOptionEntry entries[] = {
        {"to", 0, 0, G_OPTION_ARG_FILENAME, &o.to, "drive it with that, look, and back to rest", "VALUE"},
        {"hold", 0, 0, G_OPTION_ARG_FILENAME, &o.hold, "for so long; 1.5 s if not said", "TIME"},
        {"least", 0, 0, G_OPTION_ARG_NONE, &o.least, "find the least power that moves something", NULL},
        {"write", 0, 0, G_OPTION_ARG_NONE, &o.write, "write that into the rig file", NULL},
        {"fast", 0, 0, G_OPTION_ARG_NONE, &o.fast, "in simulated time, as fast as the machine can", NULL},
        {"seed", 0, 0, G_OPTION_ARG_FILENAME, &o.seed, "of the simulated noise; 1 if not said", "NUMBER"},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 2, 2, &status)) {
        return status;
    }
    jog j = {.self = self, .path = argv[1], .least = -1.0};
    j.file = rigfile_load(self, argv[1]);
    status = j.file ? jog_it(&j, &o, argv[2]) : EXIT_USAGE;
    rp_rig_free(j.rig);
    rp_rig_free(j.file);
    g_free(o.to);
    g_free(o.hold);
    g_free(o.seed);
    return status;
}

const command command_jog = {"jog", "FILE ACTUATOR", "moves one actuator by hand and says which sensors answer",
                             "rigpulse jog examples/basin.rig pump", run_jog};
