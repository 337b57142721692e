/* rigpulse check: is the rig file sound, and what is in it. */
#include "tool/rigfile.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include "runtime/ports.h"

#include <jansson.h>
#include <stdio.h>
#include <string.h>

static const rgp_image_header *image_of(const rgp_rig *rig)
{
    return rig->image;
}

static const char *slot_name(const rgp_image_header *image, uint32_t slot)
{
    return rgp_image_text(image, RGP_NAME_SLOT, slot, 0);
}

static const char *slot_unit(const rgp_image_header *image, uint32_t slot)
{
    const char *unit = rgp_image_unit(image, RGP_NAME_SLOT, slot, 0);
    return *unit ? unit : rgp_image_name_of(image, RGP_NAME_PART, slot, 0) ? "names" : "bare number";
}

/* ---- for a person -------------------------------------------------------------------------------- */

static void put_setting(GString *to, const char *label, float value, const char *unit)
{
    if (value > 0.0f) {
        g_string_append(to, label);
        rgp_describe_number((double)value, unit, to);
    }
}

/* Seconds from one new reading to the next, as the hook-up says; 0: one each tick, or nobody says. */
static double period_of(const rgp_rig *rig, uint32_t sensor)
{
    double period = 0.0;
    for (uint32_t i = 0; rig->hookup && i < rig->hookup->sensors; i++) {
        period = rig->hookup->sensor[i].sensor == sensor ? rgp_sensor_period(&rig->hookup->sensor[i]) : period;
    }
    return period;
}

static void print_sensors(const rgp_rig *rig)
{
    const rgp_image_header *image = rig->image;
    const rgp_image_sensor *sensor = rgp_image_at(image, RGP_SECTION_SENSORS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_SENSORS); i++) {
        const uint32_t slot = rgp_image_sensor_slot(image, i);
        g_autoptr(GString) more = g_string_new(NULL);
        put_setting(more, ", a new reading every ", (float)period_of(rig, i), "s");
        put_setting(more, ", late after ", (float)sensor[i].supervision.due_us / 1e6f, "s");
        if (sensor[i].kind == RGP_SENSOR_SWITCH) {
            printf("  sensor    %-14s switch%s\n", slot_name(image, slot), more->str);
        } else {
            printf("  sensor    %-14s %d..%d %s%s\n", slot_name(image, slot), sensor[i].supervision.low,
                   sensor[i].supervision.high, slot_unit(image, slot), more->str);
        }
    }
}

static void print_actuators(const rgp_image_header *image)
{
    const rgp_image_actuator *actuator = rgp_image_at(image, RGP_SECTION_ACTUATORS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        const uint32_t slot = rgp_image_actuator_slot(image, i);
        g_autoptr(GString) rest = g_string_new(NULL);
        rgp_describe_value(image, slot, actuator[i].rest, rest);
        g_autoptr(GString) more = g_string_new(NULL);
        const char *u = rgp_image_unit(image, RGP_NAME_SLOT, slot, 0);
        g_autofree char *per_second = g_strconcat(u, "/s", NULL);
        put_setting(more, ", least ", actuator[i].least, u);
        put_setting(more, ", slew ", actuator[i].slew, per_second);
        put_setting(more, ", longest ", actuator[i].longest, "s");
        put_setting(more, ", duty ", 100.0f * actuator[i].duty, "%");
        put_setting(more, " over ", actuator[i].window, "s");
        g_string_append(more, actuator[i].inverted ? ", inverted" : "");
        printf("  actuator  %-14s ", slot_name(image, slot));
        if (actuator[i].kind == RGP_ACTUATOR_NUMBER) {
            printf("%g..%g %s, rests at %s%s\n", (double)actuator[i].low, (double)actuator[i].high, u, rest->str,
                   more->str);
        } else {
            printf("%s, rests at %s%s\n", actuator[i].kind == RGP_ACTUATOR_SWITCH ? "switch" : "names", rest->str,
                   more->str);
        }
    }
}

static void print_params(const rgp_image_header *image)
{
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_PARAMS); i++) {
        if (rgp_image_is_detail(image, i)) {
            continue;
        }
        g_autoptr(GString) initial = g_string_new(NULL);
        rgp_describe_value(image, i, param[i].initial, initial);
        printf("  param     %-14s %s, from %g to %g\n", slot_name(image, i), initial->str, (double)param[i].low,
               (double)param[i].high);
    }
}

