/* Units: looked up with prefixes and powers, multiplied, converted, described. */
#include "units.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define POWER_MAX 9
#define BARE(...) __VA_ARGS__

typedef struct unit_entry {
    const char *word, *other, *quantity;
    int8_t power[UNIT_POWERS];
    double scale, offset;
    bool prefixes, point;
    const char *help;
} unit_entry;

#define PREFIXED_true  "; also with n, u (or µ), m, c, k or M before it"
#define PREFIXED_false ""

static const unit_entry table[] = {
#define UNIT(id, word, other, quantity, powers, scale, prefixes, help) \
    {word, other, quantity, BARE powers, scale, 0.0, prefixes, false, help PREFIXED_##prefixes},
#define POINT(id, word, other, quantity, powers, scale, offset, help) \
    {word, other, quantity, BARE powers, scale, offset, false, true, help},
#include "units.def"
#undef UNIT
#undef POINT
};

#define ENTRIES (sizeof table / sizeof *table)

static const struct prefix {
    const char *text;
    double scale;
} prefixes[] = {{"m", 1e-3}, {"c", 1e-2}, {"u", 1e-6}, {"µ", 1e-6}, {"μ", 1e-6}, {"n", 1e-9}, {"k", 1e3}, {"M", 1e6}};

#define PREFIXES (sizeof prefixes / sizeof *prefixes)

const unit unit_none = {.text = "", .scale = 1.0};
const unit unit_seconds = {.text = "s", .power = {0, 1}, .scale = 1.0};
const unit unit_percent = {.text = "%", .power = {0, 0, 0, 0, 0, 0, 1}, .scale = 1.0};
const unit unit_counts = {.text = "counts", .power = {0, 0, 0, 0, 0, 0, 0, 1}, .scale = 1.0};

static unit from_entry(const unit_entry *e, const char *text, double prefix)
{
    unit u = {.text = text, .scale = e->scale * prefix, .offset = e->offset, .point = e->point};
    memcpy(u.power, e->power, sizeof u.power);
    return u;
}

static bool same_word(const unit_entry *e, const char *word)
{
    return strcmp(e->word, word) == 0 || (e->other && strcmp(e->other, word) == 0);
}

static bool find_plain(const unit_set *set, const char *word, unit *found)
{
    for (uint32_t i = 0; set && i < set->count; i++) {
        if (strcmp(set->declared[i].name, word) == 0) {
            *found = set->declared[i].is;
            return true;
        }
    }
    for (uint32_t i = 0; i < ENTRIES; i++) {
        if (same_word(&table[i], word)) {
            *found = from_entry(&table[i], table[i].word, 1.0);
            return true;
        }
    }
    for (uint32_t p = 0; p < PREFIXES; p++) {
        const size_t length = strlen(prefixes[p].text);
        for (uint32_t i = 0; strncmp(word, prefixes[p].text, length) == 0 && i < ENTRIES; i++) {
            if (table[i].prefixes && same_word(&table[i], word + length)) {
                *found = from_entry(&table[i], word, prefixes[p].scale);
                return true;
            }
        }
    }
    return false;
}

static bool raise(unit *u, int power)
{
    unit raised = {.scale = pow(u->scale, power), .text = u->text};
    if (u->point || power < 1 || power > POWER_MAX) {
        return false;
    }
    for (uint32_t i = 0; i < UNIT_POWERS; i++) {
        raised.power[i] = (int8_t)(u->power[i] * power);
    }
    *u = raised;
    return true;
}

unit unit_by_id(unit_id id)
{
    const bool by_itself = id > UNIT_NONE && id < UNIT_IN;
    return by_itself ? from_entry(&table[id - UNIT_NONE - 1], table[id - UNIT_NONE - 1].word, 1.0) : unit_none;
}

const char *unit_told(unit_id id)
{
    static const char *const depends[] = {
        [UNIT_IN] = "the input's unit",
        [UNIT_IN_INTERVAL] = "the input's unit, a difference",
        [UNIT_IN_PER_SECOND] = "the input's unit a second",
        [UNIT_OUT] = "the output's unit",
        [UNIT_OUT_INTERVAL] = "the output's unit, a difference",
        [UNIT_GAIN] = "the output's unit by the input's",
        [UNIT_GAIN_PER_SECOND] = "the output's unit by the input's, a second",
        [UNIT_GAIN_TIMES_SECOND] = "the output's unit by the input's, times s",
        [UNIT_PROCESS_GAIN] = "the input's unit by the output's",
        [UNIT_ANY] = "any unit",
    };
    return id < sizeof depends / sizeof *depends && depends[id] ? depends[id] : unit_by_id(id).text;
}

bool unit_find(const unit_set *set, const char *word, unit *found)
{
    if (find_plain(set, word, found)) {
        return true;
    }
    char stem[64];
    const size_t length = strlen(word);
    if (length < 2 || length >= sizeof stem || word[length - 1] < '2' || word[length - 1] > '9') {
        return false;
    }
    snprintf(stem, sizeof stem, "%.*s", (int)(length - 1), word);
    if (!find_plain(set, stem, found) || !raise(found, word[length - 1] - '0')) {
        return false;
    }
    found->text = word;
    return true;
}

bool unit_find_text(const unit_set *set, const char *text, unit *found)
{
    *found = unit_none;
    int sign = strncmp(text, "1/", 2) == 0 ? -1 : 1;
    text += sign < 0 ? 2 : 0;
    while (*text) {
        char word[64];
        const size_t length = strcspn(text, "/*");
        if (length == 0 || length >= sizeof word) {
            return false;
        }
        snprintf(word, sizeof word, "%.*s", (int)length, text);
        unit part;
        if (!unit_find(set, word, &part)) {
            return false;
        }
        part.text = set->arena ? arena_copy(set->arena, word, length) : part.text;
        *found = sign > 0 && unit_is_bare(*found) ? part : unit_product(set, *found, part, sign);
        text += length;
        sign = *text == '/' ? -1 : 1;
        text += *text != '\0';
    }
    return true;
}

bool unit_same_kind(unit a, unit b)
{
    return memcmp(a.power, b.power, sizeof a.power) == 0;
}

bool unit_is_bare(unit u)
{
    return unit_same_kind(u, unit_none);
}

static bool same_scale(double a, double b)
{
    return fabs(a - b) <= 1e-9 * fabs(b);
}

static const char *known_text(const unit_set *set, unit u)
{
    for (uint32_t i = 0; i < set->count; i++) {
        if (unit_same_kind(set->declared[i].is, u) && same_scale(set->declared[i].is.scale, u.scale)) {
            return set->declared[i].name;
        }
    }
    for (uint32_t i = 0; i < ENTRIES; i++) {
        if (table[i].point || memcmp(table[i].power, u.power, sizeof u.power) != 0) {
            continue;
        }
        if (same_scale(table[i].scale, u.scale)) {
            return table[i].word;
        }
        for (uint32_t p = 0; table[i].prefixes && p < PREFIXES; p++) {
            if (same_scale(table[i].scale * prefixes[p].scale, u.scale)) {
                return set->arena ? arena_print(set->arena, "%s%s", prefixes[p].text, table[i].word) : NULL;
            }
        }
    }
    return NULL;
}

unit unit_product(const unit_set *set, unit a, unit b, int sign)
{
    unit u = {.scale = sign > 0 ? a.scale * b.scale : a.scale / b.scale};
    for (uint32_t i = 0; i < UNIT_POWERS; i++) {
        u.power[i] = (int8_t)(a.power[i] + sign * b.power[i]);
    }
    if (unit_is_bare(b) && same_scale(b.scale, 1.0)) {
        u.text = a.text;
        return u;
    }
    u.text = unit_is_bare(u) ? "" : known_text(set, u);
    if (!u.text && set->arena) {
        u.text = *a.text ? arena_print(set->arena, "%s%c%s", a.text, sign > 0 ? '*' : '/', b.text)
                         : arena_print(set->arena, "%s%s", sign > 0 ? "" : "1/", b.text);
    } else if (!u.text) {
        u.text = "?";
    }
    return u;
}

/* "m/s2" of "m/s2*m/s2"; NULL: its halves are not the same. */
static const char *half_of(rgp_arena *arena, const char *text)
{
    const size_t half = strlen(text) / 2;
    const bool same = strlen(text) % 2 == 1 && text[half] == '*' && strncmp(text, text + half + 1, half) == 0;
    return same && arena ? arena_print(arena, "%.*s", (int)half, text) : NULL;
}

bool unit_root(const unit_set *set, unit u, unit *root)
{
    *root = (unit){.scale = sqrt(u.scale)};
    for (uint32_t i = 0; i < UNIT_POWERS; i++) {
        if (u.power[i] % 2 != 0) {
            return false;
        }
        root->power[i] = (int8_t)(u.power[i] / 2);
    }
    root->text = unit_is_bare(u) ? "" : known_text(set, *root);
    root->text = root->text ? root->text : half_of(set->arena, u.text);
    if (!root->text) {
        root->text = set->arena ? arena_print(set->arena, "sqrt(%s)", u.text) : "?";
    }
    return true;
}

unit unit_difference(unit u)
{
    if (u.point) {
        u.point = false;
        u.offset = 0.0;
        u.text = same_scale(u.scale, 1.0) ? "K" : "degR";
    }
    return u;
}

void unit_conversion(unit from, unit to, double *gain, double *offset)
{
    *gain = from.scale / to.scale;
    *offset = from.point && to.point ? (from.offset - to.offset) / to.scale : 0.0;
}

double unit_convert(double number, unit from, unit to)
{
    /* Powers of ten in the ratio are exact as divisors where they are not as factors: 3 mm is 0.3 cm. */
    const double inverse = to.scale / from.scale, whole = round(inverse);
    if (!(from.point && to.point) && whole >= 1.0 && same_scale(inverse, whole)) {
        return number / whole;
    }
    double gain, offset;
    unit_conversion(from, to, &gain, &offset);
    if (gain > 1.0 && same_scale(gain, round(gain))) {
        gain = round(gain);
    }
    return number * gain + offset;
}

const char *unit_describe(const unit_set *set, unit u)
{
    if (unit_is_bare(u)) {
        return "a bare number";
    }
    for (uint32_t i = 0; i < ENTRIES; i++) {
        if (table[i].point == u.point && memcmp(table[i].power, u.power, sizeof u.power) == 0) {
            const char *article = strchr("aeiou", table[i].quantity[0]) ? "an" : "a";
            return arena_print(set->arena, "%s (%s %s)", u.text, article, table[i].quantity);
        }
    }
    return u.text;
}

const char *unit_word(const unit_set *set, uint32_t index)
{
    if (index < ENTRIES) {
        return table[index].word;
    }
    return index - ENTRIES < set->count ? set->declared[index - ENTRIES].name : NULL;
}

bool unit_row(uint32_t index, rgp_word *word)
{
    if (index >= ENTRIES) {
        return false;
    }
    const unit_entry *e = &table[index];
    *word = (rgp_word){"unit", e->word, e->other ? e->other : "", e->help, e->quantity, NULL, NULL};
    return true;
}

bool rgp_quantity_parse(const char *text, const char *unit_text, double *value, const char **why)
{
    const unit_set set = {0};
    unit wanted, given = unit_none;
    char *end;
    *why = "this is not a number with a unit, such as '3 cm'";
    const double number = strtod(text, &end);
    if (end == text || !isfinite(number)) {
        return false;
    }
    while (*end == ' ') {
        end++;
    }
    if (*end && strcmp(end, unit_text) == 0) { /* also a unit of the rig's own */
        *value = number;
        return true;
    }
    if (!unit_find_text(&set, unit_text, &wanted) || !unit_find_text(&set, end, &given)) {
        *why = "this unit is not known";
        return false;
    }
    const bool bare = *end == '\0' && (unit_is_bare(wanted) || unit_same_kind(wanted, unit_counts));
    if (!bare && !unit_same_kind(wanted, given)) {
        *why = *end == '\0' ? "it needs a unit" : "the units do not go together";
        return false;
    }
    if (!bare && given.point && !wanted.point) {
        *why = "this is a point on a scale, and a difference is wanted";
        return false;
    }
    *value = bare ? number : unit_convert(number, given, wanted);
    return true;
}
