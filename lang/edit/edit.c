/* New numbers, points and lines in a rig file's text; every other byte stays. */
#include "rigpulse/edit.h"

#include "place.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#define WIDTH_MOST    100u
#define POINT_INDENT  8u
#define NUMBER_FORMAT "%.9g"
#define SAME          1e-9 /* relative; numbers that differ by less are not written anew */

typedef struct change {
    uint32_t start, end;
    uint32_t order; /* among those in one place */
    const char *text;
} change;

static int by_place(const void *a, const void *b)
{
    const change *x = a, *y = b;
    if (x->start != y->start) {
        return x->start < y->start ? -1 : 1;
    }
    return x->end != y->end ? (x->end > y->end ? 1 : -1) : (x->order > y->order) - (x->order < y->order);
}

/* The changes must not overlap. */
static const char *apply(rgp_rig *rig, change *c, uint32_t count)
{
    size_t length = rig->length;
    for (uint32_t i = 0; i < count; i++) {
        c[i].order = i;
    }
    qsort(c, count, sizeof *c, by_place);
    for (uint32_t i = 0; i < count; i++) {
        length += strlen(c[i].text);
    }
    char *made = arena_get(rig->arena, length + 1), *to = made;
    uint32_t from = 0;
    for (uint32_t i = 0; i < count; i++) {
        memcpy(to, rig->source + from, c[i].start - from);
        to += c[i].start - from;
        memcpy(to, c[i].text, strlen(c[i].text));
        to += strlen(c[i].text);
        from = c[i].end;
    }
    memcpy(to, rig->source + from, rig->length - from);
    return made;
}

static const char *line_end(const rgp_rig *rig)
{
    return strstr(rig->source, "\r\n") ? "\r\n" : "\n";
}

/* ---- numbers --------------------------------------------------------------------------------------- */

static bool is_same(double a, double b)
{
    return fabs(a - b) <= SAME * fmax(fabs(a), fabs(b));
}

static change number_change(rgp_rig *rig, const rgp_place *p, double number)
{
    const double written = number * p->gain + p->offset;
    if (p->written && is_same(number, p->value)) {
        return (change){.start = p->end, .end = p->end, .text = ""};
    }
    return (change){.start = p->start,
                    .end = p->end,
                    .text = arena_print(rig->arena, "%s" NUMBER_FORMAT "%s", p->before, written, p->after)};
}

const char *rgp_edit_places(rgp_rig *rig, const rgp_place *const *place, const double *number, uint32_t count)
{
    if (setjmp(rig->arena->exhausted)) {
        return NULL;
    }
    change *c = arena_get(rig->arena, (count + 1) * sizeof *c);
    for (uint32_t i = 0; i < count; i++) {
        c[i] = number_change(rig, place[i], number[i]);
    }
    return apply(rig, c, count);
}

/* ---- thresholds ------------------------------------------------------------------------------------ */

/* A number that is 0 and stands nowhere stays unwritten. */
static change optional(rgp_rig *rig, const rgp_place *p, double number)
{
    return p->open && (p->written || number > 0.0) ? number_change(rig, p, number)
                                                   : (change){.start = p->end, .end = p->end, .text = ""};
}

const char *rgp_edit_threshold(rgp_rig *rig, const rgp_threshold *t, const rgp_threshold_numbers *to)
{
    if (setjmp(rig->arena->exhausted)) {
        return NULL;
    }
    const bool lasts = t->width.open && to->width_s > 0.0;
    change c[] = {number_change(rig, &t->limit, to->limit),
                  optional(rig, &t->margin, to->margin),
                  optional(rig, &t->width, to->width_s),
                  optional(rig, &t->holdoff, to->holdoff_s),
                  {.start = t->goes_start, .end = lasts ? t->goes_end : t->goes_start, .text = ""}};
    return apply(rig, c, sizeof c / sizeof *c);
}

/* ---- points of a table ----------------------------------------------------------------------------- */

static uint32_t column_of(const rgp_rig *rig, uint32_t at)
{
    uint32_t column = 0;
    while (column < at && rig->source[at - column - 1] != '\n') {
        column++;
    }
    return column;
}

static const char *with_unit(rgp_rig *rig, const rgp_place *like, double number)
{
    return arena_print(rig->arena, NUMBER_FORMAT "%s%s", number * like->gain + like->offset, *like->unit ? " " : "",
                       like->unit);
}

/* More points go behind the last one, written as it is, on lines that do not become too long. */
static change more_points(rgp_rig *rig, const rgp_calibration *t, const double *in, const double *out, uint32_t from,
                          uint32_t count)
{
    const rgp_place *like_in = &t->place[t->places - 2], *like_out = &t->place[t->places - 1];
    uint32_t column = column_of(rig, t->end);
    const char *text = "";
    for (uint32_t i = from; i < count; i++) {
        const char *point =
            arena_print(rig->arena, "%s: %s", with_unit(rig, like_in, in[i]), with_unit(rig, like_out, out[i]));
        const uint32_t width = (uint32_t)strlen(point) + 2;
        const bool breaks = column + width > WIDTH_MOST;
        text = breaks ? arena_print(rig->arena, "%s,%s%*s%s", text, line_end(rig), (int)POINT_INDENT, "", point)
                      : arena_print(rig->arena, "%s, %s", text, point);
        column = breaks ? POINT_INDENT + width : column + width;
    }
    return (change){.start = t->end, .end = t->end, .text = text};
}