static void print_states(const rgp_image_header *image)
{
    const rgp_image_state *state = rgp_image_at(image, RGP_SECTION_STATES);
    const rgp_image_sequence *sequence = rgp_image_at(image, RGP_SECTION_SEQUENCES);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_STATES); i++) {
        const uint32_t slot = rgp_image_state_slot(image, i);
        if (state[i].kind == RGP_STATE_SEQUENCE) {
            printf("  sequence  %-14s %u steps\n", slot_name(image, slot), sequence[state[i].of].steps - 1u);
            continue;
        }
        printf("  %-9s %-14s", state[i].kind == RGP_STATE_CUE ? "cue" : "mode", slot_name(image, slot));
        for (uint32_t part = 0; state[i].kind == RGP_STATE_MODE && part < state[i].of; part++) {
            printf("%s%s", part ? " | " : " ", rgp_image_text(image, RGP_NAME_PART, slot, part));
        }
        putchar('\n');
    }
}

/* With its gains in the units that they have been taken in, and the names that its terms have. */
static void print_loops(const rgp_image_header *image)
{
    const rgp_image_loop *loop = rgp_image_at(image, RGP_SECTION_LOOPS);
    const rgp_image_claim *claim = rgp_image_at(image, RGP_SECTION_CLAIMS);
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++) {
        const rgp_image_loop *l = &loop[i];
        const char *name = slot_name(image, l->first);
        printf("  loop      %-14s drives %s", name,
               slot_name(image, rgp_image_actuator_slot(image, claim[l->claim].actuator)));
        for (uint32_t k = 0; k < G_N_ELEMENTS(l->gain) && l->gain[k] != RGP_REF_NONE; k++) {
            g_autoptr(GString) value = g_string_new(NULL);
            rgp_describe_value(image, l->gain[k], param[l->gain[k]].initial, value);
            printf(", %s %s", slot_name(image, l->gain[k]) + (l->brought >> k & 1u ? strlen(name) + 1 : 0), value->str);
        }
        printf("; terms");
        for (uint32_t k = 1; k < l->terms; k++) {
            printf(" %s", slot_name(image, l->first + k) + strlen(name));
        }
        putchar('\n');
    }
}

static void print_signals(const rgp_image_header *image)
{
    const uint32_t first = rgp_image_state_slot(image, rgp_image_count(image, RGP_SECTION_STATES));
    for (uint32_t slot = first; slot < image->slots; slot++) {
        if (!rgp_image_name_of(image, RGP_NAME_SLOT, slot, 0) || rgp_image_term(image, slot) >= 0) {
            continue;
        }
        printf("  signal    %-14s ", slot_name(image, slot));
        const char *separator = "";
        uint32_t part = 0;
        for (; rgp_image_name_of(image, RGP_NAME_PART, slot, part); part++) {
            printf("%s%s", separator, rgp_image_text(image, RGP_NAME_PART, slot, part));
            separator = " | ";
        }
        printf("%s\n", part ? "" : slot_unit(image, slot));
    }
}

/* Returns the name for the next line: none once it has been printed. */
static const char *print_lines(const rgp_image_header *image, uint32_t kind, uint32_t first, uint32_t count,
                               const char *name, const char *what)
{
    for (uint32_t i = first; i < first + count; i++) {
        const rgp_image_name *n = rgp_image_name_of(image, kind, i, 0);
        printf("  %-10s %s; line %u: %s\n", name, what, n->line, rgp_image_text(image, kind, i, 0));
        name = "";
    }
    return name;
}

