/* Tests and tries: what a test does, what breaks it off, what came of it. */
#include "tune.h"

#include "explain/describe.h"

#include <math.h>
#include <string.h>

static void put_disturbance(const tuning *t, uint32_t which, GString *to)
{
    const rgp_disturbance_item *d = &t->file->hookup->disturbance[which];
    g_auto(GStrv) lines = g_strsplit(t->file->source, "\n", -1);
    g_autofree char *line = g_strstrip(g_strdup(lines[d->line - 1]));
    const uint32_t sensor = rgp_image_sensor_slot(t->image, (uint32_t)MAX(d->sensor, 0));
    const char *of = d->mechanism >= 0 ? t->file->hookup->mechanism[d->mechanism].name
                     : d->sensor >= 0  ? rgp_image_text(t->image, RGP_NAME_SLOT, sensor, 0)
                                       : "clock";
    line[strcspn(line, "#")] = '\0';
    const char *from = strstr(line, of);
    g_string_append(to, g_strchomp(line) && from ? from : line);
}

char *tune_test_text(const tuning *t, const tune_try *one)
{
    GString *text = g_string_new(one->test == TUNE_STEP ? "step " : one->test == TUNE_PUSH ? "push " : "");
    if (one->test == TUNE_DISTURB) {
        put_disturbance(t, one->disturbance, text);
    } else {
        rgp_describe_number(one->size, one->test == TUNE_STEP ? t->unit : t->drive_unit, text);
    }
    return g_string_free(text, FALSE);
}

uint32_t tune_disturbances(const tuning *t)
{
    uint32_t count = 0;
    for (uint32_t i = 0; t->file->hookup && i < t->file->hookup->disturbances; i++) {
        count += t->file->hookup->disturbance[i].at_seconds > 0.0;
    }
    return count;
}

uint32_t tune_disturbance(const tuning *t, uint32_t k)
{
    uint32_t i = 0;
    for (; t->file->hookup->disturbance[i].at_seconds <= 0.0 || k > 0; i++) {
        k -= t->file->hookup->disturbance[i].at_seconds > 0.0;
    }
    return i;
}

guint tune_add(tuning *t, tune_try *one)
{
    const rgp_response_row *row = (const void *)one->rows->data;
    const rgp_response_test test = one->test == TUNE_STEP ? RGP_RESPONSE_STEP : RGP_RESPONSE_DISTURBANCE;
    if (!one->stopped &&
        !rgp_response_of(row, one->rows->len, one->before, test, one->size, t->band, t->tolerance, &one->response)) {
        one->stopped = g_strdup("there were too few ticks to judge it");
    }
    tune_diagnose(t, one);
    g_array_append_val(t->tries, *one);
    return t->tries->len;
}

char *tune_breaks_off(const tuning *t, const rgp_event *event)
{
    const rgp_image_claim *claim = rgp_image_at(t->image, RGP_SECTION_CLAIMS);
    const rgp_image_guard *guard = rgp_image_at(t->image, RGP_SECTION_GUARDS);
    const bool cut = event->kind == RGP_EVENT_TRIPPED && event->source == t->loop;
    const bool guarded = event->kind == RGP_EVENT_GUARD && !event->reason &&
                         guard[event->source].actuator == claim[t->is->claim].actuator;
    if (cut) {
        return g_strdup_printf("the loop cut out: %s", rgp_trip_text(event->reason));
    }
    if (guarded || event->kind == RGP_EVENT_FAULT || event->kind == RGP_EVENT_STOPPED ||
        event->kind == RGP_EVENT_STALLED || event->kind == RGP_EVENT_LOST) {
        return g_strdup_printf("line %u: %s", rgp_event_line(t->image, event), rgp_event_subject(t->image, event));
    }
    return NULL;
}
