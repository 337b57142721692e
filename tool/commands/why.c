/* rigpulse why: why a rule of a recorded run fired, or did not; who drove an actuator; what a loop did. */
#include "tool/command.h"
#include "tool/names.h"
#include "tool/reading.h"

#include "analysis/near.h"
#include "explain/describe.h"
#include "runtime/moment.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define MOST 5 /* moments that are told when nobody says how many */

typedef enum subject_kind { SUBJECT_RULE, SUBJECT_ACTUATOR, SUBJECT_LOOP, SUBJECT_VALUE, SUBJECTS } subject_kind;

typedef struct asking {
    const command *self;
    const rgp_recording *from;
    subject_kind kind;
    const char *name; /* as it was asked for */
    uint32_t which;   /* of its kind */
    uint32_t most;
    json_t *json; /* an array, where a program reads it; else NULL */
    uint32_t told, left;
} asking;

/* The moments that are asked for: a row, the Nth firing, each firing or change, or the rows of a list. */
typedef struct moments {
    uint64_t row;       /* UINT64_MAX: not asked for */
    uint32_t number;    /* of a firing, from 1; 0: not asked for */
    const GArray *near; /* NULL: not asked for */
    guint next_near;
    uint16_t was; /* the owner, or a loop's phase, in the last row */
} moments;

/* ---- what is told ---------------------------------------------------------------------------------- */

static json_t *as_json(const rgp_reason *r)
{
    static const char *const holds[] = {NULL, "yes", "no", "unknown"};
    json_t *part = json_array();
    for (guint i = 0; i < r->part->len; i++) {
        json_array_append_new(part, as_json(r->part->pdata[i]));
    }
    return json_pack("{s:s, s:s?, s:o, s:o, s:o}", "says", r->says->str, "holds", holds[r->holds], "since",
                     r->since_us == UINT64_MAX ? json_null() : json_real((double)r->since_us / 1e6), "last",
                     r->last_us == UINT64_MAX ? json_null() : json_real((double)r->last_us / 1e6), "parts", part);
}

static rgp_reason *reason_of(const asking *a, const rgp_why *why)
{
    static rgp_reason *(*const of[SUBJECTS])(const rgp_why *, uint32_t) = {[SUBJECT_RULE] = rgp_why_rule,
                                                                           [SUBJECT_ACTUATOR] = rgp_why_actuator,
                                                                           [SUBJECT_LOOP] = rgp_why_loop,
                                                                           [SUBJECT_VALUE] = rgp_why_value};
    return of[a->kind](why, a->which);
}

/* "nearly: its event came, and 'depth above 3 cm' lacked 0.2 cm" */
/* A distance, the rest of a time, or a number of events. */
static void put_amount(double amount, const char *unit, GString *to)
{
    if (strcmp(unit, "times") == 0) {
        g_string_append_printf(to, "%g event%s", amount, amount == 1.0 ? "" : "s");
    } else {
        rgp_describe_number(amount, unit, to);
    }
}

static rgp_reason *nearness_of(const asking *a, const rgp_why *why, const rgp_near *near)
{
    const rgp_lack lack = rgp_why_lack(why, a->which);
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, lack.came ? "nearly: its event came" : "nearly");
    if (near->slot == RGP_REF_NONE) {
        return r;
    }
    g_autofree char *condition = rgp_why_text(why, near->slot);
    g_string_append_printf(r->says, lack.came ? ", and '%s'" : ": '%s'", condition);
    if (isfinite(near->amount)) {
        g_string_append(r->says, " lacked ");
        put_amount(near->amount, lack.unit, r->says);
    } else {
        g_string_append(r->says, " was not so");
    }
    if (near->usually > 0.0) {
        g_string_append(r->says, ", of usually ");
        put_amount(near->usually, lack.unit, r->says);
    }
    return r;
}

/* `near`: what it lacked, where that is what was asked; else NULL. */
static void tell(asking *a, const rgp_why *why, const rgp_near *near)
{
    rgp_reason *r = reason_of(a, why);
    g_autoptr(GString) text = g_string_new(NULL);
    if (near) {
        rgp_reason_add(r, nearness_of(a, why, near));
    }
    if (a->json) {
        json_array_append_new(a->json,
                              json_pack("{s:f, s:o}", "t", (double)why->frame->time_us / 1e6, "why", as_json(r)));
    } else {
        rgp_reason_print(r, text);
        printf("%s%s", a->told > 0 ? "\n" : "", text->str);
    }
    a->told++;
    rgp_reason_free(r);
}

/* ---- which moments --------------------------------------------------------------------------------- */

static bool has_fired(const asking *a, const rgp_why *why)
{
    return why->trace->rule[a->which].fired_us == why->frame->time_us;
}