/* Each actuator with all that may drive it, the highest rank first. */
static void print_drivers(const rgp_image_header *image)
{
    const rgp_image_actuator *actuator = rgp_image_at(image, RGP_SECTION_ACTUATORS);
    const rgp_image_claim *claim = rgp_image_at(image, RGP_SECTION_CLAIMS);
    const rgp_image_rule *rule = rgp_image_at(image, RGP_SECTION_RULES);
    const rgp_image_action *action = rgp_image_at(image, RGP_SECTION_ACTIONS);
    puts("\nwhat drives what, the highest rank first");
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        const char *name = slot_name(image, rgp_image_actuator_slot(image, i));
        name = print_lines(image, RGP_NAME_STOP, 0, rgp_image_count(image, RGP_SECTION_STOPS), name, "stop");
        name = print_lines(image, RGP_NAME_GUARD, actuator[i].first_guard, actuator[i].guards, name, "guard");
        name = print_lines(image, RGP_NAME_STALL, actuator[i].first_stall, actuator[i].stalls, name, "guard");
        for (uint32_t c = actuator[i].first_claim; c < (uint32_t)actuator[i].first_claim + actuator[i].claims; c++) {
            printf("  %-10s %s", name, rgp_rank_text(claim[c].rank));
            if (claim[c].rank == RGP_RANK_SEQUENCE) {
                printf(" %s", rgp_image_text(image, RGP_NAME_SEQUENCE, claim[c].source, 0));
            }
            for (uint32_t k = 0; k < rgp_image_count(image, RGP_SECTION_LOOPS); k++) {
                const rgp_image_loop *loop = rgp_image_loop_at(image, k);
                if (loop->claim == c) {
                    printf(" %s", rgp_image_text(image, RGP_NAME_LOOP, k, 0));
                }
            }
            for (uint32_t r = 0; r < rgp_image_count(image, RGP_SECTION_RULES); r++) {
                for (uint32_t a = rule[r].first_action; a < (uint32_t)rule[r].first_action + rule[r].actions; a++) {
                    if (rgp_action_drives(action[a].kind) && action[a].claim == c) {
                        const rgp_image_name *n = rgp_image_name_of(image, RGP_NAME_RULE, r, 0);
                        printf("; line %u: %s", n->line, rgp_image_text(image, RGP_NAME_RULE, r, 0));
                    }
                }
            }
            putchar('\n');
            name = "";
        }
    }
}

static void print_kept(const rgp_image_header *image)
{
    const rgp_image_retained *keep = rgp_image_at(image, RGP_SECTION_RETAINED);
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_RETAINED); i++) {
        printf("  kept      %s\n", slot_name(image, keep[i].slot));
    }
}

static void print_rig(const rgp_rig *rig)
{
    const rgp_image_header *image = image_of(rig);
    printf("rig %s, every %g ms\n", rgp_image_text(image, RGP_NAME_RIG, 0, 0), image->tick_us / 1000.0);
    print_sensors(rig);
    print_actuators(image);
    print_params(image);
    print_states(image);
    print_signals(image);
    print_loops(image);
    print_kept(image);
    print_drivers(image);
    g_autofree rgp_image_header *bare = g_memdup2(image, image->size);
    printf("\nimage %u bytes (%u without names), memory %u bytes\n", image->size, rgp_image_strip(bare), image->memory);
    printf("%s: sound, %u %s\n", rig->file, rig->warnings, rig->warnings == 1 ? "warning" : "warnings");
}

/* ---- for a program ------------------------------------------------------------------------------- */

static json_t *loops_json(const rgp_image_header *image)
{
    const rgp_image_loop *l = rgp_image_at(image, RGP_SECTION_LOOPS);
    const rgp_image_param *param = rgp_image_at(image, RGP_SECTION_PARAMS);
    json_t *loops = json_array();
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_LOOPS); i++, l++) {
        json_t *gains = json_object();
        for (uint32_t k = 0; k < G_N_ELEMENTS(l->gain) && l->gain[k] != RGP_REF_NONE; k++) {
            json_object_set_new(gains, slot_name(image, l->gain[k]), json_real((double)param[l->gain[k]].initial));
        }
        json_array_append_new(loops,
                              json_pack("{s:s, s:s, s:o}", "name", slot_name(image, l->first), "drives",
                                        slot_name(image, rgp_image_actuator_slot(image, l->actuator)), "gains", gains));
    }
    return loops;
}

/* "FILE:LINE: what" of the port, as a message. */
static json_t *port_message(const rgp_rig *rig, const char *says)
{
    guint64 line = 0;
    const size_t file = strlen(rig->file);
    if (strncmp(says, rig->file, file) == 0 && says[file] == ':') {
        char *end;
        line = g_ascii_strtoull(says + file + 1, &end, 10);
        says = line > 0 && strncmp(end, ": ", 2) == 0 ? end + 2 : says;
    }
    return json_pack("{s:I, s:I, s:I, s:s, s:s, s:n}", "line", (json_int_t)line, "column", (json_int_t)1, "length",
                     (json_int_t)0, "kind", "error", "text", says, "advice");
}

