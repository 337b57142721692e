/* Limits in conditions of rules and between bands: where they stand, and what can stand beside them. */
#include "place.h"

#include <math.h>
#include <string.h>

typedef struct search {
    rgp_rig *rig;
    const char *name;
    const rule *rule; /* that is looked through */
    rgp_threshold *to;
    uint32_t count;
} search;

static bool is_name(const node *n, const char *name)
{
    return n && n->kind == NODE_NAME && n->symbol && strcmp(n->text, name) == 0;
}

/* A time in a rule is used in seconds. */
static rgp_place missing(rgp_rig *rig, uint32_t at, const char *before, const char *written)
{
    return (rgp_place){.start = at,
                       .end = at,
                       .before = before,
                       .after = *written ? arena_print(rig->arena, " %s", written) : "",
                       .unit = written,
                       .gain = 1.0,
                       .open = true};
}

/* A time is put in as milliseconds. */
static rgp_place missing_time(rgp_rig *rig, uint32_t at, const char *before)
{
    rgp_place p = missing(rig, at, before, "ms");
    p.gain = 1000.0;
    return p;
}

/* A line of its own below the rule's last action, as far indented as that. */
static rgp_place holdoff_of(rgp_rig *rig, const rule *r)
{
    tree *t = rig->tree;
    if (r->holdoff) {
        return place_of(t, r->holdoff, unit_seconds, true);
    }
    if (r->actions == 0) {
        return (rgp_place){.before = "", .after = "", .unit = ""};
    }
    const uint32_t at = r->action[r->actions - 1].at.start;
    const size_t rest = strcspn(rig->source + at, "\r\n");
    uint32_t indent = 0;
    while (indent < at && strchr(" \t", rig->source[at - indent - 1])) {
        indent++;
    }
    const char *end = strstr(rig->source, "\r\n") ? "\r\n" : "\n";
    return missing_time(rig, at + (uint32_t)rest,
                        arena_print(rig->arena, "%s%.*sholdoff ", end, (int)indent, rig->source + at - indent));
}

/* "goes above": the word before the side. */
static void find_goes(const rgp_rig *rig, const node *edge, rgp_threshold *to)
{
    static const char word[] = "goes";
    const node *limit = edge->a;
    uint32_t at = limit->a->at.end;
    while (at + sizeof word < limit->b->at.start && strncmp(rig->source + at, word, sizeof word - 1) != 0) {
        at++;
    }
    to->goes_start = at;
    to->goes_end = at + (uint32_t)(sizeof word - 1);
    to->goes_end += (uint32_t)strspn(rig->source + to->goes_end, " \t");
}

static void limit_range(const node *limit, unit used, rgp_threshold *to)
{
    const symbol *s = limit->kind == NODE_NAME ? limit->symbol : NULL;
    to->low = s ? unit_convert(s->least, s->type.unit, used) : -(double)INFINITY;
    to->high = s ? unit_convert(s->greatest, s->type.unit, used) : (double)INFINITY;
}

static const char *source_of(rgp_rig *rig, const node *n)
{
    uint32_t start = n->at.start;
    for (const node *first = n->a; first; first = first->a) {
        start = first->at.start < start ? first->at.start : start;
    }
    return arena_print(rig->arena, "%.*s", (int)(n->at.end - start), rig->source + start);
}

static uint32_t line_of(const rgp_rig *rig, uint32_t at)
{
    uint32_t line = 1;
    for (uint32_t i = 0; i < at; i++) {
        line += rig->source[i] == '\n';
    }
    return line;
}

/* `lasts`: around it, or NULL; `edge` likewise. */
static void add_compare(search *s, const node *n, const node *lasts, const node *edge)
{
    tree *t = s->rig->tree;
    const unit used = n->a->type.unit;
    rgp_threshold *to = &s->to[s->count];
    const uint32_t end = n->c ? n->c->at.end : n->b->at.end;
    *to =
        (rgp_threshold){.value = source_of(s->rig, n->a),
                        .unit = used.text,
                        .line = line_of(s->rig, s->rule->at.start),
                        .above = strcmp(n->text, "above") == 0,
                        .limit = place_of(t, n->b, used, true),
                        .margin = n->c ? place_of(t, n->c, unit_difference(used), true)
                                       : missing(s->rig, end, ", margin ", unit_difference(used).text),
                        .width = lasts ? place_of(t, lasts->b, unit_seconds, true) : missing_time(s->rig, end, " for "),
                        .holdoff = holdoff_of(s->rig, s->rule)};
    to->what = arena_print(s->rig->arena, "line %u", to->line);
    limit_range(n->b, used, to);
    if (edge) {
        find_goes(s->rig, edge, to);
    }
    s->count += to->limit.open;
}