/* The owner of an actuator, the phase of a loop, or the name that a value has. */
static uint16_t state_of(const asking *a, const rgp_why *why)
{
    const rgp_image_loop *loop = rgp_image_at(why->engine->image, RGP_SECTION_LOOPS);
    const uint32_t slot = a->kind == SUBJECT_LOOP ? loop[a->which].first : a->which;
    return a->kind == SUBJECT_ACTUATOR ? rgp_engine_owner(why->engine, (uint16_t)a->which)
                                       : (uint16_t)why->engine->value[slot];
}

static bool is_asked(const asking *a, moments *m, const rgp_why *why, uint32_t row)
{
    if (m->row != UINT64_MAX) {
        return row == m->row;
    }
    if (m->near) {
        return m->next_near < m->near->len && g_array_index(m->near, rgp_near, m->next_near).row == row;
    }
    if (a->kind == SUBJECT_RULE) {
        return has_fired(a, why) && (m->number == 0 || why->trace->rule[a->which].fired == m->number);
    }
    const uint16_t is = state_of(a, why);
    const bool changed = row == 0 || is != m->was;
    m->was = is;
    return changed;
}

/* True while there may be more to tell. */
static bool go_on(const asking *a, const moments *m, uint32_t row)
{
    return !(m->row != UINT64_MAX && row >= m->row) && !(m->number > 0 && a->told > 0) &&
           !(m->near && m->next_near >= m->near->len);
}

static bool tell_all(asking *a, moments *m, GError **error)
{
    rgp_explanation *e = rgp_explanation_new(a->from, error);
    const rgp_why *why;
    if (!e) {
        return false;
    }
    if (a->kind == SUBJECT_VALUE) {
        a->which = (uint32_t)rgp_image_find(rgp_explanation_rig(e)->image, RGP_FIND_SLOT, a->name);
    }
    if (m->row != UINT64_MAX) {
        rgp_explanation_skip_to(e, (uint32_t)m->row);
    } else if (m->number > 0) {
        rgp_explanation_skip_to_firing(e, a->which, m->number);
    }
    while ((why = rgp_explanation_next(e))) {
        const uint32_t row = rgp_explanation_row(e);
        if (is_asked(a, m, why, row)) {
            const rgp_near *near = m->near ? &g_array_index(m->near, rgp_near, m->next_near++) : NULL;
            if (a->told < a->most) {
                tell(a, why, near);
            } else {
                a->left++;
            }
        }
        if (!go_on(a, m, row)) {
            break;
        }
    }
    if (*rgp_explanation_says(e)) {
        fprintf(stderr, "rigpulse why: %s\n", rgp_explanation_says(e));
    }
    rgp_explanation_free(e);
    return true;
}

/* ---- what there is --------------------------------------------------------------------------------- */

static uint32_t count_of(const rgp_recording *from, uint8_t kind, uint32_t line)
{
    const GPtrArray *all = rgp_history_occurrences(from->history);
    uint32_t count = 0;
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        count += o->kind == kind && o->line == line;
    }
    return count;
}

static void list_rules(const rgp_recording *from, json_t *json)
{
    for (uint32_t i = 0; i < rgp_image_count(from->image, RGP_SECTION_RULES); i++) {
        const rgp_image_name *name = rgp_image_name_of(from->image, RGP_NAME_RULE, i, 0);
        const char *text = rgp_image_text(from->image, RGP_NAME_RULE, i, 0);
        const uint32_t fired = count_of(from, RGP_EVENT_FIRED, name->line),
                       dropped = count_of(from, RGP_EVENT_DROPPED, name->line);
        if (json) {
            json_array_append_new(json, json_pack("{s:s, s:i, s:s, s:i, s:i}", "kind", "rule", "line", (int)name->line,
                                                  "text", text, "fired", (int)fired, "dropped", (int)dropped));
            continue;
        }
        printf("  line %-4u %5u fired", name->line, fired);
        printf(dropped > 0 ? ", %u dropped" : "", dropped);
        printf("  %s\n", text);
    }
}

static void list_names(const rgp_recording *from, subject_kind kind, json_t *json)
{
    const bool loops = kind == SUBJECT_LOOP;
    const uint32_t count = rgp_image_count(from->image, loops ? RGP_SECTION_LOOPS : RGP_SECTION_ACTUATORS);
    for (uint32_t i = 0; i < count; i++) {
        const char *name = loops
                               ? rgp_image_text(from->image, RGP_NAME_LOOP, i, 0)
                               : rgp_image_text(from->image, RGP_NAME_SLOT, rgp_image_actuator_slot(from->image, i), 0),
                   *what = loops ? "loop" : "actuator";
        if (json) {
            json_array_append_new(json, json_pack("{s:s, s:s}", "kind", what, "name", name));
        } else {
            printf("  %-9s %s\n", what, name);
        }
    }
}

