/* The name of a slot, its value in words, and its past. */
#include "why_parts.h"

#include <math.h>
#include <string.h>

#define TEXT_MOST    72u /* bytes of a rig's text that are quoted */
#define SENSORS_MOST 4u  /* of one value that are told of */
#define DEEP_MOST    64u

rgp_reading why_read(const rgp_why *w, uint16_t ref)
{
    const float *constant = rgp_image_at(why_image(w), RGP_SECTION_CONSTANTS);
    return ref & RGP_REF_CONSTANT ? rgp_good(constant[ref & ~RGP_REF_CONSTANT]) : rgp_engine_value(w->engine, ref);
}

const char *why_unit(const rgp_why *w, uint16_t slot)
{
    if (slot & RGP_REF_CONSTANT) {
        return "";
    }
    return why_is_named(w, slot)                         ? rgp_image_unit(why_image(w), RGP_NAME_SLOT, slot, 0)
           : w->rig->origin && w->rig->origin[slot].unit ? w->rig->origin[slot].unit
                                                         : "";
}

/* Runs of blanks, and what cannot be printed, become one blank; what is long is cut. */
static char *quote(const char *text, uint32_t length)
{
    g_autofree char *copy = g_strndup(text, length);
    g_auto(GStrv) word = NULL;
    rgp_make_printable(copy, false);
    word = g_strsplit_set(g_strstrip(copy), " \t", -1);
    GString *to = g_string_new(NULL);
    for (char **one = word; *one; one++) {
        g_string_append_printf(to, "%s%s", to->len > 0 && **one ? " " : "", *one);
    }
    if (to->len > TEXT_MOST) {
        const char *end = g_utf8_find_prev_char(to->str, to->str + TEXT_MOST);
        g_string_truncate(to, end ? (gsize)(end - to->str) : TEXT_MOST);
        g_string_append(to, "...");
    }
    return g_string_free(to, FALSE);
}

/* Parentheses around a part of an expression are none of its own: they are quoted where the other one is. */
static void close_parentheses(const char *source, size_t length, size_t *start, size_t *end)
{
    int open = 0, missing = 0;
    for (size_t i = *start; i < *end; i++) {
        open += source[i] == '(';
        if (source[i] == ')' && open-- == 0) {
            open = 0;
            missing++;
        }
    }
    while (missing > 0 && *start > 0) {
        missing -= source[--*start] == '(';
    }
    while (open > 0 && *end < length) {
        open -= source[(*end)++] == ')';
    }
}

char *rgp_why_text(const rgp_why *w, uint16_t slot)
{
    const rgp_origin *from = w->rig->origin ? &w->rig->origin[slot] : NULL;
    if (!from || from->length == 0) {
        return g_strdup("");
    }
    size_t start = from->start, end = from->start + from->length;
    close_parentheses(w->rig->source, w->rig->length, &start, &end);
    return quote(w->rig->source + start, (uint32_t)(end - start));
}

char *why_subject(const rgp_why *w, uint16_t slot)
{
    if (slot & RGP_REF_CONSTANT) {
        return g_strdup("a number");
    }
    if (why_is_named(w, slot)) {
        return g_strdup(rgp_image_text(why_image(w), RGP_NAME_SLOT, slot, 0));
    }
    char *text = rgp_why_text(w, slot);
    if (!*text) {
        g_free(text);
        text = g_strdup("it");
    }
    return text;
}

void why_put_value(const rgp_why *w, uint16_t slot, GString *to)
{
    const rgp_reading is = why_read(w, slot);
    if (!rgp_usable(is.quality)) {
        g_string_append(to, rgp_quality_text(is.quality));
    } else if (why_is_named(w, slot)) {
        rgp_describe_value(why_image(w), slot, is.value, to);
    } else {
        rgp_describe_number((double)is.value, why_unit(w, slot), to);
    }
    if (is.quality == RGP_HELD) {
        g_string_append(to, " (held)");
    }
}