static bool is_asked(const search *s, const node *compare)
{
    uint32_t line = 0;
    for (const char *c = s->name; *c >= '0' && *c <= '9' && line < 1000000u; c++) {
        line = 10 * line + (uint32_t)(*c - '0');
    }
    return line > 0 ? line == line_of(s->rig, s->rule->at.start)
                    : is_name(compare->a, s->name) || is_name(compare->b, s->name);
}

/* A comparison of two computed values has been made a difference, and holds no limit that is written. */
static void search_condition(search *s, const node *n, const node *lasts, const node *edge)
{
    if (!n || s->count == RGP_THRESHOLDS_MAX) {
        return;
    }
    switch (n->kind) {
    case NODE_COMPARE:
        if (n->b->at.start > n->a->at.start && is_asked(s, n)) {
            add_compare(s, n, lasts, edge);
        }
        break;
    case NODE_JOIN:
        search_condition(s, n->a, NULL, NULL);
        search_condition(s, n->b, NULL, NULL);
        break;
    case NODE_LASTS:
        search_condition(s, n->a, n, NULL);
        break;
    case NODE_EDGE:
        search_condition(s, n->a, NULL, n->a->kind == NODE_COMPARE ? n : NULL);
        break;
    default:
        break;
    }
}

static void search_bands(search *s, const symbol *b)
{
    tree *t = s->rig->tree;
    const unit used = b->value->type.unit;
    const uint32_t end =
        b->name_of[b->names - 1].limit ? b->name_of[b->names - 1].limit->at.end : b->name_of[b->names - 1].at.end;
    for (uint32_t i = 0; i + 1 < b->names && s->count < RGP_THRESHOLDS_MAX; i++) {
        const bool above = b->above >> i & 1u;
        const char *band = b->name_of[above ? i + 1 : i].name;
        if (!b->border[i] ||
            !(is_name(b->value, s->name) || is_name(b->border[i], s->name) || strcmp(band, s->name) == 0)) {
            continue;
        }
        rgp_threshold *to = &s->to[s->count];
        const rgp_place none = {.before = "", .after = "", .unit = ""};
        *to = (rgp_threshold){.value = source_of(s->rig, b->value),
                              .unit = used.text,
                              .line = line_of(s->rig, b->at.start),
                              .above = above,
                              .limit = place_of(t, b->border[i], used, true),
                              .margin = b->margin ? place_of(t, b->margin, unit_difference(used), true)
                                                  : missing(s->rig, end, "; margin ", unit_difference(used).text),
                              .width = none,
                              .holdoff = none};
        to->what = arena_print(s->rig->arena, "the border of %s in line %u", band, to->line);
        limit_range(b->border[i], used, to);
        s->count += to->limit.open;
    }
}

uint32_t rgp_rig_thresholds(rgp_rig *rig, const char *name, rgp_threshold to[RGP_THRESHOLDS_MAX])
{
    const tree *t = rig->tree;
    search s = {.rig = rig, .name = name, .to = to};
    if (setjmp(rig->arena->exhausted)) {
        return 0;
    }
    for (unsigned i = 0; i < t->symbols; i++) {
        if (t->symbol[i]->kind == SYMBOL_BANDS) {
            search_bands(&s, t->symbol[i]);
        }
    }
    for (unsigned i = 0; i < t->rules; i++) {
        s.rule = &t->rule[i];
        search_condition(&s, s.rule->trigger, NULL, NULL);
    }
    return s.count;
}

bool rgp_rig_threshold_template(rgp_rig *rig, const char *name, rgp_threshold *to)
{
    const symbol *s = tree_find(rig->tree, name);
    const rgp_place none = {.before = "", .after = "", .unit = ""};
    if (setjmp(rig->arena->exhausted) || !s || s->type.kind != TYPE_NUMBER || s->kind == SYMBOL_PARAM) {
        return false;
    }
    *to = (rgp_threshold){.value = s->name,
                          .unit = s->type.unit.text,
                          .what = "",
                          .above = true,
                          .low = -(double)INFINITY,
                          .high = (double)INFINITY,
                          .limit = none,
                          .margin = none,
                          .width = none,
                          .holdoff = none};
    to->margin.unit = unit_difference(s->type.unit).text;
    return true;
}