static int list_subjects(const rgp_recording *from, bool as_json_text)
{
    json_t *json = as_json_text ? json_array() : NULL;
    if (!json) {
        printf("%s: %u rows, %g to %g s. It can be asked why of:\n", from->name, from->rows,
               (double)rgp_recording_time_us(from, 0) / 1e6, (double)rgp_recording_time_us(from, from->rows - 1) / 1e6);
    }
    list_rules(from, json);
    list_names(from, SUBJECT_ACTUATOR, json);
    list_names(from, SUBJECT_LOOP, json);
    if (json) {
        command_print_json(json);
    } else {
        puts("and of each value; with a moment behind it ('12.4 s', a mark's name), a rule also with '#2' or --near");
    }
    return EXIT_DONE;
}

static uint32_t line_of(const rgp_recording *from, uint32_t rule)
{
    return rgp_image_name_of(from->image, RGP_NAME_RULE, rule, 0)->line;
}

/* "line 14", or "14". */
static bool find_rule(const rgp_recording *from, const char *text, uint32_t *rule)
{
    const char *number = g_str_has_prefix(text, "line ") ? text + strlen("line ") : text;
    guint64 line;
    if (!g_ascii_string_to_unsigned(number, 10, 1, G_MAXUINT16, &line, NULL)) {
        return false;
    }
    for (uint32_t i = 0; i < rgp_image_count(from->image, RGP_SECTION_RULES); i++) {
        if (line_of(from, i) == line) {
            *rule = i;
            return true;
        }
    }
    return false;
}

static void refuse_line(const asking *a, const char *text)
{
    g_autoptr(GString) lines = g_string_new(NULL);
    for (uint32_t i = 0; i < rgp_image_count(a->from->image, RGP_SECTION_RULES); i++) {
        g_string_append_printf(lines, "%s%u", i ? ", " : "", line_of(a->from, i));
    }
    command_refuse(a->self,
                   lines->len > 0 ? "no rule of %s begins in %s; its rules begin in lines %s"
                                  : "%s has no rules, so none in %s%s",
                   a->from->name, text, lines->str);
}

static uint32_t slot_of(const asking *a)
{
    return (uint32_t)rgp_image_find(a->from->image, RGP_FIND_SLOT, a->name);
}

static bool find_subject(asking *a, const char *text)
{
    const int32_t actuator = rgp_image_find(a->from->image, RGP_FIND_ACTUATOR, text);
    if (find_rule(a->from, text, &a->which)) {
        a->kind = SUBJECT_RULE;
    } else if (actuator >= 0) {
        a->kind = SUBJECT_ACTUATOR;
        a->which = (uint32_t)actuator;
    } else if (names_loop(a->from->image, text, &a->which)) {
        a->kind = SUBJECT_LOOP;
    } else if (rgp_image_find(a->from->image, RGP_FIND_SLOT, text) >= 0) {
        a->kind = SUBJECT_VALUE; /* by its name, since a traced rig has other slots */
    } else if (g_str_has_prefix(text, "line ") || g_ascii_isdigit(*text)) {
        refuse_line(a, text);
        return false;
    } else {
        const char *near = names_nearest(a->from->image, text, true);
        command_refuse(a->self,
                       near ? "there is no rule, actuator, loop or value '%s' in %s; did you mean '%s'?"
                            : "there is no rule, actuator, loop or value '%s' in %s; without it they are listed",
                       text, a->from->name, near);
        return false;
    }
    return true;
}

/* ---- the command ----------------------------------------------------------------------------------- */

typedef struct why_options {
    gboolean near, json;
    int most;
} why_options;

/* "#2", a time, or a mark. */
static bool find_moment(const asking *a, const char *text, moments *m)
{
    const rgp_recording *r = a->from;
    guint64 number;
    double seconds;
    if (*text == '#') {
        if (a->kind != SUBJECT_RULE || !g_ascii_string_to_unsigned(text + 1, 10, 1, G_MAXUINT32, &number, NULL)) {
            command_refuse(a->self, "'%s': a rule's firings are numbered from 1, as in '#2'", text);
            return false;
        }
        m->number = (uint32_t)number;
        return true;
    }
    if (!rgp_moment_of(r->history, text, &seconds)) {
        command_refuse(a->self,
                       "'%s' is no moment of %s: write a time as in 12.4s, the name of a mark, or of a rule '#2'", text,
                       r->name);
        return false;
    }
    const double first = (double)rgp_recording_time_us(r, 0) / 1e6,
                 last = (double)rgp_recording_time_us(r, r->rows - 1) / 1e6;
    if (!(seconds >= first && seconds <= last)) {
        command_refuse(a->self, "%g s is outside the recording, which goes from %g to %g s", seconds, first, last);
        return false;
    }
    m->row = rgp_history_find(r->history, (uint64_t)llround(seconds * 1e6));
    return true;
}