void why_put_setting(const rgp_why *w, const rgp_decoded *step, size_t offset, const char *unit, GString *to)
{
    int32_t param;
    const float is = rgp_disassembly_setting(why_image(w), step, (uint32_t)offset, w->engine->value, &param);
    if (param >= 0) {
        g_string_append_printf(to, "%s ", rgp_image_text(why_image(w), RGP_NAME_SLOT, (uint32_t)param, 0));
    }
    rgp_describe_number((double)is, unit, to);
}

void why_put_seconds(double seconds, GString *to)
{
    rgp_describe_number(seconds, "s", to);
}

rgp_reason *why_truth(const rgp_why *w, uint16_t slot, const char *text)
{
    const rgp_trace_slot *past = &w->trace->slot[slot];
    const rgp_holds holds = why_holds(why_read(w, slot));
    rgp_reason *r = rgp_reason_new(holds, "%s", text);
    if (holds == RGP_HOLDS_NO) {
        r->last_us = past->true_us;
    } else {
        r->since_us = past->since_us;
    }
    return r;
}

/* ---- where a value comes from ---------------------------------------------------------------------- */

typedef struct sources {
    const rgp_why *w;
    uint32_t sensor[SENSORS_MOST];
    uint32_t count;
    bool more;
} sources;

static void add_source(sources *to, uint32_t sensor)
{
    for (uint32_t i = 0; i < to->count; i++) {
        if (to->sensor[i] == sensor) {
            return;
        }
    }
    if (to->count < SENSORS_MOST) {
        to->sensor[to->count++] = sensor;
    } else {
        to->more = true;
    }
}

static void find_sources(sources *to, uint16_t slot, uint32_t depth)
{
    const rgp_image_header *image = why_image(to->w);
    const uint32_t first = rgp_image_sensor_slot(image, 0), sensors = rgp_image_count(image, RGP_SECTION_SENSORS);
    const rgp_decoded *step = why_step(to->w, slot);
    if (slot & RGP_REF_CONSTANT || depth > DEEP_MOST) {
        return;
    }
    if (slot >= first && slot < first + sensors) {
        add_source(to, slot - first);
    } else if (step) {
        for (uint32_t i = 0; i < rgp_ops[step->op].inputs; i++) {
            find_sources(to, step->in[i], depth + 1);
        }
    }
}

static rgp_reason *describe_sensor(const rgp_why *w, uint32_t sensor)
{
    const uint16_t slot = (uint16_t)rgp_image_sensor_slot(why_image(w), sensor);
    const uint64_t new_us = w->trace->new_us[sensor];
    rgp_reason *r = rgp_reason_new(RGP_HOLDS_FACT, "%s reads ", rgp_image_text(why_image(w), RGP_NAME_SLOT, slot, 0));
    why_put_value(w, slot, r->says);
    if (new_us == UINT64_MAX) {
        g_string_append(r->says, ", nothing has come from it yet");
    } else if (new_us < w->frame->time_us) {
        g_string_append(r->says, ", its newest reading is ");
        why_put_seconds((double)(w->frame->time_us - new_us) / 1e6, r->says);
        g_string_append(r->says, " old");
    }
    return r;
}

void why_add_sensors(const rgp_why *w, uint16_t slot, rgp_reason *to)
{
    sources from = {.w = w};
    find_sources(&from, slot, 0);
    for (uint32_t i = 0; i < from.count; i++) {
        if (rgp_image_sensor_slot(why_image(w), from.sensor[i]) != slot) {
            rgp_reason_add(to, describe_sensor(w, from.sensor[i]));
        }
    }
    if (from.more) {
        rgp_reason_add(to, rgp_reason_new(RGP_HOLDS_FACT, "and from other sensors"));
    }
}

void why_put_rule(const rgp_why *w, uint32_t rule, GString *to)
{
    const rgp_image_name *name = rgp_image_name_of(why_image(w), RGP_NAME_RULE, rule, 0);
    const char *text = rgp_image_text(why_image(w), RGP_NAME_RULE, rule, 0);
    g_autofree char *quoted = quote(text, (uint32_t)strlen(text));
    g_string_append_printf(to, "line %u '%s'", name ? name->line : 0u, quoted);
}
