/* Which numbers of a rig are measured ones, and what they are measured with. */
#include "rigpulse/edit.h"

#include "image/ops.h"
#include "place.h"

#include <math.h>
#include <string.h>

/* Stages whose settings are measured, and those that leave a value at rest as it is. */
static const char *const measured[] = {"table", "line", "power", "echo", "beta", "steinhart"};
static const char *const passing[] = {"despike", "smooth", "average", "hold"};

#define COUNT(list) (sizeof(list) / sizeof *(list))

static bool is_listed(const char *word, const char *const *list, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        if (strcmp(list[i], word) == 0) {
            return true;
        }
    }
    return false;
}

bool calibration_is_measured(const char *word)
{
    return is_listed(word, measured, COUNT(measured));
}

const char *rgp_calibrated_stages(void)
{
    return "table, line, power, echo, beta and steinhart";
}

/* ---- finding the stage ----------------------------------------------------------------------------- */

typedef struct search {
    tree *t;
    const symbol *owner;
    const node *stage;
    bool summed;
    const char *why;
} search;

/* A stage through which the search may go on. */
static bool pass_stage(search *s, const node *n)
{
    const bool sum = n->stage->op == RGP_OP_ACCUMULATE && !s->summed;
    s->summed |= sum;
    if (!sum && !is_listed(n->stage->word, passing, COUNT(passing))) {
        s->why = arena_print(s->t->arena, "'%s' changes what comes out of the stages before it", n->stage->word);
        return false;
    }
    return true;
}

/* The node before a node in the chain; NULL, with the reason, where the chain ends. */
static const node *before_in_chain(search *s, const node *n)
{
    if (n->kind == NODE_NAME && n->symbol && n->symbol->kind == SYMBOL_SIGNAL) {
        s->owner = n->symbol;
        return n->symbol->value;
    }
    if (n->kind == NODE_CONVERT || (n->kind == NODE_STAGE && pass_stage(s, n))) {
        return n->a;
    }
    if (n->kind != NODE_STAGE) {
        s->why = n->kind == NODE_NAME ? "none of its stages has settings that are measured"
                                      : "it is computed from several values; calibrate those";
    }
    return NULL;
}

/* Down the chain, from what comes out to what goes in. */
static bool find_stage(search *s, const symbol *from)
{
    s->owner = from;
    const node *n = from->value;
    while (n && !(n->kind == NODE_STAGE && calibration_is_measured(n->stage->word))) {
        n = before_in_chain(s, n);
    }
    s->stage = n;
    return n != NULL;
}

/* ---- what goes in ---------------------------------------------------------------------------------- */

/* The source between two bytes on one line, without comments. */
static const char *flat_text(tree *t, uint32_t start, uint32_t end)
{
    char *flat = arena_get(t->arena, end - start + 1);
    size_t length = 0;
    bool comment = false;
    for (uint32_t i = start; i < end; i++) {
        const char c = t->report->source[i];
        comment = (comment || c == '#') && c != '\n';
        const bool blank = comment || strchr(" \t\r\n", c);
        if (!blank || (length > 0 && flat[length - 1] != ' ')) {
            flat[length++] = blank ? ' ' : c;
        }
    }
    while (length > 0 && strchr(" |", flat[length - 1])) {
        length--;
    }
    flat[length] = '\0';
    return flat;
}

static bool is_balanced(const char *text)
{
    int depth = 0;
    for (; *text && depth >= 0; text++) {
        depth += (*text == '(') - (*text == ')');
    }
    return depth == 0;
}

static const char *head_sensor(const node *n)
{
    while (n) {
        if (n->kind == NODE_NAME && n->symbol) {
            if (n->symbol->kind == SYMBOL_SENSOR) {
                return n->symbol->name;
            }
            n = n->symbol->kind == SYMBOL_SIGNAL ? n->symbol->value : NULL;
        } else {
            n = n->kind == NODE_JOIN && n->negated ? n->b : n->a;
        }
    }
    return "";
}