/* Points that are too many go; comments between them stay. */
static change fewer_points(rgp_rig *rig, const rgp_calibration *t, uint32_t count)
{
    const rgp_place *last = &t->place[2 * count - 1];
    uint32_t start = last->end;
    const char *unit_end = strpbrk(rig->source + start, ",#\n");
    start = unit_end ? (uint32_t)(unit_end - rig->source) : start;
    char *kept = arena_get(rig->arena, t->end - start + 1);
    size_t length = 0;
    bool comment = false, any = false;
    for (uint32_t i = start; i < t->end; i++) {
        const char c = rig->source[i];
        comment = (comment || c == '#') && c != '\n';
        any |= comment;
        if (comment || strchr(" \t\r\n", c)) {
            kept[length++] = c;
        }
    }
    kept[any ? length : 0] = '\0';
    return (change){.start = start, .end = t->end, .text = kept};
}

const char *rgp_edit_points(rgp_rig *rig, const rgp_calibration *t, const double *in, const double *out, uint32_t count)
{
    if (setjmp(rig->arena->exhausted)) {
        return NULL;
    }
    const uint32_t old = t->places / 2, both = old < count ? old : count;
    const bool falling = t->place[0].value > t->place[t->places - 2].value;
    double *x = arena_get(rig->arena, count * sizeof *x), *y = arena_get(rig->arena, count * sizeof *y);
    change *c = arena_get(rig->arena, (2 * count + 1) * sizeof *c);
    uint32_t changes = 0;
    for (uint32_t i = 0; i < count; i++) {
        x[i] = in[falling ? count - 1 - i : i];
        y[i] = out[falling ? count - 1 - i : i];
    }
    for (uint32_t i = 0; i < both; i++) {
        c[changes++] = number_change(rig, &t->place[2 * i], x[i]);
        c[changes++] = number_change(rig, &t->place[2 * i + 1], y[i]);
    }
    if (count > old) {
        c[changes++] = more_points(rig, t, x, y, old, count);
    } else if (count < old) {
        c[changes++] = fewer_points(rig, t, count);
    }
    return apply(rig, c, changes);
}

/* ---- lines ----------------------------------------------------------------------------------------- */

static statement_id id_of(const char *text)
{
    statement_id id = STATEMENT_RIG;
    while (id < STATEMENTS && strncmp(text, statement_words[id].word, strlen(statement_words[id].word)) != 0) {
        id++;
    }
    return id;
}

static statement_role role_of(const char *text)
{
    const statement_id id = id_of(text);
    return id < STATEMENTS ? statement_words[id].role : ROLES;
}

/* The last statement of the sorts up to `id`. */
static const statement_at *statement_before(const tree *t, statement_id id)
{
    const statement_at *before = NULL;
    for (unsigned i = 0; i < t->statements; i++) {
        if (t->statement[i].id <= id) {
            before = &t->statement[i];
        }
    }
    return before;
}

/* The new line with its '=' below that of the line before it. */
static const char *aligned(rgp_rig *rig, const statement_at *before, const char *text)
{
    const char *equals = strchr(text, '=');
    if (statement_words[before->id].role == ROLE_DECLARES || !equals) {
        return text;
    }
    const size_t word = strcspn(text, " ");
    const char *name = text + word + strspn(text + word, " ");
    size_t name_length = (size_t)(equals - name);
    while (name_length > 0 && name[name_length - 1] == ' ') {
        name_length--;
    }
    const char *above = strpbrk(rig->source + before->at.start, "=\n");
    const uint32_t wanted = above && *above == '=' ? column_of(rig, (uint32_t)(above - rig->source)) : 0;
    const uint32_t indent = (uint32_t)strlen("signal ");
    const uint32_t width = wanted > indent + 1 ? wanted - indent - 1 : 0;
    return arena_print(rig->arena, "%-*.*s%-*.*s %s", (int)indent, (int)word, text, (int)width, (int)name_length, name,
                       equals);
}

const char *edit_add(rgp_rig *rig, const char *text)
{
    const statement_id id = id_of(text);
    const statement_at *before = statement_before(rig->tree, id);
    const char *break_at = strchr(rig->source + before->at.end, '\n');
    const uint32_t at = break_at ? (uint32_t)(break_at + 1 - rig->source) : (uint32_t)rig->length;
    const char *end = line_end(rig), *next = rig->source + at;
    const bool first_of_sort =
        statement_words[before->id].role == ROLE_DECLARES && statement_words[id].role != ROLE_DECLARES;
    const bool close = !*next || strchr(" \t\r\n", *next) || role_of(next) == ROLE_COMPUTES;
    change c = {.start = at,
                .end = at,
                .text = arena_print(rig->arena, "%s%s%s%s%s", break_at ? "" : end, first_of_sort ? end : "",
                                    aligned(rig, before, text), end, close ? "" : end)};
    return apply(rig, &c, 1);
}

const char *rgp_edit_add(rgp_rig *rig, const char *statement)
{
    return setjmp(rig->arena->exhausted) ? NULL : edit_add(rig, statement);
}