static json_t *messages_json(const rgp_rig *rig, const GError *of_port)
{
    json_t *messages = json_array();
    if (of_port) {
        json_array_append_new(messages, port_message(rig, of_port->message));
    }
    for (uint32_t i = 0; i < rig->messages; i++) {
        const rgp_message *m = &rig->message[i];
        json_array_append_new(messages,
                              json_pack("{s:I, s:I, s:I, s:s, s:s, s:s?}", "line", (json_int_t)m->line, "column",
                                        (json_int_t)m->column, "length", (json_int_t)m->length, "kind",
                                        m->warning ? "warning" : "error", "text", m->text, "advice", m->advice));
    }
    return messages;
}

static const char *kind_of_slot(const rgp_image_header *image, uint32_t slot)
{
    const uint32_t sensors = rgp_image_sensor_slot(image, 0), actuators = rgp_image_actuator_slot(image, 0);
    const uint32_t behind = actuators + rgp_image_count(image, RGP_SECTION_ACTUATORS);
    return slot < sensors ? "param" : slot < actuators ? "sensor" : slot < behind ? "actuator" : "signal";
}

static json_t *values_json(const rgp_image_header *image)
{
    json_t *values = json_array();
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        const rgp_image_name *name = rgp_image_name_of(image, RGP_NAME_SLOT, slot, 0);
        if (name) {
            json_array_append_new(values,
                                  json_pack("{s:s, s:s, s:s, s:i}", "name", slot_name(image, slot), "kind",
                                            kind_of_slot(image, slot), "unit",
                                            rgp_image_unit(image, RGP_NAME_SLOT, slot, 0), "line", (int)name->line));
        }
    }
    return values;
}

static json_t *remarks_json(const char *says)
{
    json_t *remarks = json_array();
    g_auto(GStrv) line = g_strsplit(says ? says : "", "\n", -1);
    for (char **each = line; *each; each++) {
        json_array_append_new(remarks, json_string(*each));
    }
    return remarks;
}

/* Of a file with errors only these. `says`: what there is to say of what its sensors play. */
static void print_json(const rgp_rig *rig, const char *says, const GError *of_port)
{
    json_t *all = json_pack("{s:b, s:I, s:I, s:o, s:o}", "sound", rig->image && !of_port, "errors",
                            (json_int_t)rig->errors + (of_port != NULL), "warnings", (json_int_t)rig->warnings,
                            "messages", messages_json(rig, of_port), "remarks", remarks_json(says));
    if (rig->image) {
        const rgp_image_header *image = image_of(rig);
        json_t *content =
            json_pack("{s:s, s:I, s:I, s:I, s:I, s:o, s:o}", "rig", rgp_image_text(image, RGP_NAME_RIG, 0, 0),
                      "tick_us", (json_int_t)image->tick_us, "image_bytes", (json_int_t)image->size, "memory_bytes",
                      (json_int_t)image->memory, "rules", (json_int_t)rgp_image_count(image, RGP_SECTION_RULES),
                      "values", values_json(image), "loops", loops_json(image));
        json_object_update(all, content);
        json_decref(content);
    }
    command_print_json(all);
}

static int run_check(const command *self, int argc, char **argv)
{
    gboolean json = FALSE;
    const GOptionEntry entries[] = {
        {"json", 0, 0, G_OPTION_ARG_NONE, &json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        return status;
    }
    rgp_rig *rig = rigfile_compile(self, argv[1]);
    if (!rig) {
        return EXIT_USAGE;
    }
    g_autoptr(GError) error = NULL;
    g_autofree char *says = NULL;
    const bool sound = rig->image && rgp_ports_try(rig, &says, &error);
    status = sound ? EXIT_DONE : EXIT_USAGE;
    if (json) {
        print_json(rig, says, error);
    } else if (rigfile_report(rig) && error) {
        command_refuse(self, "%s", error->message);
    } else if (sound) {
        if (says) {
            fprintf(stderr, "%s\n", says);
        }
        print_rig(rig);
    }
    rgp_rig_free(rig);
    return status;
}

const command command_check = {"check", "FILE", "finds what is wrong with a rig file; shows what is in it",
                               "rigpulse check examples/basin.rig", run_check};