/* ---- the places ------------------------------------------------------------------------------------ */

rgp_place place_of(tree *t, const node *n, unit used, bool may_be_param)
{
    const bool param = may_be_param && n->kind == NODE_NAME && n->symbol && n->symbol->kind == SYMBOL_PARAM;
    rgp_place p = {.before = "", .after = "", .unit = ""};
    if (param) {
        n = n->symbol->value;
    }
    p.open = p.written = n->kind == NODE_NUMBER;
    p.start = n->text_at.start;
    p.end = n->text_at.end;
    const bool bare = n->at.end <= n->text_at.end;
    unit_conversion(used, bare ? used : n->type.unit, &p.gain, &p.offset);
    if (bare && *used.text && !unit_same_kind(used, unit_counts)) {
        p.after = arena_print(t->arena, " %s", used.text);
    }
    p.unit = bare ? "" : n->type.unit.text;
    p.value = (n->number - p.offset) / p.gain;
    return p;
}

/* A setting that is not written goes behind the stage's word. */
static rgp_place place_missing(tree *t, const node *stage, const stage_setting *is, unit used)
{
    const uint32_t at = stage->at.start + (uint32_t)strlen(stage->stage->word);
    return (rgp_place){.start = at,
                       .end = at,
                       .before = arena_print(t->arena, " %s ", is->word),
                       .after = arena_print(t->arena, " %s,", used.text),
                       .unit = used.text,
                       .gain = 1.0,
                       .value = is->initial,
                       .open = true};
}

static void add_point_places(tree *t, const node *n, const setting_node *s, rgp_calibration *c)
{
    for (uint32_t i = 0; i < s->points; i++) {
        c->place[c->places++] = place_of(t, s->point[i].in, n->a->type.unit, false);
        c->place[c->places++] = place_of(t, s->point[i].out, n->type.unit, false);
        c->end = s->point[i].out->at.end;
    }
}

/* A range that is not written goes behind the stage's settings. */
static void add_range_places(tree *t, const node *n, uint32_t from, unit used, rgp_calibration *c)
{
    c->ranged = true;
    for (uint32_t i = 0; i < 2; i++) {
        const char *before = i == 0 ? arena_print(t->arena, ", %s ", n->stage->setting[from].word) : "..";
        c->range[i] = n->setting[from].given ? place_of(t, n->setting[from + i].value, used, false)
                                             : (rgp_place){.start = n->at.end,
                                                           .end = n->at.end,
                                                           .before = before,
                                                           .after = "",
                                                           .unit = used.text,
                                                           .gain = 1.0,
                                                           .open = true};
    }
    if (!n->setting[from].given) {
        c->range[1].after = arena_print(t->arena, " %s", used.text);
    }
}

static void add_stage_places(tree *t, const node *n, rgp_calibration *c)
{
    for (uint32_t i = 0; i < STAGE_SETTINGS_MAX && n->stage->setting[i].name; i++) {
        const stage_setting *is = &n->stage->setting[i];
        bool interval;
        const unit used = lang_setting_unit(t, n, is, &interval);
        if (is->shape == SETTING_POINTS) {
            add_point_places(t, n, &n->setting[i], c);
        } else if (is->shape == SETTING_FROM) {
            add_range_places(t, n, i, used, c);
        } else if (is->shape == SETTING_NUMBER) {
            c->place[c->places++] =
                n->setting[i].given ? place_of(t, n->setting[i].value, used, false) : place_missing(t, n, is, used);
        }
    }
}

/* ---- signals and bands ----------------------------------------------------------------------------- */