/* Nothing has been told: says what there would be, or tells the nearest. */
static void say_nothing(const asking *a, const moments *m)
{
    if (a->kind == SUBJECT_RULE && m->number > 0) {
        const uint32_t fired = count_of(a->from, RGP_EVENT_FIRED, line_of(a->from, a->which));
        printf(fired == 0   ? "there is no '#%u': it never fired; '--near' tells when it nearly did\n"
               : fired == 1 ? "there is no '#%u': it fired once\n"
                            : "there is no '#%u': it fired %u times, so '#1' to '#%u'\n",
               m->number, fired, fired);
    } else if (m->near) {
        puts("it never came near: no single condition was missing by less than a quarter of its usual distance, "
             "or by less than half of its time");
    } else {
        puts("it never fired; '--near' tells when it nearly did, a moment ('12.4 s') why it did not then");
    }
}

static int answer(asking *a, moments *m, const why_options *o)
{
    g_autoptr(GError) error = NULL;
    g_autoptr(GArray) near = o->near ? rgp_near_of(a->from, a->which, a->most, &error) : NULL;
    m->near = near;
    if ((o->near && !near) || !tell_all(a, m, &error)) {
        return command_refuse(a->self, "%s", error->message);
    }
    if (a->json) {
        command_print_json(a->json);
    } else if (a->told == 0) {
        say_nothing(a, m);
    } else if (a->left > 0) {
        printf("\nand %u more; --most N tells more of them\n", a->left);
    }
    return EXIT_DONE;
}

static int why_recording(const command *self, const why_options *o, const char *name, const char *what,
                         const char *when)
{
    g_autoptr(GError) error = NULL;
    moments m = {.row = UINT64_MAX};
    if (o->near && (!what || when)) {
        return command_refuse(self,
                              "--near looks through the whole recording for one rule: why RECORDING 'line N' --near");
    }
    if (o->most < 1) {
        return command_refuse(self, "--most %d: at least 1 has to be told", o->most);
    }
    rgp_recording *from = reading_whole(name, &error);
    if (!from) {
        return command_refuse(self, "%s", error->message);
    }
    asking a = {.self = self, .from = from, .name = what, .most = (uint32_t)o->most, .json = NULL};
    int status = EXIT_USAGE;
    if (!what) {
        status = list_subjects(from, o->json);
    } else if (find_subject(&a, what)) {
        if (o->near && a.kind != SUBJECT_RULE) {
            command_refuse(self, "--near is of rules; of '%s' ask for a moment", what);
        } else if (!when && a.kind == SUBJECT_VALUE && !rgp_image_name_of(from->image, RGP_NAME_PART, slot_of(&a), 0)) {
            command_refuse(self, "say of which moment: why %s %s 12.4s", name, what);
        } else if (!when || find_moment(&a, when, &m)) {
            a.json = o->json ? json_array() : NULL;
            status = answer(&a, &m, o);
        }
    }
    rgp_recording_free(from);
    return status;
}

static int run_why(const command *self, int argc, char **argv)
{
    why_options o = {.most = MOST};
    const GOptionEntry entries[] = {
        {"near", 0, 0, G_OPTION_ARG_NONE, &o.near, "each time that the rule nearly fired", NULL},
        {"most", 0, 0, G_OPTION_ARG_INT, &o.most, "of many moments so many; 5 if not said", "N"},
        {"json", 0, 0, G_OPTION_ARG_NONE, &o.json, "for a program to read", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 4, &status)) {
        return status;
    }
    if (argc > 3 && strcmp(argv[2], "line") == 0) { /* written without quotes */
        g_autofree char *what = g_strjoin(" ", argv[2], argv[3], NULL);
        return why_recording(self, &o, argv[1], what, argc > 4 ? argv[4] : NULL);
    }
    if (argc > 4) {
        return command_refuse(self, "'%s' is one argument too many", argv[4]);
    }
    return why_recording(self, &o, argv[1], argc > 2 ? argv[2] : NULL, argc > 3 ? argv[3] : NULL);
}

const command command_why = {"why", "RECORDING [RULE|ACTUATOR|LOOP|VALUE] [MOMENT|'#N']",
                             "why a rule of a recording fired or did not, and who drove what",
                             "rigpulse why basin.csv 'line 14' '#2'", run_why};