static bool describe_stage(tree *t, const search *s, const symbol *asked, rgp_calibration *c, const char **why)
{
    const node *n = s->stage;
    const unit sum = s->summed ? unit_product(&t->units, n->type.unit, unit_seconds, 1) : n->type.unit;
    *c = (rgp_calibration){.word = n->stage->word,
                           .owner = s->owner->name,
                           .line = report_line(t->report, n->at.start),
                           .sensor = head_sensor(n->a),
                           .input = flat_text(t, s->owner->value_at.start, n->at.start),
                           .input_unit = n->a->type.unit.text,
                           .unit = asked->type.unit.text,
                           .summed = s->summed};
    if (!is_balanced(c->input)) {
        *why = arena_print(t->arena, "line %u: take '%s' out of its parentheses first", c->line, c->word);
        return false;
    }
    unit_conversion(asked->type.unit, sum, &c->gain, &c->offset);
    add_stage_places(t, n, c);
    return true;
}

static rgp_place margin_place(tree *t, const symbol *s, unit used)
{
    if (s->margin) {
        return place_of(t, s->margin, used, true);
    }
    const uint32_t end = s->border[0]->at.end;
    uint32_t last = end;
    for (uint32_t i = 0; i < s->names; i++) {
        const uint32_t behind = s->name_of[i].limit ? s->name_of[i].limit->at.end : s->name_of[i].at.end;
        last = behind > last ? behind : last;
    }
    return (rgp_place){.start = last,
                       .end = last,
                       .before = "; margin ",
                       .after = arena_print(t->arena, " %s", used.text),
                       .unit = used.text,
                       .gain = 1.0,
                       .open = true};
}

static void describe_bands(tree *t, const symbol *s, rgp_calibration *c)
{
    const unit used = s->value->type.unit;
    *c = (rgp_calibration){.word = "bands",
                           .owner = s->name,
                           .line = report_line(t->report, s->at.start),
                           .sensor = head_sensor(s->value),
                           .input = flat_text(t, s->value_at.start, s->value_at.end),
                           .input_unit = used.text,
                           .unit = used.text,
                           .gain = 1.0,
                           .bands = s->names};
    for (uint32_t i = 0; i < s->names; i++) {
        c->band[i] = s->name_of[i].name;
        if (i + 1 < s->names) {
            c->place[c->places++] = place_of(t, s->border[i], used, true);
        }
    }
    c->place[c->places++] = margin_place(t, s, unit_difference(used));
}

static bool describe(tree *t, const symbol *s, rgp_calibration *c, const char **why)
{
    search found = {.t = t};
    if (s->kind == SYMBOL_BANDS) {
        describe_bands(t, s, c);
        return true;
    }
    if (s->kind == SYMBOL_SIGNAL && s->type.kind == TYPE_NUMBER) {
        if (find_stage(&found, s)) {
            return describe_stage(t, &found, s, c, why);
        }
        *why = arena_print(t->arena, "'%s' cannot be calibrated: %s", s->name, found.why);
        return false;
    }
    static const char *const kind[] = {"a parameter", "a sensor", "an actuator", "a condition", "bands"};
    *why = arena_print(t->arena, "'%s' is %s; what is calibrated is a signal made of it, or bands", s->name,
                       kind[s->kind]);
    return false;
}

/* "; these can be: depth (table), tide (bands)". */
static const char *what_could_be(tree *t)
{
    const char *list = "", *ignored;
    for (unsigned i = 0; i < t->symbols; i++) {
        const symbol *s = t->symbol[i];
        rgp_calibration c;
        if ((s->kind == SYMBOL_SIGNAL || s->kind == SYMBOL_BANDS) && describe(t, s, &c, &ignored)) {
            list = arena_print(t->arena, "%s%s%s (%s in line %u)", list, *list ? ", " : "", s->name, c.word, c.line);
        }
    }
    return *list ? arena_print(t->arena, "; these can be: %s", list) : "; nothing else in this rig can be, either";
}

bool rgp_rig_calibration(rgp_rig *rig, const char *name, rgp_calibration *found, const char **why)
{
    tree *t = rig->tree;
    if (setjmp(rig->arena->exhausted)) {
        *why = "out of memory";
        return false;
    }
    const symbol *s = tree_find(t, name);
    if (!s) {
        const char *near = tree_suggest(t, name);
        *why = arena_print(t->arena, "there is no '%s' in this rig%s%s%s", name, near ? "; " : "", near ? near : "",
                           near ? "" : what_could_be(t));
        return false;
    }
    if (describe(t, s, found, why)) {
        return true;
    }
    *why = arena_print(t->arena, "%s%s", *why, what_could_be(t));
    return false;
}

bool rgp_rig_param_place(rgp_rig *rig, const char *name, rgp_place *place)
{
    tree *t = rig->tree;
    const symbol *s = tree_find(t, name);
    const bool unwritten = s && s->loop && (s == s->loop->trim || s == s->loop->push);
    if (setjmp(rig->arena->exhausted) || !s || s->kind != SYMBOL_PARAM || unwritten) {
        return false;
    }
    *place = place_of(t, s->value, s->type.unit, false);
    if (s->loop) { /* a gain that is written bare stays so */
        place->after = "";
    }
    return place->open;
}

bool rgp_rig_least_place(rgp_rig *rig, const char *name, rgp_place *place)
{
    tree *t = rig->tree;
    const symbol *s = tree_find(t, name);
    if (setjmp(rig->arena->exhausted) || !s || s->kind != SYMBOL_ACTUATOR || s->type.kind == TYPE_NAMED) {
        return false;
    }
    const uint32_t at = s->value->at.end;
    *place = s->least_power ? place_of(t, s->least_power, s->type.unit, false)
                            : (rgp_place){.start = at,
                                          .end = at,
                                          .before = ", least ",
                                          .after = arena_print(t->arena, " %s", s->type.unit.text),
                                          .unit = s->type.unit.text,
                                          .gain = 1.0,
                                          .open = true};
    return place->open;
}

const char *rgp_rig_portion_unit(rgp_rig *rig, const char *name)
{
    const symbol *s = tree_find(rig->tree, name);
    return s && s->kind == SYMBOL_ACTUATOR && s->portion ? s->portion_unit.text : NULL;
}

/* To four digits: a portion may take a millisecond or a minute. */
static double rounded(double number)
{
    const double last = pow(10.0, floor(log10(number)) - 3.0);
    return number > 0.0 ? round(number / last) * last : 0.0;
}

/* Numbers that stand there already are replaced, one by one; else the whole setting goes behind the rest value. */
const char *rgp_edit_portion(rgp_rig *rig, const char *name, const char *unit_text, double seconds_each, double lead)
{
    tree *t = rig->tree;
    const symbol *s = tree_find(t, name);
    if (setjmp(rig->arena->exhausted) || !s || s->kind != SYMBOL_ACTUATOR) {
        return NULL;
    }
    rgp_place place[2];
    const rgp_place *const which[2] = {&place[0], &place[1]};
    if (!s->portion) {
        const uint32_t at = s->value->at.end;
        place[0] = (rgp_place){.start = at,
                               .end = at,
                               .before = arena_print(t->arena, ", gives 1 %s in ", unit_text),
                               .after = arena_print(t->arena, " ms after %g ms", round(lead * 1e3)),
                               .gain = 1e3};
        const double each = rounded(seconds_each);
        return rgp_edit_places(rig, which, &each, 1);
    }
    const uint32_t behind = s->portion_time->at.end;
    place[0] = place_of(t, s->portion_time, unit_seconds, false);
    place[1] = s->lead ? place_of(t, s->lead, unit_seconds, false)
                       : (rgp_place){.start = behind, .end = behind, .before = " after ", .after = " ms", .gain = 1e3};
    const double number[2] = {rounded(seconds_each * s->portion->number), round(lead * 1e3) / 1e3};
    return rgp_edit_places(rig, which, number, s->lead || lead > 0.0 ? 2 : 1);
}
